"""Imports: rows of a source become a collection's records, all at once at the end.

Rows are kept aside batch by batch, each batch together with how far reading has come. So an import
that was cut off goes on where it stood, one that is cancelled leaves nothing behind, and memory does
not grow with the source. What becomes of the collection is decided in one last transaction.
"""

from collections.abc import Callable, MutableMapping
from dataclasses import dataclass, field
from time import monotonic
from typing import Any, Final

import psycopg
import structlog
from psycopg import Connection, Rollback

from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.records import ImportPlan, RawRow, import_plan
from pale_harbor.formats.records.conversion import Unfit, record_of
from pale_harbor.formats.records.guessing import Evidence
from pale_harbor.store.collections.collections import (
    Collection,
    CollectionField,
    collection_named,
    fields_of,
    make_collection,
    put_fields,
)
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import (
    Import,
    RejectedRow,
    add_import,
    add_rejected,
    drop_rejected,
    import_with_id,
    note_collection,
    note_reading,
    note_storing,
    refresh_rejected,
    rejected_rows,
    unfinished_imports,
)
from pale_harbor.store.imports.incoming import IncomingRow, add_incoming, drop_incoming, merge_incoming, repeated_rows
from pale_harbor.store.imports.read_marks import set_read_mark
from pale_harbor.store.running.jobs import Job, end_job
from pale_harbor.work.imports.sources import DatabaseSource, RowSource, guessed_from_all, source_of
from pale_harbor.work.ranking.default_ranker import put_default_ranker
from pale_harbor.work.running.worker import Doing, Progress, do_job

_BATCH_ROWS: Final = 5_000
_BATCH_BYTES: Final = 8_000_000
_BATCH_SECONDS: Final = 1.0
# So many rejected rows stand in a report; all of them are kept.
_REPORTED: Final = 1_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportReport:
    """What became of a source's rows: read = added + updated + unchanged + rejected.

    rejects: the first thousand of them.
    """

    read: int
    added: int
    updated: int
    unchanged: int
    deleted: int
    rejected: int
    rejects: list[RejectedRow]
    job: int


Told = Callable[[Import], None]


def begin_import(
    pool: Pool,
    collection: str,
    source: RowSource,
    plan: ImportPlan,
    *,
    by_server: bool,
    noted: Callable[[int], object] = lambda _job_id: None,
) -> int:
    """Notes an import that is to be done, or finds the same one unfinished; returns its id. Raises BadInput.

    noted: hears the id before anybody who does imports can.
    """
    with pool.connection() as connection:
        has_records, known_key = _known_key(connection, collection)
    if plan.key is None and plan.fields is None and has_records:
        plan = plan.model_copy(update={"key": known_key})
    plan = _filled_in(source, plan, guess_key=not has_records)
    with pool.connection() as connection:
        _check_key(connection, collection, plan.key)
        wanted = (collection, source.kept(), plan.model_dump())
        for unfinished in unfinished_imports(connection):
            if (unfinished.collection, unfinished.source, unfinished.plan) == wanted and source.repeatable:
                return unfinished.id
        job_id = add_import(connection, *wanted, by_server=by_server)
        noted(job_id)
        return job_id


def run_import(pool: Pool, job_id: int, source: RowSource | None = None, told: Told | None = None) -> ImportReport:
    """Does an import from where it stands. source: as given before; found again where it is None.

    Raises BadInput where it cannot be done (and is marked as failed) or somebody else is at it, Cancelled, NotFound.
    """
    reports: list[ImportReport] = []

    def doing(job: Job, _progress: Progress) -> dict[str, Any]:
        reports.append(_import(pool, job, source, told))
        return _without_rejects(reports[0])

    if not do_job(pool, job_id, doing):
        with pool.connection() as connection:
            import_with_id(connection, job_id)
        raise BadInput("This import is being done already.")
    return reports[0]


def imports_done(pool: Pool, sources: MutableMapping[int, RowSource]) -> Doing:
    """How a server does imports. sources: of jobs, as they were given; others are found again."""

    def doing(job: Job, _progress: Progress) -> dict[str, Any]:
        return _without_rejects(_import(pool, job, sources.pop(job.id, None), None))

    return doing


def _import(pool: Pool, job: Job, source: RowSource | None, told: Told | None) -> ImportReport:
    with pool.connection() as connection:
        kept = import_with_id(connection, job.id)
    try:
        return _Import(pool=pool, job=kept, source=source or source_of(kept.source), told=told).run()
    except psycopg.Error:
        # Taken up again once the database is back.
        raise
    except Exception:
        with pool.connection() as connection:
            drop_incoming(connection, job.id)
            refresh_rejected(connection, job.id)
        raise


