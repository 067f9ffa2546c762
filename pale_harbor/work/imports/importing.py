"""Imports: rows of a source become a collection's records, all at once at the end.

Rows are kept aside batch by batch, each batch together with how far reading has come. So an import
that was cut off goes on where it stood, one that is cancelled leaves nothing behind, and memory does
not grow with the source. What becomes of the collection is decided in one last transaction: what the
rows would do is counted first, and where that is to be decided by somebody, nothing is done until it was.
"""

from collections.abc import Callable, MutableMapping
from contextlib import suppress
from dataclasses import asdict, dataclass, field
from time import monotonic
from typing import Any, Final

import psycopg
import structlog
from psycopg import Connection, Rollback

from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.pages.pictures import PagePicture, page_picture
from pale_harbor.formats.records import ImportPlan, RawRow, import_plan
from pale_harbor.formats.records.conversion import RecordRow, Unfit, content_hash, record_of
from pale_harbor.formats.records.filling_in import filled_in
from pale_harbor.formats.records.guessing import Evidence
from pale_harbor.formats.records.rows import PictureNamed
from pale_harbor.formats.records.several_files import FileRead
from pale_harbor.store.collections.collections import (
    Collection,
    collection_named,
    fields_of,
    make_collection,
    put_fields,
)
from pale_harbor.store.database import Pool
from pale_harbor.store.following.sources import refuse_followed
from pale_harbor.store.imports.imports import (
    Import,
    RejectedRow,
    add_import,
    add_rejected,
    agree,
    drop_rejected,
    import_with_id,
    note_collection,
    note_fields,
    note_outlook,
    note_read_whole,
    note_reading,
    note_revision,
    note_storing,
    refresh_rejected,
    rejected_rows,
    unfinished_imports,
)
from pale_harbor.store.imports.incoming import (
    IncomingRow,
    Outlook,
    add_incoming,
    add_incoming_deletions,
    drop_incoming,
    gather_incoming,
    gathered_beside_records,
    merge_gathered,
    outlook_of_gathered,
    put_gathered,
    repeated_rows,
)
from pale_harbor.store.imports.read_marks import set_read_mark
from pale_harbor.store.records.page_places import add_incoming_places, keep_places, merge_incoming_places
from pale_harbor.store.records.pictures import Picture, add_incoming_pictures, merge_incoming_pictures
from pale_harbor.store.running.jobs import Job, add_job, end_job, forget_job
from pale_harbor.work.imports.sources import RowSource, guessed_from_all, source_of
from pale_harbor.work.ranking.default_ranker import put_default_ranker
from pale_harbor.work.records.fields_after import FieldSeen, fields_after, fields_seen
from pale_harbor.work.records.pages import with_places_of_now
from pale_harbor.work.running.in_order import in_order
from pale_harbor.work.running.worker import Doing, Progress, Undecided, do_job

_BATCH_ROWS: Final = 5_000
_BATCH_BYTES: Final = 8_000_000
_BATCH_SECONDS: Final = 1.0
# So many rejected rows stand in a report; all of them are kept.
_REPORTED: Final = 1_000
# So many pictures are worth to be opened side by side.
_MANY_PICTURES: Final = 100


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
# Whether an import that would do this is to be done.
Decides = Callable[[Outlook], bool]


def begin_import(
    pool: Pool,
    collection: str,
    source: RowSource,
    plan: ImportPlan,
    *,
    by_server: bool,
    asks: bool = False,
    tune_start: bool = False,
    noted: Callable[[int], object] = lambda _job_id: None,
) -> int:
    """Notes an import that is to be done, or finds the same one unfinished; returns its id. Raises BadInput.

    asks: whether somebody decides about it once it is known what it would do to records that are there; without, only
    where it would delete more than a tenth of them. tune_start: whether a server tunes the ranker that the records come
    with, once they are in. noted: hears the id before anybody who does imports can.
    """
    with pool.connection() as connection:
        has_records, known_key = _known_key(connection, collection)
        with suppress(NotFound):
            refuse_followed(connection, collection_named(connection, collection).id)
    if plan.key is None and plan.fields is None and has_records:
        plan = plan.model_copy(update={"key": known_key})
    plan = _filled_in(source, plan, guess_key=not has_records)
    with pool.connection() as connection:
        _check_key(connection, collection, plan.key)
        wanted = (collection, source.kept(), plan.model_dump())
        for unfinished in unfinished_imports(connection):
            if (unfinished.collection, unfinished.source, unfinished.plan) == wanted and source.repeatable:
                # One that nobody decided about is weighed anew: records may have changed.
                agree(connection, unfinished.id, None)
                return unfinished.id
        job_id = add_import(connection, *wanted, by_server=by_server, asks=asks, tune_start=tune_start)
        noted(job_id)
        return job_id


