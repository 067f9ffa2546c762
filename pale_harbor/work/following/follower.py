"""Keeps one collection in step with its source, on and on: whatever breaks, it goes on from where it stood."""

from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from threading import Event
from time import monotonic
from typing import Final

import psycopg
import structlog
from psycopg_pool import PoolClosed, PoolTimeout

from pale_harbor.errors import HarborError, NotFound
from pale_harbor.formats.following.document import FollowingDocument, following_document
from pale_harbor.store.database import Pool
from pale_harbor.store.following.connections import KeptConnection, connection_called
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.rows import ColumnsChanged, LiveDatabase, SourceAway, Unheard
from pale_harbor.store.following.sources import (
    FOLLOWING,
    FollowedSource,
    followed_by,
    note_problem,
    note_standing,
    note_swept,
    want_whole,
)
from pale_harbor.store.imports.incoming import Outlook
from pale_harbor.store.running.holding import hold
from pale_harbor.work.following.reaching import USUAL, WHOLE, reach
from pale_harbor.work.following.taking import Moved, Taking
from pale_harbor.work.following.ways import Step, WayOfFollowing, way_of
from pale_harbor.work.running.sealing import Sealing

_SECONDS_BETWEEN_LOOKS: Final = 0.5
_SECONDS_BETWEEN_NOTES: Final = 1.0
_SECONDS_BETWEEN_IDLE_NOTES: Final = 5.0
_FIRST_WAIT_S: Final = 0.5
_LONGEST_WAIT_S: Final = 30.0
# A query that cannot be asked is mended by somebody, at its source or here.
_SECONDS_UNTIL_ASKED_AGAIN: Final = 10.0
_SECONDS_BETWEEN_CHECKS: Final = 10.0
_SECONDS_AN_HOUR: Final = 3_600.0
_OUR_MISTAKE: Final = "A mistake of the program's keeps it from going on; its log says more. It is tried again."


class Ended(Exception):
    """Nothing is followed any more."""


