"""What the database tells of its own accord: that a job has come further, or something has a new revision."""

from collections.abc import Generator
from typing import Any, Final

import orjson
import psycopg

_LISTEN: Final = "listen pale_harbor"


def notices(address: str, seconds: float) -> Generator[dict[str, Any] | None]:
    """Every notice from now on, the first None once it listens; None again where that long nothing came.

    A connection of its own, which ends with the generator. Raises OperationalError where the database goes away.
    """
    with psycopg.connect(address, autocommit=True) as connection:
        connection.execute(_LISTEN)
        yield None
        while True:
            quiet = True
            for notice in connection.notifies(timeout=seconds, stop_after=1):
                quiet = False
                yield orjson.loads(notice.payload)
            if quiet:
                yield None