def run_import(
    pool: Pool, job_id: int, source: RowSource | None = None, told: Told | None = None
) -> ImportReport | Outlook:
    """Does an import from where it stands: what it came to, or what it would do where that is to be decided.

    source: as given before; found again where it is None. Raises BadInput where it cannot be done (and is marked as
    failed) or somebody else is at it, Cancelled, NotFound.
    """
    came_to: list[ImportReport | Outlook] = []

    def doing(job: Job, _progress: Progress) -> None:
        came_to.append(_import(pool, job, source, told))
        _end_unless_undecided(came_to[0])

    if not do_job(pool, job_id, doing):
        with pool.connection() as connection:
            import_with_id(connection, job_id)
        raise BadInput("This import is being done already.")
    return came_to[0]


def imports_done(pool: Pool, sources: MutableMapping[int, RowSource]) -> Doing:
    """How a server does imports. sources: of jobs, as they were given; others are found again."""

    def doing(job: Job, _progress: Progress) -> None:
        # How it ended is noted where it ends.
        _end_unless_undecided(_import(pool, job, sources.pop(job.id, None), None))

    return doing


def _end_unless_undecided(came_to: ImportReport | Outlook) -> None:
    if isinstance(came_to, Outlook):
        raise Undecided


def _import(pool: Pool, job: Job, source: RowSource | None, told: Told | None) -> ImportReport | Outlook:
    with pool.connection() as connection:
        kept = import_with_id(connection, job.id)
    try:
        if kept.read_whole is None:
            _Reading(pool=pool, job=kept, source=source or source_of(kept.source), told=told).run()
        return _merge(pool, job.id, told)
    except psycopg.Error:
        # Taken up again once the database is back.
        raise
    except Exception:
        with pool.connection() as connection:
            drop_incoming(connection, job.id)
            refresh_rejected(connection, job.id)
        raise


def import_now(
    pool: Pool,
    collection: str,
    source: RowSource,
    plan: ImportPlan,
    told: Told | None = None,
    decides: Decides | None = None,
) -> ImportReport:
    """Imports a source here and now, or goes on with what was cut off.

    decides: is asked before records that are there are touched. Raises BadInput, and Cancelled where it said no.
    """
    job_id = begin_import(pool, collection, source, plan, by_server=False, asks=decides is not None)
    came_to = run_import(pool, job_id, source, told)
    while isinstance(came_to, Outlook):
        goes_on = False
        try:
            goes_on = decides is None or decides(came_to)
        finally:
            if not goes_on:
                leave_import(pool, job_id)
        if not goes_on:
            raise Cancelled(LEFT)
        go_on_with(pool, job_id, came_to.deleted)
        came_to = run_import(pool, job_id, source, told)
    return came_to


def weigh_import(pool: Pool, collection: str, source: RowSource, plan: ImportPlan) -> Outlook | None:
    """What an import would do to the records of a collection; nothing is done, and nothing of it is kept.

    None where there are no records that it could touch. Raises BadInput.
    """
    with pool.connection() as connection:
        if not _known_key(connection, collection)[0]:
            return None
    own: list[int] = []
    try:
        job_id = begin_import(pool, collection, source, plan, by_server=False, asks=True, noted=own.append)
        came_to = run_import(pool, job_id, source)
        return came_to if isinstance(came_to, Outlook) else None
    finally:
        with pool.connection() as connection:
            for job_id in own:
                forget_job(connection, job_id)


LEFT: Final = "The import was left alone; the collection is as it was before."


def go_on_with(pool: Pool, job_id: int, deletions: int) -> None:
    """Says that an undecided import may go on, deleting so many records; whoever does it then, does it.

    Raises BadInput where it is not undecided, or would delete more; NotFound.
    """
    with pool.connection() as connection, connection.transaction():
        now = import_with_id(connection, job_id)
        wanted = 0 if now.outlook is None else int(now.outlook["deleted"])
        if now.state == "undecided" and deletions < wanted:
            raise BadInput(f"This import would delete {wanted:,} records; you agreed to {deletions:,}.")
        if not agree(connection, job_id, deletions):
            raise BadInput("This import does not wait for anybody's word.")