class Follower:
    """Follows for one collection. ended: set where nobody wants it any more; sweeps_at_once: whether keys are compared
    before anything is waited for."""

    def __init__(
        self, pool: Pool, sealing: Sealing, collection_id: int, ended: Event, *, sweeps_at_once: bool = False
    ) -> None:
        self._sweeps_at_once = sweeps_at_once
        self._pool, self._sealing, self._id, self._ended = pool, sealing, collection_id, ended
        self._failures = 0
        self._noted = Noting(pool, collection_id)

    def run(self) -> None:
        """Follows until it is ended, or the source is: paused, undecided or gone."""
        while not self._ended.is_set():
            try:
                # A connection of its own: whoever holds it is the only one who follows.
                with psycopg.connect(str(self._pool.conninfo)) as holder, hold(holder, FOLLOWING, self._id) as held:
                    if held:
                        self._follow()
                        return
                self._ended.wait(_SECONDS_BETWEEN_LOOKS)
            except Ended:
                return
            except (psycopg.Error, PoolTimeout, PoolClosed) as error:
                # Our own database: there is nowhere to note it.
                structlog.get_logger().warning("following waits for the database", reason=str(error)[:300])
                self._ended.wait(self._next_wait())

    def catch_up(self) -> FollowedSource:
        """Follows until nothing waits, and ends then; returns how it stands.

        Raises what keeps it from that; NotFound where nothing is followed.
        """
        with psycopg.connect(str(self._pool.conninfo)) as holder, hold(holder, FOLLOWING, self._id) as held:
            source = self._source()
            if source is None:
                raise NotFound("This collection follows no database.")
            if held and source.state == "following":
                with suppress(Moved):
                    self._stay(source, until_in_step=True)
        found = self._source()
        if found is None:
            raise NotFound("This collection follows no database.")
        return found

    def _follow(self) -> None:
        while not self._ended.is_set():
            source = self._source()
            if source is None or source.state != "following":
                return
            try:
                self._stay(source)
            except Moved:
                continue
            except Ended:
                return
            except ColumnsChanged as error:
                self.take_columns(error)
            except Unheard as error:
                self._want_whole()
                self._tell(str(error))
                self._wait_for(self._source() or source, _SECONDS_UNTIL_ASKED_AGAIN)
            except SourceAway as error:
                self._tell(str(error))
                self._wait_for(source, self._next_wait())
            except HarborError as error:
                self._tell(str(error))
                self._wait_for(source, _SECONDS_UNTIL_ASKED_AGAIN)
            except (psycopg.Error, PoolTimeout, PoolClosed):
                raise
            except Exception as error:
                structlog.get_logger().error("following broke off", collection=self._id, exc_info=error)
                self._tell(_OUR_MISTAKE)
                self._wait_for(source, _LONGEST_WAIT_S)

    def _stay(self, source: FollowedSource, *, until_in_step: bool = False) -> None:
        """Follows by one connection for as long as that holds, and the source is what it was."""
        document = following_document(source.document)
        kept = self._connection(source)
        with reach(kept, self._sealing, USUAL) as live:
            way = way_of(live, source.mark, document)
            if not way.can_go_on(source.position) and not source.whole_wanted:
                self._want_whole()
                source = self._same(source)
            turns = Turns(document, sweeps_at_once=self._sweeps_at_once)
            while True:
                if turns.check_is_due() and not way.can_go_on(source.position) and not source.whole_wanted:
                    self._want_whole()
                    source = self._same(source)
                live.expects = None if source.columns is None else frozenset(source.columns)
                if source.whole_wanted or turns.whole_is_due(source):
                    self._take_everything(source, document, kept, way)
                    turns.whole_was_taken()
                else:
                    step = self._step(source, document, live, way, turns)
                    if not step.more:
                        if until_in_step and not self._same(source).whole_wanted:
                            self._noted.at_once()
                            return
                        if not until_in_step:
                            way.wait(turns.seconds_until_next())
                self._failures = 0
                source = self._same(source)

    def _step(
        self,
        source: FollowedSource,
        document: FollowingDocument,
        live: LiveDatabase,
        way: WayOfFollowing,
        turns: "Turns",
    ) -> Step:
        step = Step()
        if turns.asking_is_due():
            step = way.step(source.position, lambda: self._taking(source, document, live))
            turns.was_asked()
            self._noted.standing(step)
            if step.wants_whole:
                self._want_whole()
        if not step.more and turns.sweep_is_due():
            self._sweep(self._same(source), document, live)
            turns.was_swept()
        return step

    def _sweep(self, source: FollowedSource, document: FollowingDocument, live: LiveDatabase) -> None:
        keys = self._taking(source, document, live).differing(live)
        if isinstance(keys, Outlook):
            raise Moved
        if keys:
            self._taking(source, document, live).some(live, keys, source.position, 0)
        with self._pool.connection() as connection:
            note_swept(connection, self._id)

    def _take_everything(
        self, source: FollowedSource, document: FollowingDocument, kept: KeptConnection, way: WayOfFollowing
    ) -> None:
        with reach(kept, self._sealing, WHOLE) as live:
            live.expects = None if source.columns is None else frozenset(source.columns)
            if isinstance(live, LivePostgreSQL):
                live.key_type(document.query, document.key)
            rows, position = way.everything(live)
            told = self._noted.reading_everything
            taken = self._taking(source, document, live, told=told).everything(rows, position)
        if isinstance(taken, Outlook):
            raise Moved
        merged = taken.merged
        structlog.get_logger().info(
            "all of a source was read",
            collection=source.collection,
            added=merged.added,
            updated=merged.updated,
            unchanged=merged.unchanged,
            deleted=merged.deleted,
            unfit=taken.unfit,
        )
        self._noted.at_once()

    def _taking(
        self,
        source: FollowedSource,
        document: FollowingDocument,
        live: LiveDatabase,
        told: Callable[[int], None] = lambda _rows: None,
    ) -> Taking:
        columns = source.columns or [one.name for one in live.columns(document.query)]
        return Taking(self._pool, source, document, columns, wanted=lambda: self._is_wanted(source), told=told)

    def take_columns(self, error: ColumnsChanged) -> None:
        """Has new columns read for every record; tells of missing ones, and takes nothing until somebody agrees."""
        if error.missing:
            self._tell(
                f"{error} Records would lose what they have there. Mend the query, or take its columns as they are now."
            )
            self._ended.wait(_SECONDS_UNTIL_ASKED_AGAIN)
            return
        # What is new takes nothing away: all is read once more, with it.
        with self._pool.connection() as connection:
            want_whole(connection, self._id, forget_columns=True)

    def _want_whole(self) -> None:
        with self._pool.connection() as connection:
            want_whole(connection, self._id)

    def _source(self) -> FollowedSource | None:
        with self._pool.connection() as connection:
            return followed_by(connection, self._id)

    def _connection(self, source: FollowedSource) -> KeptConnection:
        with self._pool.connection() as connection:
            return connection_called(connection, self._id, source.connection)

    def _same(self, source: FollowedSource) -> FollowedSource:
        """The source as it stands now. Raises Moved where it is another one, or is not to be followed now."""
        if self._ended.is_set():
            raise Ended
        found = self._source()
        if found is None or found.number != source.number or found.state != "following":
            raise Moved
        return found

    def _is_wanted(self, source: FollowedSource) -> bool:
        with suppress(Moved):
            self._same(source)
            return True
        return False

    def _tell(self, problem: str) -> None:
        structlog.get_logger().warning("following goes no further", collection=self._id, reason=problem)
        with self._pool.connection() as connection:
            note_problem(connection, self._id, problem)

    def _wait_for(self, source: FollowedSource, seconds: float) -> None:
        """Waits, less long where somebody says something of the source meanwhile."""
        until = monotonic() + seconds
        while monotonic() < until and not self._ended.wait(min(_SECONDS_BETWEEN_LOOKS, seconds)):
            found = self._source()
            said = None if found is None else (found.number, found.state, found.whole_wanted)
            if said != (source.number, source.state, source.whole_wanted):
                return

    def _next_wait(self) -> float:
        self._failures += 1
        return min(_LONGEST_WAIT_S, _FIRST_WAIT_S * 2 ** min(self._failures - 1, 10))


