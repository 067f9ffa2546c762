"""Keeps for one server what only one may hold that changes the data, also where its database is restarted meanwhile."""

from collections.abc import Callable
from threading import Event
from types import TracebackType
from typing import Any, Final, Self

import structlog
from psycopg import Connection, OperationalError

from pale_harbor.errors import Unavailable
from pale_harbor.store.database import held_alone
from pale_harbor.work.running.background import in_background

_SECONDS_BETWEEN_LOOKS: Final = 1.0


class ServingAlone:
    """Holds it within a `with`. overtaken: called once, where another server came to hold it.

    address: of the database. Raises Unavailable where another one holds it from the start.
    """

    def __init__(self, address: str, overtaken: Callable[[], object]) -> None:
        self._address, self._overtaken = address, overtaken
        self.is_overtaken = False
        self._ended = Event()
        self._holder: Connection[Any] | None = None

    def __enter__(self) -> Self:
        self._holder = held_alone(self._address)
        in_background("serving alone", self._look_on_and_on)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._ended.set()
        if self._holder is not None:
            self._holder.close()

    def look(self) -> bool:
        """Takes it again where it was let go of with its connection; False where another server was quicker."""
        try:
            if self._holder is not None:
                self._holder.execute("select 1")
                return True
        except OperationalError:
            self._holder = None
        try:
            self._holder = held_alone(self._address, 0.0)
        except OperationalError:
            # The database is gone: nobody holds anything.
            return True
        except Unavailable:
            structlog.get_logger().error("another server works on this data now: this one ends")
            return False
        structlog.get_logger().warning("the database was restarted: what only one server may hold is held again")
        return True

    def _look_on_and_on(self) -> None:
        while not self._ended.wait(_SECONDS_BETWEEN_LOOKS):
            if not self.look():
                self.is_overtaken = True
                self._overtaken()
                return