def leave_import(pool: Pool, job_id: int) -> None:
    """Lets go of an undecided import. Raises BadInput where it is not undecided; NotFound."""
    with pool.connection() as connection, connection.transaction():
        import_with_id(connection, job_id)
        if not agree(connection, job_id, None):
            raise BadInput("This import does not wait for anybody's word.")
        drop_incoming(connection, job_id)
        drop_rejected(connection, job_id)
        refresh_rejected(connection, job_id)
        end_job(connection, job_id, "cancelled", problem=LEFT)


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
class _Reading:
    """Rows read and kept aside. `seen` counts rows of this pass, staged or staged before."""

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
    gone: list[str] = field(default_factory=list[str])
    places: dict[str, str] = field(default_factory=dict[str, str])
    named: dict[str, PictureNamed] = field(default_factory=dict[str, PictureNamed])
    pictures: list[Picture] = field(default_factory=list[Picture])
    batch_bytes: int = 0
    batch_began: float = 0

    def run(self) -> None:
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
        self._keep_pictures()
        repeated = self._repeated()
        seen = [asdict(one) for one in fields_seen(self.evidence, self.plan.key)]
        with self.pool.connection() as connection, connection.transaction():
            add_rejected(connection, self.job.id, repeated)
            refresh_rejected(connection, self.job.id)
            note_read_whole(connection, self.job.id, {"fields": seen, "mark": self.source.mark()})

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
        if row.deletes:
            self.gone.append(record.key)
            return
        self.evidence.note(record.values)
        if row.picture is not None:
            self.named[row.picture.name] = row.picture
        if not staged_before:
            self.staged.append((self.seen, row.line, record.key, record.content_hash, record.values))
            self.places |= record.places
            self.batch_bytes += len(row.raw or b"") + sum(map(len, record.places.values()))

    def _keep_pictures(self) -> None:
        """The pictures that rows name, opened and kept aside; what is wrong with one is told beside the rows."""
        files = self.source.pictures(frozenset(self.named))
        many = len(self.named) >= _MANY_PICTURES
        for file in (in_order if many else map)(_opened, files):
            wrong = file.reason or self._take_picture(file)
            if wrong:
                # A row of its own: what is read is what became of it, and a picture alone is no record.
                self.seen += 1
                self.rejected += 1
                self.rejects.append(RejectedRow(self.seen, 0, f"{file.name}: {wrong}", file.name))
            if self._batch_is_full():
                self._keep_batch()
        self._keep_batch()

    def _take_picture(self, file: "_OpenedPicture") -> str:
        """Takes a picture; what is wrong with it, if anything."""
        picture = file.picture
        assert picture is not None, "one that cannot be opened says why"
        self.pictures.append(Picture(file.name, picture.media_type, picture.content, picture.small))
        self.batch_bytes += len(picture.content)
        page = self.named[file.name]
        if picture.fits(page.width, page.height):
            return ""
        return (
            f"it has {picture.width:,} × {picture.height:,} dots, and its page is {page.width:g} × {page.height:g}: "
            "words may be marked where they are not."
        )

    def _batch_is_full(self) -> bool:
        return (
            len(self.staged) + len(self.rejects) + len(self.gone) >= _BATCH_ROWS
            or self.batch_bytes >= _BATCH_BYTES
            or (self.seen % 200 == 0 and monotonic() - self.batch_began > _BATCH_SECONDS)
        )

    def _keep_batch(self) -> None:
        with self.pool.connection() as connection, connection.transaction():
            add_incoming(connection, self.job.id, self.staged)
            add_incoming_deletions(connection, self.job.id, self.gone)
            add_incoming_places(connection, self.job.id, self.places)
            add_incoming_pictures(connection, self.job.id, self.pictures)
            add_rejected(connection, self.job.id, self.rejects)
            # Never back: rows that were kept before a crash are only passed over.
            rows_read = max(self.seen, self.job.rows_read)
            goes_on = note_reading(
                connection, self.job.id, rows_read, self.rejected, self.source.bytes_read, self.source.bytes_in_all
            )
            now = import_with_id(connection, self.job.id)
        self.staged, self.rejects, self.batch_bytes, self.batch_began = [], [], 0, monotonic()
        self.gone, self.places, self.pictures = [], {}, []
        if self.told is not None:
            self.told(now)
        if not goes_on:
            with self.pool.connection() as connection:
                drop_rejected(connection, self.job.id)
            raise Cancelled("The import was cancelled; the collection is as it was before.")

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