class Turns:
    """When what is due. In the ways in which the database tells, it is looked at all the time."""

    def __init__(self, document: FollowingDocument, *, sweeps_at_once: bool = False) -> None:
        self._document = document
        self._asks = document.way == "asking"
        now = monotonic()
        self._next_asking = now
        self._next_check = now + _SECONDS_BETWEEN_CHECKS
        self._next_sweep = now + (0.0 if sweeps_at_once else document.sweep_s)

    def check_is_due(self) -> bool:
        """Whether it is to be seen that changes are still told of; then it is not for a while."""
        if monotonic() < self._next_check:
            return False
        self._next_check = monotonic() + _SECONDS_BETWEEN_CHECKS
        return True

    def asking_is_due(self) -> bool:
        """Whether what changed is to be asked for."""
        return monotonic() >= self._next_asking

    def was_asked(self) -> None:
        """It was; the next time comes after a while."""
        self._next_asking = monotonic() + (self._document.every_s if self._asks else 0.0)

    def sweep_is_due(self) -> bool:
        """Whether keys are to be compared: deletions are told of in the other ways."""
        return self._asks and monotonic() >= self._next_sweep

    def was_swept(self) -> None:
        """They were."""
        self._next_sweep = monotonic() + self._document.sweep_s

    def whole_is_due(self, source: FollowedSource) -> bool:
        """Whether everything is to be compared."""
        hours = self._document.whole_hours
        if not hours or source.compared_at is None:
            return False
        return (datetime.now(UTC) - source.compared_at).total_seconds() >= hours * _SECONDS_AN_HOUR

    def whole_was_taken(self) -> None:
        """It was; what came meanwhile is asked for at once."""
        self._next_asking = monotonic()
        self.was_swept()

    def seconds_until_next(self) -> float:
        """For how long there is nothing to do."""
        if not self._asks:
            return _SECONDS_BETWEEN_NOTES
        return max(0.05, min(self._next_asking, self._next_sweep) - monotonic())


class Noting:
    """Notes how far it is, now and then."""

    def __init__(self, pool: Pool, collection_id: int) -> None:
        self._pool, self._id = pool, collection_id
        self._next = self._next_idle = 0.0
        self._waited = False

    def standing(self, step: Step) -> None:
        """After a look at the source."""
        # Where nothing waits, and nothing did, there is nothing to tell.
        if monotonic() < (self._next if step.waiting or self._waited else self._next_idle):
            return
        self._waited = step.waiting > 0
        self._next = monotonic() + _SECONDS_BETWEEN_NOTES
        self._next_idle = monotonic() + _SECONDS_BETWEEN_IDLE_NOTES
        with self._pool.connection() as connection:
            note_standing(
                connection,
                self._id,
                waiting=step.waiting,
                behind_s=step.behind_s,
                kept_bytes=step.kept_bytes,
            )

    def reading_everything(self, rows: int) -> None:
        """While everything is read."""
        if monotonic() < self._next:
            return
        self._next = monotonic() + _SECONDS_BETWEEN_NOTES
        with self._pool.connection() as connection:
            note_standing(connection, self._id, phase="reading everything", done=rows)

    def at_once(self) -> None:
        """That nothing waits."""
        self._next = self._next_idle = 0.0
        self.standing(Step())
