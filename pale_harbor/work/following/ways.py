"""The ways of following: each finds out which records a change concerns, and has them read anew.

A change only says whose row it was. The records are read as they are when it is heard of, so that whatever is heard
twice, or late, gives the same; and nothing is let go of in the other database before it is kept here.
"""

import secrets
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Final, Protocol

from pale_harbor.formats.following.document import FollowingDocument
from pale_harbor.store.following.live.owners import (
    KnownTable,
    are_seen,
    keys_written_since,
    known_tables,
    oldest_unended,
    owning_keys,
)
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.queue import Queue, QueueState
from pale_harbor.store.following.live.rows import LiveDatabase, LiveRow, SourceAway, SourceRefuses
from pale_harbor.store.following.live.slot import Read, Slot, is_somebody_elses
from pale_harbor.work.following.pacing import Pacing
from pale_harbor.work.following.taking import Position, Taken, Taking

_LONGEST_SLEEP_S: Final = 1.0
_SECONDS_UNTIL_SEEN: Final = 0.01
_TRIES_UNTIL_SEEN: Final = 3_000
# So much of the log that concerns nobody may be held back for a while.
_WORTH_LETTING_GO: Final = 4 * 1_048_576
_SECONDS_UNTIL_LET_GO: Final = 30.0

Takes = Callable[[], Taking]


@dataclass(frozen=True, slots=True)
class Step:
    """What one look at the source came to. waiting: changes that are known and not kept here yet; behind_s: how long
    ago the oldest that was looked at was made; more: whether there is more to do at once; wants_whole: whether
    everything has to be read; kept_bytes: what the source keeps for us."""

    changes: int = 0
    waiting: int = 0
    behind_s: float = 0.0
    more: bool = False
    wants_whole: bool = False
    kept_bytes: int = 0


class WayOfFollowing(Protocol):
    """One way, with a source that is open. All raise SourceAway, SourceRefuses."""

    def can_go_on(self, position: Position) -> bool:
        """Whether nothing was missed since what is kept here; where not, everything is to be read."""
        ...

    def everything(self, live: LiveDatabase) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        """All rows of the source, and once they were read up to where changes are kept with them. live: a connection of
        its own for it."""
        ...

    def step(self, position: Position, takes: Takes) -> Step:
        """Looks once at what changed, and takes it."""
        ...

    def wait(self, seconds: float) -> None:
        """Waits until there may be more, no longer than that."""
        ...

    def end(self) -> None:
        """Lets go of what the source keeps for us alone."""
        ...


class ByTriggers:
    """The database notes what changed, and wakes us."""

    def __init__(self, live: LivePostgreSQL, mark: str, document: FollowingDocument) -> None:
        self._live, self._document = live, document
        self._known = known_tables(live, document.tables)
        self._queue = Queue(live, mark, self._known)
        self._state: QueueState | None = None
        self._pacing = Pacing()

    def can_go_on(self, position: Position) -> bool:
        """Whether the queue is the one that was read from, and nothing was taken from it that is not kept here."""
        self._state = self._queue.state()
        same = self._state.installed == position.get("installed")
        return same and self._state.batch in (position.get("batch"), position.get("before"))

    def everything(self, live: LiveDatabase) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        # What is noted from here on is taken once more, afterwards.
        state = self._queue.state()
        position = {"installed": state.installed, "batch": state.batch, "before": state.batch}
        return live.rows(self._document.query, self._document.key), lambda: position

    def step(self, position: Position, takes: Takes) -> Step:
        batch = secrets.token_hex(8)
        begun = time.perf_counter()
        with self._live.reading():
            noted = self._queue.read()
            if not noted.ids:
                self._pacing.note(0.0, 0)
                return Step()
            keys = _owned(self._live, self._known, noted.rows)
            after = {"installed": position["installed"], "batch": batch, "before": position["batch"]}
            asked_s = time.perf_counter() - begun
            taken = takes().some(self._live, keys, after, len(noted.ids), wants_whole=noted.whole)
        begun = time.perf_counter()
        self._queue.take_away(noted.ids, batch)
        self._pacing.note(asked_s + taken.asked_s + time.perf_counter() - begun, len(noted.ids))
        waiting = self._queue.waiting() if noted.more else 0
        return Step(len(noted.ids), waiting, noted.behind_s if waiting else 0.0, noted.more)

    def wait(self, seconds: float) -> None:
        # A moment in which more gathers: each taking costs a transaction here.
        time.sleep(min(self._pacing.pause_s, seconds))
        self._queue.wait(min(_LONGEST_SLEEP_S, seconds))

    def end(self) -> None:
        """The queue belongs to who made it."""


