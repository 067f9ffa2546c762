"""The tables `imports` and `rejected_rows`: what an import reads beside its job, and the rows it could not read."""

from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.imports.incoming import Outlook
from pale_harbor.store.running.jobs import JobState, add_job, leave_undecided, note_progress, take_up_again


@dataclass(frozen=True, slots=True, kw_only=True)
class Import:
    """An import: its job with what it reads. collection: what its collection is called now, or will be called.

    bytes_in_all: 0 where it cannot be known. read_whole: what the rows said of their fields, once all were read. asks:
    whether somebody decides, whatever it would do; agreed: how many deletions were agreed to. tune_start: whether the
    ranker that the records come with is tuned once they are in. outlook: what it would do (`Outlook`). fields: the
    collection's `before` and `after` it, with the `fingerprint` before; revisions: those that it and the mending of its
    rows made, the latest first; undone: how it was undone.
    """

    id: int
    collection_id: int | None
    collection: str
    state: JobState
    source: dict[str, Any]
    plan: dict[str, Any]
    by_server: bool
    phase: str
    rows_read: int
    rows_rejected: int
    bytes_read: int
    bytes_in_all: int
    cancel_wanted: bool
    problem: str | None
    report: dict[str, Any] | None
    read_whole: dict[str, Any] | None
    asks: bool
    agreed: int | None
    tune_start: bool
    outlook: dict[str, Any] | None
    fields: dict[str, Any] | None
    by_person: str | None
    revisions: list[int]
    undone: dict[str, Any] | None
    created_at: datetime
    updated_at: datetime


@dataclass(frozen=True, slots=True)
class RejectedRow:
    """A row that could not be read: its number in the source, line, reason, and what stood there."""

    row_number: int
    line: int
    reason: str
    raw: str


def add_import(
    connection: Connection[Any],
    collection: str,
    source: dict[str, Any],
    plan: dict[str, Any],
    *,
    by_server: bool,
    asks: bool = False,
    tune_start: bool = False,
) -> int:
    """A new import, waiting to be done, of a collection that is there or will be; returns its job's id."""
    row = connection.execute("select id from collections where name = %s", [collection]).fetchone()
    collection_id = None if row is None else int(row[0])
    job_id = add_job(
        connection,
        "import",
        collection_id,
        by_server=by_server,
        new_collection=collection if collection_id is None else None,
    )
    connection.execute(
        "insert into imports (job_id, source, plan, asks, tune_start) values (%s, %s, %s, %s, %s)",
        [job_id, Json(source), Json(plan), asks, tune_start],
    )
    return job_id


def import_with_id(connection: Connection[Any], job_id: int) -> Import:
    """An import by the id of its job. Raises NotFound."""
    found = _imports(connection, "jobs.id = %(job)s", {"job": job_id}, 1)
    if not found:
        raise NotFound(f"There is no import {job_id}; perhaps its collection was dropped.")
    return found[0]


def imports_of(connection: Connection[Any], collection: str, count: int = 50) -> list[Import]:
    """A collection's imports, the latest first; also of one that is still to be made."""
    return _imports(
        connection,
        "collections.name = %(collection)s or (collections.id is null and new_collection = %(collection)s)",
        {"collection": collection},
        count,
    )


def unfinished_imports(connection: Connection[Any]) -> list[Import]:
    """Imports that are waiting, running (or were when whoever did them ended) or undecided, oldest first."""
    found = _imports(connection, "state in ('waiting', 'running', 'undecided')", {}, 100_000)
    return found[::-1]


_Where = Literal[
    "jobs.id = %(job)s",
    "collections.name = %(collection)s or (collections.id is null and new_collection = %(collection)s)",
    "state in ('waiting', 'running', 'undecided')",
]


def _imports(connection: Connection[Any], where: _Where, values: dict[str, Any], count: int) -> list[Import]:
    with connection.cursor(row_factory=class_row(Import)) as cursor:
        # One of the three conditions above.
        return cursor.execute(
            f"""
            select jobs.id, collection_id, coalesce(collections.name, new_collection) as collection, state, source,
                plan, by_server, phase, jobs.done as rows_read, rows_rejected, bytes_read, bytes_in_all, cancel_wanted,
                problem, report, read_whole, asks, agreed, tune_start, outlook, fields, revisions, undone,
                jobs.by_person, jobs.created_at, jobs.updated_at
            from jobs join imports on job_id = jobs.id left join collections on collections.id = collection_id
            where {where} order by jobs.id desc limit %(count)s
            """,  # noqa: S608
            {**values, "count": count},
        ).fetchall()


def note_reading(
    connection: Connection[Any], job_id: int, rows_read: int, rows_rejected: int, bytes_read: int, bytes_in_all: int
) -> bool:
    """Notes how far reading is; returns whether the import should go on."""
    connection.execute(
        "update imports set rows_rejected = %s, bytes_read = %s, bytes_in_all = %s where job_id = %s",
        [rows_rejected, bytes_read, bytes_in_all, job_id],
    )
    return note_progress(connection, job_id, "reading", rows_read, 0)


