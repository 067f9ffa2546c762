"""Keeps what was asked at the endpoint, a little behind: in one transaction for all that was asked meanwhile.

What somebody did with a list (an event) is kept before it is answered, with the list it is of. Letters on the way to a
query are not kept: of a session that is typing only where it comes to rest.
"""

from collections.abc import Callable
from dataclasses import replace
from threading import Condition
from time import monotonic
from typing import Final
from uuid import UUID

import structlog
from psycopg import DataError, OperationalError
from psycopg_pool import PoolClosed, PoolTimeout

from pale_harbor.formats.storable import REPLACEMENT
from pale_harbor.store.database import Pool
from pale_harbor.store.delivery.asked import AskedQuery, EventKind, add_asked, add_event
from pale_harbor.work.running.background import in_background

# So long what was asked is gathered before it is written.
_GATHERED_S: Final = 0.05
# Whoever types no further for so long has come to rest.
REST_S: Final = 3.0
# Between looks at who has come to rest.
_LOOKS_S: Final = 1.0
# While the database is away no more than this is held; what was asked first goes first.
MOST_HELD: Final = 50_000
_SECONDS_AFTER_FAILING: Final = 2.0


class PastKeeper:
    """Keeps what is asked. Safe to use from several threads. clock: in seconds, only forward."""

    def __init__(self, pool: Pool, clock: Callable[[], float] = monotonic) -> None:
        self._pool, self._clock = pool, clock
        self._waiting: list[AskedQuery] = []
        # On its way into the database, not known to be kept.
        self._on_the_way: list[AskedQuery] = []
        # By session: what it has typed so far, and when.
        self._typed: dict[str, tuple[AskedQuery, float]] = {}
        self._changed = Condition()
        self._is_begun = self._ends = False
        self.lost = 0

    def note(self, asked: AskedQuery) -> None:
        """Keeps it soon; of what is being typed only the last of a session, once it types no further."""
        # What the database cannot hold nobody meant.
        asked = replace(asked, query=asked.query.replace("\0", REPLACEMENT))
        with self._changed:
            if asked.is_typed:
                if asked.session is None:
                    return
                self._typed[asked.session] = asked, self._clock()
            else:
                if asked.session is not None:
                    # It was on the way to this.
                    self._typed.pop(asked.session, None)
                self._waiting.append(asked)
            self._hold_no_more_than_enough()
            self._begin()
            self._changed.notify()

    def note_event(self, collection_id: int, query_id: UUID, kind: EventKind, record_key: str) -> None:
        """Keeps what was done with a row of a list, and the list itself, before it returns. What is told twice counts
        once.

        Raises OperationalError or PoolTimeout where it cannot be kept.
        """
        with self._changed:
            at_rest = [session for session, (one, _) in self._typed.items() if one.id == query_id]
            self._waiting += [self._typed.pop(session)[0] for session in at_rest]
            own = [one for one in (*self._waiting, *self._on_the_way) if one.id == query_id]
        with self._pool.connection() as connection:
            add_asked(connection, own)
            add_event(connection, collection_id, query_id, kind, record_key)

    @property
    def waiting(self) -> int:
        """How much of what was asked is not kept yet."""
        with self._changed:
            return len(self._waiting) + len(self._on_the_way) + len(self._typed)

    def end(self) -> None:
        """Keeps what is still held, and nothing more."""
        with self._changed:
            self._ends = True
            self._waiting += [one for one, _ in self._typed.values()]
            self._typed.clear()
            self._changed.notify()
        self.keep()

    def keep(self) -> bool:
        """Writes what has come to rest; False where the database does not take it now."""
        with self._changed:
            now = self._clock()
            for session, (one, at) in list(self._typed.items()):
                if now - at >= REST_S:
                    del self._typed[session]
                    self._waiting.append(one)
            some, self._waiting = self._waiting, []
            self._on_the_way += some
        if not some:
            return True
        try:
            with self._pool.connection() as connection:
                add_asked(connection, some)
        except PoolClosed:
            # It ends: whoever ends it well has kept everything before.
            raise
        except (OperationalError, PoolTimeout) as error:
            with self._changed:
                self._waiting = some + self._waiting
                self._hold_no_more_than_enough()
            structlog.get_logger().warning("what was asked is not kept yet", count=len(some), reason=str(error))
            return False
        except DataError as error:
            # One of them cannot be stored; the others can.
            structlog.get_logger().error("what was asked cannot be kept", reason=str(error))
            self._one_by_one(some)
        finally:
            with self._changed:
                own = {one.id for one in some}
                self._on_the_way = [one for one in self._on_the_way if one.id not in own]
        return True

    def _one_by_one(self, some: list[AskedQuery]) -> None:
        for one in some:
            try:
                with self._pool.connection() as connection:
                    add_asked(connection, [one])
            except DataError:
                self.lost += 1

    def _begin(self) -> None:
        if not self._is_begun:
            self._is_begun = True
            in_background("past queries", self._go_on)

    def _go_on(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._waiting or self._ends, _LOOKS_S if self._typed else None)
                self._changed.wait_for(lambda: self._ends, _GATHERED_S)
                if self._ends:
                    return
            if not self.keep():
                with self._changed:
                    self._changed.wait_for(lambda: self._ends, _SECONDS_AFTER_FAILING)

    def _hold_no_more_than_enough(self) -> None:
        over = len(self._waiting) - MOST_HELD
        if over > 0:
            del self._waiting[:over]
            self.lost += over
        while len(self._typed) > MOST_HELD:
            self._typed.pop(next(iter(self._typed)))
            self.lost += 1