def import_now(
    pool: Pool, collection: str, source: RowSource, plan: ImportPlan, told: Told | None = None
) -> ImportReport:
    """Imports a source here and now, or goes on with what was cut off."""
    return run_import(pool, begin_import(pool, collection, source, plan, by_server=False), source, told)


def _filled_in(source: RowSource, plan: ImportPlan, *, guess_key: bool) -> ImportPlan:
    """What the content tells. Values of delimited text are texts: their kinds are guessed from all of them.

    guess_key: whether the rows' key is guessed too, where the plan leaves it open: from all rows, since one that is
    told by the first of them may stand twice later.
    """
    plan = source.complete_plan(plan)
    if plan.fields is not None:
        return plan
    guess_key = guess_key and plan.key is None
    if plan.format == "delimited":
        guessed = guessed_from_all(source, plan)
        return guessed if guess_key else guessed.model_copy(update={"key": plan.key})
    return plan.model_copy(update={"key": guessed_from_all(source, plan).key}) if guess_key else plan


def _known_key(connection: Connection[Any], collection: str) -> tuple[bool, str | None]:
    """Whether there are records, and the field that names them; None where they are numbered."""
    try:
        kept = collection_named(connection, collection)
    except NotFound:
        return False, None
    known = fields_of(connection, kept.id)
    return bool(known), next((one.name for one in known if one.is_key), None)


def _check_key(connection: Connection[Any], collection: str, key: str | None) -> None:
    has_records, current = _known_key(connection, collection)
    if has_records and current != key:
        now = f'the field "{current}"' if current else "the number of the row"
        wanted = f'"{key}"' if key else "the number of the row"
        raise BadInput(f'The key of "{collection}" is {now}, not {wanted}.')