class ByDecoding:
    """Changes are read from the database's log."""

    def __init__(self, live: LivePostgreSQL, mark: str, document: FollowingDocument) -> None:
        self._live, self._document = live, document
        self._known = known_tables(live, document.tables)
        self._slot = Slot(live, mark, self._known)
        self._most_kept = document.most_kept_mb * 1_048_576
        self._pacing = Pacing()
        self._read_to = 0
        self._let_go_at = time.monotonic()

    def can_go_on(self, position: Position) -> bool:
        """Whether the slot is there, and the log was let go of no further than what is kept here."""
        state = self._slot.state()
        if state is None or state.lost or "log" not in position:
            return False
        return state.confirmed <= int(position["log"])

    def everything(self, live: LiveDatabase) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        state = self._slot.state()
        if state is not None and state.lost:
            self._slot.drop()
            state = None
        # What is written to the log from here on is taken once more, afterwards.
        position = {"log": self._slot.make() if state is None else state.confirmed}
        return live.rows(self._document.query, self._document.key), lambda: position

    def step(self, position: Position, takes: Takes) -> Step:
        state = self._slot.state()
        if state is None or state.lost:
            return Step(wants_whole=True)
        if state.kept_bytes > self._most_kept:
            # Its disk is worth more than that we need not read everything.
            self._slot.drop()
            return Step(wants_whole=True)
        after = int(position["log"])
        if self._slot.log_end() <= max(after, self._read_to):
            self._pacing.note(0.0, 0)
            return Step(kept_bytes=state.kept_bytes)
        try:
            read = self._slot.read(after)
        except SourceRefuses as error:
            if is_somebody_elses(error):
                raise SourceAway("Somebody else reads the log by our slot, perhaps a connection that broke.") from error
            raise
        self._read_to = read.end
        asked_s = read.took_s
        if read.changes:
            asked_s += self._take(read, takes)
            begun = time.perf_counter()
            self._slot.go_on(read.end)
            asked_s += time.perf_counter() - begun
        elif self._is_worth_letting_go(read.end - state.confirmed):
            takes().some(self._live, [], {"log": read.end}, 0)
            self._slot.go_on(read.end)
        self._pacing.note(asked_s, read.changes)
        return Step(
            read.changes,
            read.changes if read.more else 0,
            read.behind_s if read.more else 0.0,
            read.more,
            kept_bytes=state.kept_bytes,
        )

    def _take(self, read: Read, takes: Takes) -> float:
        """How long the database was asked for it, in seconds."""
        for _ in range(_TRIES_UNTIL_SEEN):
            begun = time.perf_counter()
            with self._live.reading():
                if are_seen(self._live, read.transactions):
                    keys = _owned(self._live, self._known, read.rows)
                    asked_s = time.perf_counter() - begun
                    taken = takes().some(self._live, keys, {"log": read.end}, read.changes, wants_whole=read.whole)
                    return asked_s + taken.asked_s
            time.sleep(_SECONDS_UNTIL_SEEN)
        raise SourceAway("What its log tells cannot be seen in the database yet.")

    def _is_worth_letting_go(self, size: int) -> bool:
        now = time.monotonic()
        if size < _WORTH_LETTING_GO and now - self._let_go_at < _SECONDS_UNTIL_LET_GO:
            return False
        self._let_go_at = now
        return size > 0

    def wait(self, seconds: float) -> None:
        time.sleep(min(self._pacing.pause_s, seconds))

    def end(self) -> None:
        """Its disk keeps nothing for us any more."""
        self._slot.drop()


class ByColumn:
    """What changed since is asked for, by a column of the query."""

    def __init__(self, live: LiveDatabase, document: FollowingDocument) -> None:
        self._live, self._document = live, document

    def can_go_on(self, position: Position) -> bool:
        """Whether it is known since when."""
        return "since" in position

    def everything(self, live: LiveDatabase) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        return self._since(live, None)

    def step(self, position: Position, takes: Takes) -> Step:
        rows, after = self._since(self._live, position["since"])
        taken = takes().rows(rows, after)
        return Step(_different(taken))

    def _since(self, live: LiveDatabase, since: str | None) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        document = self._document
        assert document.changed_at is not None
        last = since
        asked = live.rows_since(document.query, document.key, document.changed_at, since, document.overlap_s)

        def rows() -> Iterator[LiveRow]:
            nonlocal last
            for row in asked:
                last = row.stamp or last
                yield row

        return rows(), lambda: {"since": last}

    def wait(self, seconds: float) -> None:
        time.sleep(min(_LONGEST_SLEEP_S, seconds))

    def end(self) -> None:
        """Nothing is kept for us."""


class ByTransaction:
    """What changed since is asked for, by the transactions that wrote it (xmin)."""

    def __init__(self, live: LivePostgreSQL, document: FollowingDocument) -> None:
        self._live, self._document = live, document
        self._known = known_tables(live, document.tables)

    def can_go_on(self, position: Position) -> bool:
        """Whether it is known since which transaction."""
        return "transaction" in position

    def everything(self, live: LiveDatabase) -> tuple[Iterator[LiveRow], Callable[[], Position]]:
        assert isinstance(live, LivePostgreSQL)
        with live.reading():
            # A moment before the rows are read: what ends in between is taken once more.
            position = {"transaction": oldest_unended(live)}
        return live.rows(self._document.query, self._document.key), lambda: position

    def step(self, position: Position, takes: Takes) -> Step:
        with self._live.reading():
            unended = oldest_unended(self._live)
            since = int(position["transaction"])
            keys = set[str]().union(*(keys_written_since(self._live, one, since) for one in self._known))
            taken = takes().some(self._live, keys, {"transaction": unended}, 0)
        return Step(_different(taken))

    def wait(self, seconds: float) -> None:
        time.sleep(min(_LONGEST_SLEEP_S, seconds))

    def end(self) -> None:
        """Nothing is kept for us."""


def way_of(live: LiveDatabase, mark: str, document: FollowingDocument) -> WayOfFollowing:
    """The way that a document says. Raises SourceRefuses where the database does not know it."""
    if document.changed_at is not None:
        return ByColumn(live, document)
    if not isinstance(live, LivePostgreSQL):
        raise SourceRefuses("This database is followed by a column of changes alone: name one of the query's columns.")
    match document.way:
        case "asking":
            return ByTransaction(live, document)
        case "triggers":
            return ByTriggers(live, mark, document)
        case "decoding":
            return ByDecoding(live, mark, document)


def _owned(live: LivePostgreSQL, known: Sequence[KnownTable], rows: dict[int, list[dict[str, Any]]]) -> set[str]:
    return set[str]().union(*(owning_keys(live, known[number], own) for number, own in rows.items()))


def _different(taken: Taken) -> int:
    merged = taken.merged
    return merged.added + merged.updated + merged.deleted
