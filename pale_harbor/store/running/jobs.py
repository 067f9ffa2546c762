"""The table `jobs`: long work of every kind, how far it is and how it ended. Whoever does it holds its lock."""

from contextlib import AbstractContextManager
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.running.holding import hold

JobKind = Literal[
    "import", "filling", "asking", "reading", "joining", "tuning", "ledger", "remedies", "simulating", "growing"
]
JobState = Literal["waiting", "running", "undecided", "done", "failed", "cancelled"]
FINISHED: Final = ("done", "failed", "cancelled")

# With a job's id the advisory lock of whoever does it; any number of our own.
_JOBS: Final = 7_301


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A piece of long work, its subject by id.

    new_collection: of an import, what the collection is to be called that it makes. by_server: whether the server does
    it (and takes it up again after a crash), or a command. in_all: 0 where it cannot be known. details: what it needs
    to know beside its subject. by_person, person_id: who asked for it, None where nobody signed in. A job
    that is undecided waits for somebody's word, and nobody does it meanwhile.
    """

    id: int
    kind: JobKind
    collection_id: int | None
    new_collection: str | None
    space_id: int | None
    outside_id: int | None
    set_id: int | None
    details: dict[str, Any]
    state: JobState
    by_server: bool
    phase: str
    done: int
    in_all: int
    cancel_wanted: bool
    problem: str | None
    report: dict[str, Any] | None
    by_person: str | None
    person_id: int | None
    created_at: datetime
    updated_at: datetime


def add_job(
    connection: Connection[Any],
    kind: JobKind,
    collection_id: int | None,
    *,
    by_server: bool,
    new_collection: str | None = None,
    space_id: int | None = None,
    outside_id: int | None = None,
    set_id: int | None = None,
    in_all: int = 0,
    details: dict[str, Any] | None = None,
) -> int:
    """A new job, waiting to be done; returns its id."""
    row = connection.execute(
        """
        insert into jobs (kind, collection_id, new_collection, space_id, outside_id, set_id, by_server, in_all, details)
        values (%s, %s, %s, %s, %s, %s, %s, %s, %s) returning id
        """,
        [kind, collection_id, new_collection, space_id, outside_id, set_id, by_server, in_all, Json(details or {})],
    ).fetchone()
    assert row is not None
    return int(row[0])


def job_with_id(connection: Connection[Any], job_id: int) -> Job:
    """Raises NotFound where it is gone, as with the collection that it was for."""
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        job = cursor.execute(
            """
            select id, kind, collection_id, new_collection, space_id, outside_id, set_id, details, state, by_server,
                phase, done, in_all, cancel_wanted, problem, report, by_person, person_id, created_at,
                updated_at
            from jobs where id = %s
            """,
            [job_id],
        ).fetchone()
    if job is None:
        raise NotFound(f"There is no job {job_id}; perhaps what it was for was dropped.")
    return job


def unfinished_jobs(connection: Connection[Any]) -> list[Job]:
    """Jobs that are waiting or running (or were when whoever did them ended), oldest first."""
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        return cursor.execute(
            """
            select id, kind, collection_id, new_collection, space_id, outside_id, set_id, details, state, by_server,
                phase, done, in_all, cancel_wanted, problem, report, by_person, person_id, created_at,
                updated_at
            from jobs where state in ('waiting', 'running') order by id
            """
        ).fetchall()


def jobs_of(connection: Connection[Any], kind: JobKind, collection_id: int) -> list[Job]:
    """A collection's jobs of a kind, the newest first."""
    with connection.cursor(row_factory=class_row(Job)) as cursor:
        return cursor.execute(
            """
            select id, kind, collection_id, new_collection, space_id, outside_id, set_id, details, state, by_server,
                phase, done, in_all, cancel_wanted, problem, report, by_person, person_id, created_at,
                updated_at
            from jobs where kind = %s and collection_id = %s order by id desc
            """,
            [kind, collection_id],
        ).fetchall()


def jobs_counted(connection: Connection[Any]) -> list[tuple[str, str, int]]:
    """How many jobs of each kind are in each state."""
    found = connection.execute("select kind, state, count(*) from jobs group by kind, state order by kind, state")
    return [(str(kind), str(state), int(count)) for kind, state, count in found]


def keep_newest(connection: Connection[Any], kind: JobKind, collection_id: int, count: int) -> None:
    """Forgets a collection's jobs of a kind that ended, but for the newest ones; so many of all are left."""
    for old in jobs_of(connection, kind, collection_id)[count:]:
        if old.state in FINISHED:
            forget_job(connection, old.id)


def holding_job(connection: Connection[Any], job_id: int) -> AbstractContextManager[bool]:
    """Makes the job this connection's own until the `with` ends; False where somebody else has it."""
    return hold(connection, _JOBS, job_id)


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


def note_progress(connection: Connection[Any], job_id: int, phase: str, done: int, in_all: int) -> bool:
    """Notes how far a job is; returns whether it should go on."""
    row = connection.execute(
        """
        update jobs set state = 'running', phase = %s, done = %s, in_all = %s, updated_at = now()
        where id = %s and state in ('waiting', 'running') returning cancel_wanted
        """,
        [phase, done, in_all, job_id],
    ).fetchone()
    return row is not None and not row[0]


def end_job(
    connection: Connection[Any],
    job_id: int,
    state: JobState,
    *,
    problem: str | None = None,
    report: dict[str, Any] | None = None,
) -> bool:
    """Says how a job ended; False where that was said already, or where it waits for somebody's word."""
    ended = connection.execute(
        """
        update jobs set state = %s, problem = %s, report = %s, updated_at = now()
        where id = %s and state in ('waiting', 'running')
        """,
        [state, problem, None if report is None else Json(report), job_id],
    )
    return ended.rowcount == 1


def leave_undecided(connection: Connection[Any], job_id: int) -> None:
    """Says that a job waits for somebody to decide whether it goes on."""
    connection.execute("update jobs set state = 'undecided', updated_at = now() where id = %s", [job_id])


def take_up_again(connection: Connection[Any], job_id: int) -> bool:
    """Says that an undecided job waits to be done; False where it was none."""
    taken = connection.execute(
        "update jobs set state = 'waiting', updated_at = now() where id = %s and state = 'undecided'", [job_id]
    )
    return taken.rowcount == 1


def want_cancel(connection: Connection[Any], job_id: int) -> None:
    """Says that nobody wants a job any more; whoever does it sees that."""
    connection.execute(
        "update jobs set cancel_wanted = true where id = %s and state in ('waiting', 'running')", [job_id]
    )


def forget_job(connection: Connection[Any], job_id: int) -> None:
    """Forgets a job with all that is kept for it."""
    connection.execute("delete from jobs where id = %s", [job_id])


def forget_finished(connection: Connection[Any], kind: JobKind, collection_id: int) -> None:
    """Forgets a collection's jobs of a kind that ended: for those whose end nobody asks for later."""
    connection.execute(
        "delete from jobs where kind = %s and collection_id = %s and state not in ('waiting', 'running')",
        [kind, collection_id],
    )
