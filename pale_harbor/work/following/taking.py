"""Rows of a live database become records, some by their keys or all: in one transaction, with how far it is."""

from collections.abc import Callable, Generator, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field
from itertools import islice
from time import perf_counter
from typing import Any, Final

from psycopg import Connection

from pale_harbor.errors import BadInput
from pale_harbor.formats.following.document import FollowingDocument
from pale_harbor.formats.records.conversion import RecordRow, Unfit, record_of
from pale_harbor.formats.records.guessing import Evidence
from pale_harbor.store.collections.collections import collection_named, fields_of, put_fields
from pale_harbor.store.database import Pool
from pale_harbor.store.following.live.rows import LiveDatabase, LiveRow
from pale_harbor.store.following.sources import (
    FollowedSource,
    leave_to_decide,
    note_taken,
    put_all_unfit,
    put_unfit,
)
from pale_harbor.store.imports.incoming import Merged, Outlook, merge_gathered, outlook_of_gathered
from pale_harbor.store.imports.staged import (
    begin_staging,
    begin_sweeping,
    collection_held,
    keep_as_they_are,
    ready_to_merge,
    stage_gone,
    stage_rows,
    sweep_keys,
    swept_away,
    swept_otherwise,
    take_repeated,
)
from pale_harbor.store.records.page_places import keep_places
from pale_harbor.store.records.records import record_count
from pale_harbor.work.ranking.default_ranker import put_default_ranker
from pale_harbor.work.records.fields_after import fields_after, fields_seen

_KEYS_AT_ONCE: Final = 2_000
_ROWS_AT_ONCE: Final = 2_000
# So many rows that cannot be kept are told one by one.
MOST_UNFIT: Final = 10_000
_NO_KEY: Final = "(no key)"
# Where reading everything would delete more than half of the records, somebody is asked; of a handful nobody is.
_FEW: Final = 10

Position = Mapping[str, Any]