@dataclass(frozen=True, slots=True)
class _OpenedPicture:
    """A picture by its name; reason: why it cannot be opened, "" where it can."""

    name: str
    picture: PagePicture | None
    reason: str = ""


def _opened(file: FileRead) -> _OpenedPicture:
    if file.reason:
        return _OpenedPicture(file.name, None, file.reason)
    try:
        return _OpenedPicture(file.name, page_picture(file.content))
    except BadInput as error:
        return _OpenedPicture(file.name, None, f"{error} The page is taken without it.")


def _merge(pool: Pool, job_id: int, told: Told | None) -> ImportReport | Outlook:
    """Makes the rows that wait the collection's records, unless somebody is to decide about that first."""
    with pool.connection() as connection:
        note_storing(connection, job_id)
        now = import_with_id(connection, job_id)
    if told is not None:
        told(now)
    plan, read_whole = import_plan(now.plan), now.read_whole or {}
    with pool.connection() as connection, connection.transaction():
        collection = _held_collection(connection, job_id)
        refuse_followed(connection, collection.id)
        gather_incoming(connection, job_id)
        if plan.fill_in:
            _fill_in(connection, collection)
        outlook = outlook_of_gathered(connection, collection, replace=plan.replace)
        undecided = _is_to_be_decided(now, outlook)
        note_outlook(connection, job_id, outlook, undecided=undecided)
        if undecided:
            return outlook
        known = fields_of(connection, collection.id)
        merged = merge_gathered(connection, collection, replace=plan.replace)
        if merged.changed or not known:
            seen = [FieldSeen(**one) for one in read_whole["fields"]]
            fields = fields_after(known, seen, plan)
            put_fields(connection, collection.id, fields)
            note_fields(
                connection,
                job_id,
                {
                    "before": [asdict(one) for one in known],
                    "after": [asdict(one) for one in fields],
                    "fingerprint": collection.fingerprint,
                },
            )
        if merged.changed:
            note_revision(connection, job_id, collection.revision + 1)
        if (mark := read_whole["mark"]) is not None:
            set_read_mark(connection, collection.id, mark["identity"], mark["last_seen"])
        merge_incoming_places(connection, job_id, collection.id)
        merge_incoming_pictures(connection, job_id, collection.id)
        drop_incoming(connection, job_id)
        put_default_ranker(connection, collection_named(connection, collection.name))
        refresh_rejected(connection, job_id)
        report = ImportReport(
            read=now.rows_read,
            added=merged.added,
            updated=merged.updated,
            unchanged=merged.unchanged,
            deleted=merged.deleted,
            rejected=import_with_id(connection, job_id).rows_rejected,
            rejects=rejected_rows(connection, job_id, 0, _REPORTED),
            job=job_id,
        )
        end_job(connection, job_id, "done", report=_without_rejects(report))
        if now.tune_start:
            add_job(connection, "simulating", collection.id, by_server=True, details={"import": job_id})
    structlog.get_logger().info("imported", collection=collection.name, **_without_rejects(report))
    return report


def _is_to_be_decided(now: Import, outlook: Outlook) -> bool:
    if outlook.records == 0:
        return False
    if now.agreed is None and now.asks:
        return True
    return outlook.deletes_many and outlook.deleted > (now.agreed or 0)


def _fill_in(connection: Connection[Any], collection: Collection) -> None:
    """Gives the gathered rows what the records with their keys have beside them."""
    for batch in gathered_beside_records(connection, collection):
        filled: list[RecordRow] = []
        for key, values, row in batch:
            own = filled_in(values, row)
            record = RecordRow(key, own, content_hash(key, own))
            filled.append(with_places_of_now(connection, collection.id, record, values))
        keep_places(connection, collection.id, {digest: own for one in filled for digest, own in one.places.items()})
        put_gathered(connection, [(one.key, one.content_hash, one.values) for one in filled])


def _held_collection(connection: Connection[Any], job_id: int) -> Collection:
    """The collection that the rows are for, held, made where there is none; it may have been renamed meanwhile."""
    while True:
        with connection.transaction() as attempt:
            name = import_with_id(connection, job_id).collection
            make_collection(connection, name)
            collection = collection_named(connection, name, lock=True)
            note_collection(connection, job_id, collection.id)
            # Whoever renames it must hold it first: from here on the name stays.
            if import_with_id(connection, job_id).collection == name:
                return collection
            raise Rollback(attempt)


def _without_rejects(report: ImportReport) -> dict[str, Any]:
    return {name: getattr(report, name) for name in ("read", "added", "updated", "unchanged", "deleted", "rejected")}