@dataclass(slots=True, kw_only=True)
class _Import:
    """An import under way. `seen` counts rows of this pass, staged or staged before."""

    pool: Pool
    job: Import
    source: RowSource
    told: Told | None
    plan: ImportPlan = field(init=False)
    evidence: Evidence = field(default_factory=lambda: Evidence(typed=True))
    seen: int = 0
    rejected: int = 0
    staged: list[IncomingRow] = field(default_factory=list[IncomingRow])
    rejects: list[RejectedRow] = field(default_factory=list[RejectedRow])
    batch_bytes: int = 0
    batch_began: float = 0

    def run(self) -> ImportReport:
        self.plan = import_plan(self.job.plan)
        done = self.job.rows_read
        if not self.source.repeatable:
            self._start_over()
            done = 0
        self.batch_began = monotonic()
        for row in self.source.rows(self.plan):
            self.seen += 1
            self._take(row, staged_before=self.seen <= done)
            if self._batch_is_full():
                self._keep_batch()
        self._keep_batch()
        report = self._merge()
        structlog.get_logger().info(
            "imported",
            collection=self.job.collection,
            added=report.added,
            updated=report.updated,
            unchanged=report.unchanged,
            deleted=report.deleted,
            rejected=report.rejected,
        )
        return report

    def _start_over(self) -> None:
        with self.pool.connection() as connection:
            drop_incoming(connection, self.job.id)
            drop_rejected(connection, self.job.id)

    def _take(self, row: RawRow, *, staged_before: bool) -> None:
        try:
            record = record_of(row, self.seen, self.plan)
        except Unfit as unfit:
            self.rejected += 1
            if not staged_before:
                self.rejects.append(RejectedRow(self.seen, row.line, str(unfit), row.raw_text))
                self.batch_bytes += len(row.raw or b"")
            return
        self.evidence.note(record.values)
        if not staged_before:
            self.staged.append((self.seen, row.line, record.key, record.content_hash, record.values))
            self.batch_bytes += len(row.raw or b"")

    def _batch_is_full(self) -> bool:
        return (
            len(self.staged) + len(self.rejects) >= _BATCH_ROWS
            or self.batch_bytes >= _BATCH_BYTES
            or (self.seen % 200 == 0 and monotonic() - self.batch_began > _BATCH_SECONDS)
        )

    def _keep_batch(self) -> None:
        with self.pool.connection() as connection, connection.transaction():
            add_incoming(connection, self.job.id, self.staged)
            add_rejected(connection, self.job.id, self.rejects)
            # Never back: rows that were kept before a crash are only passed over.
            rows_read = max(self.seen, self.job.rows_read)
            goes_on = note_reading(
                connection, self.job.id, rows_read, self.rejected, self.source.bytes_read, self.source.bytes_in_all
            )
            now = import_with_id(connection, self.job.id)
        self.staged, self.rejects, self.batch_bytes, self.batch_began = [], [], 0, monotonic()
        if self.told is not None:
            self.told(now)
        if not goes_on:
            with self.pool.connection() as connection:
                drop_rejected(connection, self.job.id)
            raise Cancelled("The import was cancelled; the collection is as it was before.")

    def _merge(self) -> ImportReport:
        with self.pool.connection() as connection:
            note_storing(connection, self.job.id)
            now = import_with_id(connection, self.job.id)
        if self.told is not None:
            self.told(now)
        repeated = self._repeated()
        with self.pool.connection() as connection, connection.transaction():
            add_rejected(connection, self.job.id, repeated)
            collection = self._held_collection(connection)
            known = fields_of(connection, collection.id)
            merged = merge_incoming(connection, collection, self.job.id, replace=self.plan.replace)
            if merged.changed or not known:
                put_fields(connection, collection.id, fields_after(known, self.evidence, self.plan))
            self._note_mark(connection, collection)
            drop_incoming(connection, self.job.id)
            put_default_ranker(connection, collection_named(connection, collection.name))
            report = ImportReport(
                read=self.seen,
                added=merged.added,
                updated=merged.updated,
                unchanged=merged.unchanged,
                deleted=merged.deleted,
                rejected=self.rejected + len(repeated),
                rejects=rejected_rows(connection, self.job.id, 0, _REPORTED),
                job=self.job.id,
            )
            refresh_rejected(connection, self.job.id)
            end_job(connection, self.job.id, "done", report=_without_rejects(report))
        return report

    def _held_collection(self, connection: Connection[Any]) -> Collection:
        """The collection that the rows are for, held, made where there is none; it may have been renamed meanwhile."""
        while True:
            with connection.transaction() as attempt:
                name = import_with_id(connection, self.job.id).collection
                make_collection(connection, name)
                collection = collection_named(connection, name, lock=True)
                note_collection(connection, self.job.id, collection.id)
                # Whoever renames it must hold it first: from here on the name stays.
                if import_with_id(connection, self.job.id).collection == name:
                    return collection
                raise Rollback(attempt)

    def _repeated(self) -> list[RejectedRow]:
        """Rows whose key stood in the source before, with what stands there: read again, and kept by nobody."""
        with self.pool.connection() as connection:
            repeated = repeated_rows(connection, self.job.id)
        wanted = {row_number for row_number, *_ in repeated}
        raw: dict[int, str] = {}
        if wanted and self.source.repeatable:
            for number, row in enumerate(self.source.rows(self.plan), start=1):
                if number in wanted:
                    raw[number] = row.raw_text
        return [
            RejectedRow(
                number, line, f'the key "{key}" was already on line {first} of this file.', raw.get(number, key)
            )
            for number, line, key, first in repeated
        ]

    def _note_mark(self, connection: Connection[Any], collection: Collection) -> None:
        if isinstance(self.source, DatabaseSource) and self.source.database.last_seen is not None:
            database = self.source.database
            set_read_mark(connection, collection.id, database.identity, self.source.database.last_seen)


def fields_after(known: list[CollectionField], evidence: Evidence, plan: ImportPlan) -> list[CollectionField]:
    """A collection's fields once rows came in: what was known stays as far as the values allow."""
    roles_are_set = bool(known)
    guessed = {one.name: one for one in evidence.guess(plan.key)}
    fields: list[CollectionField] = []
    for field_known in known:
        seen = guessed.pop(field_known.name, None)
        if seen is None:
            fields.append(field_known)
            continue
        fits = field_known.kind in ("text", "exact") or field_known.kind == seen.kind
        fields.append(
            CollectionField(
                name=field_known.name,
                kind=field_known.kind if fits else "text",
                several=field_known.several or bool(evidence.fields[seen.name].lists),
                role=field_known.role,
                passages=field_known.passages,
            )
        )
    for name, seen in guessed.items():
        planned = plan.field(name)
        role = planned.role if planned else (None if roles_are_set or plan.fields else seen.role)
        if name == plan.key:
            role = "key"
        elif role == "key":
            role = None
        lists = bool(evidence.fields[name].lists)
        fields.append(CollectionField(name=name, kind=planned.kind if planned else seen.kind, several=lists, role=role))
    return fields


def _without_rejects(report: ImportReport) -> dict[str, Any]:
    return {name: getattr(report, name) for name in ("read", "added", "updated", "unchanged", "deleted", "rejected")}