class Moved(Exception):
    """The source was said anew, paused or ended meanwhile: nothing was kept."""


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of rows that were taken. asked_s: how long the source was asked for them."""

    merged: Merged
    unfit: int
    asked_s: float = 0.0


def deletes_most(outlook: Outlook) -> bool:
    """Whether so many records would go that somebody is asked first."""
    return outlook.deleted > _FEW and 2 * outlook.deleted > outlook.records


@dataclass
class Taking:
    """Takes rows of one source, once. columns: those that its query gives; wanted: whether it is to go on; told: hears
    how many rows were read."""

    pool: Pool
    source: FollowedSource
    document: FollowingDocument
    columns: Sequence[str]
    wanted: Callable[[], bool] = lambda: True
    told: Callable[[int], None] = lambda _rows: None
    _evidence: Evidence = field(default_factory=lambda: Evidence(typed=True))
    _unfit: dict[str, str] = field(default_factory=dict[str, str])
    _asked_s: float = 0.0

    def some(
        self,
        live: LiveDatabase,
        keys: Iterable[str],
        position: Position,
        changes: int,
        *,
        wants_whole: bool = False,
    ) -> Taken:
        """The records of these keys become what the source has of them now, or go. Raises Moved, BadInput.

        position: up to where changes are kept then; wants_whole: whether everything has to be read afterwards.
        """
        with self._staging() as connection:
            fit: list[str] = []
            for some in _parts(sorted(set(keys)), _KEYS_AT_ONCE):
                self._check_wanted()
                begun = perf_counter()
                rows = live.rows_with_keys(self.document.query, self.document.key, some)
                self._asked_s += perf_counter() - begun
                records = self._records(rows)
                fit += [record.key for record in records]
                self._stage_records(connection, records)
                there = {row.key for row in rows}
                stage_gone(connection, [key for key in some if key not in there])
                fit += [key for key in some if key not in there]
            self._take_repeated(connection)
            return self._end(connection, position, changes, fit, wants_whole=wants_whole)

    def rows(self, rows: Iterator[LiveRow], position: Callable[[], Position]) -> Taken:
        """Rows that were read become records; no other goes. position: told once all were read.

        Raises Moved, BadInput.
        """
        with self._staging() as connection:
            fit = self._stage(connection, rows)
            self._take_repeated(connection)
            return self._end(connection, position(), 0, fit)

    def everything(self, rows: Iterator[LiveRow], position: Callable[[], Position]) -> Taken | Outlook:
        """The source's rows become all the records there are; what they would do, where somebody is to decide.

        Raises Moved, BadInput.
        """
        with self._staging() as connection:
            self._stage(connection, rows)
            ready_to_merge(connection)
            self._take_repeated(connection)
            keep_as_they_are(connection, self.source.collection_id, list(self._unfit))
            collection = collection_held(connection, self.source.collection_id)
            outlook = outlook_of_gathered(connection, collection, replace=True)
            if not deletes_most(outlook) or outlook.deleted <= (self.source.agreed or 0):
                return self._end(connection, position(), 0, None)
        with self.pool.connection() as connection:
            leave_to_decide(connection, self.source.collection_id, asdict(outlook))
        return outlook

    def differing(self, live: LiveDatabase) -> list[str] | Outlook:
        """Keys whose records are not those of the source, by keys and the column of changes alone; what deleting those
        that it does not have would do, where somebody is to decide. Raises Moved."""
        document = self.document
        stamp = document.changed_at if document.changed_at and self._keeps(document.changed_at) else None
        with self.pool.connection() as connection, connection.transaction():
            begin_sweeping(connection)
            keys = live.keys(document.query, document.key, document.changed_at)
            sweep_keys(connection, self._watched(keys))
            gone = swept_away(connection, self.source.collection_id)
            otherwise = swept_otherwise(connection, self.source.collection_id, stamp)
            records = record_count(connection, self.source.collection_id)
        outlook = Outlook(records, 0, 0, records - len(gone), len(gone), {})
        if deletes_most(outlook) and len(gone) > (self.source.agreed or 0):
            with self.pool.connection() as connection:
                leave_to_decide(connection, self.source.collection_id, asdict(outlook))
            return outlook
        return [*gone, *otherwise]

    def _keeps(self, name: str) -> bool:
        planned = self.document.plan.field(name)
        return planned is None or planned.keep

    def _watched(self, keys: Iterator[tuple[str, Any]]) -> Iterator[tuple[str, Any]]:
        for number, one in enumerate(keys, start=1):
            if number % _ROWS_AT_ONCE == 0:
                self._check_wanted()
            yield one

    def _stage(self, connection: Connection[Any], rows: Iterator[LiveRow]) -> list[str]:
        fit: list[str] = []
        count = 0
        for some in _parts(rows, _ROWS_AT_ONCE):
            self._check_wanted()
            records = self._records(some)
            self._stage_records(connection, records)
            fit += [one.key for one in records]
            count += len(some)
            self.told(count)
        return fit

    def _stage_records(self, connection: Connection[Any], records: Sequence[RecordRow]) -> None:
        stage_rows(connection, [(one.key, one.content_hash, one.values) for one in records])
        places = {digest: own for one in records for digest, own in one.places.items()}
        if places:
            keep_places(connection, self.source.collection_id, places)

    def _records(self, rows: Iterable[LiveRow]) -> list[RecordRow]:
        records: list[RecordRow] = []
        for row in rows:
            try:
                # Of rows without a key one speaks for all: they have nothing to be told by.
                record = record_of(row.row, 0, self.document.plan)
            except Unfit as unfit:
                self._note_unfit(row.key or _NO_KEY, str(unfit))
                continue
            self._evidence.note(record.values)
            records.append(record)
        return records

    def _note_unfit(self, key: str, reason: str) -> None:
        if len(self._unfit) >= MOST_UNFIT:
            raise BadInput(
                f"More than {MOST_UNFIT:,} rows cannot be kept; among them {key[:80]}: {reason} Mend the query or what "
                "its columns become."
            )
        self._unfit[key] = reason

    def _take_repeated(self, connection: Connection[Any]) -> None:
        for key, count in take_repeated(connection).items():
            self._note_unfit(
                key,
                f"the query gives {count} rows with this key. One record is one row: gather what joined tables have of "
                "it into one value (array_agg).",
            )

    def _end(
        self,
        connection: Connection[Any],
        position: Position,
        changes: int,
        fit: Sequence[str] | None,
        *,
        wants_whole: bool = False,
    ) -> Taken:
        """Makes what was staged records, and notes it. fit: keys that can be kept; None where all rows were read."""
        whole = fit is None
        collection = collection_held(connection, self.source.collection_id)
        merged = merge_gathered(connection, collection, replace=whole)
        known = fields_of(connection, collection.id)
        if merged.changed or not known:
            fields = fields_after(known, fields_seen(self._evidence, self.document.key), self.document.plan)
            if fields != known:
                put_fields(connection, collection.id, fields)
        if whole:
            put_all_unfit(connection, collection.id, self._unfit)
        else:
            put_unfit(connection, collection.id, [key for key in fit or () if key not in self._unfit], self._unfit)
        put_default_ranker(connection, collection_named(connection, collection.name))
        noted = note_taken(
            connection,
            self.source,
            position,
            merged,
            changes=changes,
            columns=self.columns,
            whole=whole,
            wants_whole=wants_whole,
        )
        if not noted:
            raise Moved
        return Taken(merged, len(self._unfit), self._asked_s)

    def _check_wanted(self) -> None:
        if not self.wanted():
            raise Moved

    @contextmanager
    def _staging(self) -> Generator[Connection[Any]]:
        """A transaction in which rows are gathered; nothing of it stays where it does not come to its end."""
        with self.pool.connection() as connection, connection.transaction():
            begin_staging(connection)
            yield connection


def _parts(items: Iterable[Any], size: int) -> Iterator[list[Any]]:
    rest = iter(items)
    while part := list(islice(rest, size)):
        yield part