def note_collection(connection: Connection[Any], job_id: int, collection_id: int) -> None:
    """Says which collection an import made: from now on it goes by its id."""
    connection.execute(
        "update jobs set collection_id = %s, new_collection = null where id = %s and collection_id is null",
        [collection_id, job_id],
    )


def note_read_whole(connection: Connection[Any], job_id: int, seen: dict[str, Any]) -> None:
    """Says that all rows wait to be merged, and what they said of their fields."""
    connection.execute("update imports set read_whole = %s where job_id = %s", [Json(seen), job_id])


def note_outlook(connection: Connection[Any], job_id: int, outlook: Outlook, *, undecided: bool) -> None:
    """Says what an import would do; undecided: and that it waits for somebody's word."""
    connection.execute("update imports set outlook = %s where job_id = %s", [Json(asdict(outlook)), job_id])
    if undecided:
        leave_undecided(connection, job_id)


def agree(connection: Connection[Any], job_id: int, deletions: int | None) -> bool:
    """Says that an undecided import may go on, deleting so many records; None to have it weighed anew.

    False where it was not undecided.
    """
    if not take_up_again(connection, job_id):
        return False
    connection.execute("update imports set agreed = %s where job_id = %s", [deletions, job_id])
    return True


def note_revision(connection: Connection[Any], job_id: int, revision: int) -> None:
    """Says that an import, or the mending of its rows, made a revision of the records."""
    connection.execute(
        "update imports set revisions = array_prepend(%s::bigint, revisions) where job_id = %s", [revision, job_id]
    )


def note_fields(connection: Connection[Any], job_id: int, fields: dict[str, Any]) -> None:
    """Keeps what the fields were before an import, and after it."""
    connection.execute("update imports set fields = %s where job_id = %s", [Json(fields), job_id])


def note_undone(connection: Connection[Any], job_id: int, report: dict[str, int]) -> None:
    """Says that an import was undone, and what that came to."""
    connection.execute("update imports set undone = %s where job_id = %s", [Json(report), job_id])


def note_storing(connection: Connection[Any], job_id: int) -> None:
    """Says that everything is read, and becomes records now."""
    connection.execute("update jobs set phase = 'storing', updated_at = now() where id = %s", [job_id])


def add_rejected(connection: Connection[Any], job_id: int, rows: Iterable[RejectedRow]) -> None:
    """Keeps rows that could not be read."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into rejected_rows (job_id, row_number, line, reason, raw) values (%s, %s, %s, %s, %s)
            on conflict (job_id, row_number) do update set reason = excluded.reason, raw = excluded.raw
            """,
            [(job_id, row.row_number, row.line, row.reason, row.raw) for row in rows],
        )


def rejected_rows(connection: Connection[Any], job_id: int, first: int = 0, count: int = 1_000) -> list[RejectedRow]:
    """Rows that could not be read, in the order of the source."""
    with connection.cursor(row_factory=class_row(RejectedRow)) as cursor:
        return cursor.execute(
            """
            select row_number, line, reason, raw from rejected_rows
            where job_id = %s order by row_number limit %s offset %s
            """,
            [job_id, count, first],
        ).fetchall()


def all_rejected(connection: Connection[Any], job_id: int) -> Iterator[RejectedRow]:
    """Every rejected row, streamed."""
    with connection.cursor(name="all_rejected", row_factory=class_row(RejectedRow)) as cursor:
        cursor.itersize = 500
        cursor.execute(
            "select row_number, line, reason, raw from rejected_rows where job_id = %s order by row_number", [job_id]
        )
        yield from cursor


def drop_rejected(connection: Connection[Any], job_id: int, row_numbers: list[int] | None = None) -> None:
    """Forgets rejected rows: all of an import, or some."""
    if row_numbers is None:
        connection.execute("delete from rejected_rows where job_id = %s", [job_id])
    else:
        connection.execute(
            "delete from rejected_rows where job_id = %s and row_number = any(%s)", [job_id, row_numbers]
        )


def refresh_rejected(connection: Connection[Any], job_id: int) -> None:
    """Counts an import's rejected rows anew, once some were mended or it ended."""
    connection.execute(
        "update imports set rows_rejected = (select count(*) from rejected_rows where job_id = %s) where job_id = %s",
        [job_id, job_id],
    )


def rejected_in_collection(connection: Connection[Any], collection_id: int) -> int:
    """How many rejected rows of a collection's imports still wait to be mended."""
    row = connection.execute(
        "select count(*) from rejected_rows join jobs on jobs.id = job_id where collection_id = %s", [collection_id]
    ).fetchone()
    assert row is not None
    return int(row[0])
