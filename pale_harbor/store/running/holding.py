"""Work that one holds at a time: an advisory lock, gone with the connection that took it."""

from collections.abc import Generator
from contextlib import contextmanager, suppress
from typing import Any

from psycopg import Connection, OperationalError


@contextmanager
def hold(connection: Connection[Any], kind: int, number: int) -> Generator[bool]:
    """Makes a piece of work this connection's own until the `with` ends; False where somebody else has it.

    kind: any number of our own, the same for all work of a kind.
    """
    row = connection.execute("select pg_try_advisory_lock(%s, %s)", [kind, number]).fetchone()
    connection.commit()
    held = row is not None and bool(row[0])
    try:
        yield held
    finally:
        if held and not connection.closed:
            # What became of the work is told, not that its lock went with a connection that broke.
            with suppress(OperationalError):
                connection.rollback()
                connection.execute("select pg_advisory_unlock(%s, %s)", [kind, number])
                connection.commit()
