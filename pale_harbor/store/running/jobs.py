"""The tables `jobs` and `rejected_rows`: long work, how far it is, and the rows it could not read."""

from collections.abc import Iterable, Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.running.holding import holding

JobState = Literal["waiting", "running", "done", "failed", "cancelled"]

# With a job's id the advisory lock of whoever does it; any number of our own.
_JOBS = 7_301


@dataclass(frozen=True, slots=True)
class Job:
    """A piece of long work. bytes_in_all: 0 where it cannot be known."""

    id: int
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
    created_at: datetime
    updated_at: datetime


@dataclass(frozen=True, slots=True)
class RejectedRow:
    """A row that could not be read: its number in the source, line, reason, and what stood there."""

    row_number: int
    line: int
    reason: str
    raw: str


def add_job(
    connection: Connection[Any],
    collection: str,
    source: dict[str, Any],
    plan: dict[str, Any],
    *,
    by_server: bool,
) -> int:
    """A new import, waiting to be done; returns its id."""
    row = connection.execute(
        """
        insert into jobs (kind, collection, source, plan, by_server)
        values ('import', %s, %s, %s, %s) returning id
        """,
        [collection, Json(source), Json(plan), by_server],
    ).fetchone()
    assert row is not None
    return int(row[0])


def drop_job(connection: Connection[Any], job_id: int) -> None:
    """Forgets a job, its rows included."""
    connection.execute("delete from jobs where id = %s", [job_id])


def job_with_id(connection: Connection[Any], job_id: int) -> Job:
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        job = cursor.execute(
            """
            select id, collection, state, source, plan, by_server, phase, rows_read, rows_rejected, bytes_read,
                bytes_in_all, cancel_wanted, problem, report, created_at, updated_at
            from jobs where id = %s
            """,
            [job_id],
        ).fetchone()
    if job is None:
        raise NotFound(f"There is no import {job_id}; perhaps its collection was dropped.")
    return job


def jobs_of(connection: Connection[Any], collection: str, count: int = 50) -> list[Job]:
    """A collection's imports, the latest first."""
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        return cursor.execute(
            """
            select id, collection, state, source, plan, by_server, phase, rows_read, rows_rejected, bytes_read,
                bytes_in_all, cancel_wanted, problem, report, created_at, updated_at
            from jobs where collection = %s order by id desc limit %s
            """,
            [collection, count],
        ).fetchall()


def unfinished_jobs(connection: Connection[Any]) -> list[Job]:
    """Imports that are waiting or running (or were when whoever did them ended), oldest first."""
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        return cursor.execute(
            """
            select id, collection, state, source, plan, by_server, phase, rows_read, rows_rejected, bytes_read,
                bytes_in_all, cancel_wanted, problem, report, created_at, updated_at
            from jobs where state in ('waiting', 'running') order by id
            """
        ).fetchall()


def holding_job(connection: Connection[Any], job_id: int) -> AbstractContextManager[bool]:
    """Makes the job this connection's own until the `with` ends; False where somebody else has it."""
    return holding(connection, _JOBS, job_id)


def is_held(connection: Connection[Any], job_id: int) -> bool:
    """Whether somebody is doing the job now."""
    row = connection.execute(
        """
        select exists (
            select from pg_locks
            where locktype = 'advisory' and classid = %s and objid = %s and granted
                and database = (select oid from pg_database where datname = current_database())
        )
        """,
        [_JOBS, job_id],
    ).fetchone()
    return row is not None and bool(row[0])


def note_progress(
    connection: Connection[Any], job_id: int, rows_read: int, rows_rejected: int, bytes_read: int, bytes_in_all: int
) -> bool:
    """Notes how far reading is; returns whether the job should go on."""
    row = connection.execute(
        """
        update jobs set state = 'running', phase = 'reading', rows_read = %s, rows_rejected = %s,
            bytes_read = %s, bytes_in_all = %s, updated_at = now()
        where id = %s returning cancel_wanted
        """,
        [rows_read, rows_rejected, bytes_read, bytes_in_all, job_id],
    ).fetchone()
    return row is not None and not row[0]


def note_phase(connection: Connection[Any], job_id: int, phase: str) -> None:
    connection.execute("update jobs set phase = %s, updated_at = now() where id = %s", [phase, job_id])


def finish_job(
    connection: Connection[Any],
    job_id: int,
    state: JobState,
    *,
    problem: str | None = None,
    report: dict[str, Any] | None = None,
) -> None:
    connection.execute(
        """
        update jobs set state = %s, problem = %s, report = %s, updated_at = now(), rows_rejected = (
            select count(*) from rejected_rows where job_id = %s
        ) where id = %s
        """,
        [state, problem, None if report is None else Json(report), job_id, job_id],
    )


def want_cancel(connection: Connection[Any], job_id: int) -> None:
    connection.execute("update jobs set cancel_wanted = true where id = %s", [job_id])


def add_rejected(connection: Connection[Any], job_id: int, rows: Iterable[RejectedRow]) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into rejected_rows (job_id, row_number, line, reason, raw) values (%s, %s, %s, %s, %s)
            on conflict (job_id, row_number) do update set reason = excluded.reason, raw = excluded.raw
            """,
            [(job_id, row.row_number, row.line, row.reason, row.raw) for row in rows],
        )


def rejected_rows(connection: Connection[Any], job_id: int, first: int = 0, count: int = 1_000) -> list[RejectedRow]:
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
    """Forgets rejected rows: all of a job, or some."""
    if row_numbers is None:
        connection.execute("delete from rejected_rows where job_id = %s", [job_id])
    else:
        connection.execute(
            "delete from rejected_rows where job_id = %s and row_number = any(%s)", [job_id, row_numbers]
        )


def refresh_rejected(connection: Connection[Any], job_id: int) -> None:
    """Counts a job's rejected rows anew, once some were mended."""
    connection.execute(
        "update jobs set rows_rejected = (select count(*) from rejected_rows where job_id = %s) where id = %s",
        [job_id, job_id],
    )


def rejected_in_collection(connection: Connection[Any], collection: str) -> int:
    """How many rejected rows of a collection's imports still wait to be mended."""
    row = connection.execute(
        "select count(*) from rejected_rows join jobs on jobs.id = job_id where collection = %s", [collection]
    ).fetchone()
    assert row is not None
    return int(row[0])
