"""The table `spaces`: what each space is, what its vectors were made with, and the job that fills it."""

from dataclasses import dataclass
from typing import Any, Literal

from psycopg import Connection
from psycopg.errors import UniqueViolation
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.running.jobs import add_job

SpaceState = Literal["new", "waiting", "running", "done", "failed", "cancelled"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Space:
    """A space as kept. records_revision: the collection's, that it was filled for last.

    job: that fills it, or did last; state to problem: of that job.
    """

    id: int
    collection_id: int
    name: str
    document: dict[str, Any]
    model: str | None
    dimensions: int | None
    epoch: int
    revision: int
    records_revision: int | None
    job: int | None
    state: SpaceState
    phase: str
    done: int
    in_all: int
    cancel_wanted: bool
    problem: str | None
    report: dict[str, Any] | None

    @property
    def identity(self) -> str:
        """Names the state of its vectors: whatever was computed from another one may differ."""
        return f"{self.name}#{self.id}.{self.epoch}.{self.revision}"


def spaces_of(connection: Connection[Any], collection_id: int) -> list[Space]:
    """A collection's spaces, by name."""
    with connection.cursor(row_factory=class_row(Space)) as cursor:
        return cursor.execute(
            """
            select s.id, s.collection_id, name, document, model, dimensions, epoch, revision, records_revision,
                job.id as job, coalesce(job.state, 'new') as state, coalesce(job.phase, '') as phase,
                coalesce(job.done, 0) as done, coalesce(job.in_all, 0) as in_all,
                coalesce(job.cancel_wanted, false) as cancel_wanted, job.problem, s.report
            from spaces as s left join lateral (
                select * from jobs where space_id = s.id order by id desc limit 1
            ) as job on true
            where s.collection_id = %s order by name
            """,
            [collection_id],
        ).fetchall()


def space_named(connection: Connection[Any], collection_id: int, name: str) -> Space:
    """Raises NotFound, which names those that there are."""
    spaces = spaces_of(connection, collection_id)
    found = next((space for space in spaces if space.name == name), None)
    if found is None:
        known = f"There are: {', '.join(space.name for space in spaces)}." if spaces else "There is none yet."
        raise NotFound(f'There is no space "{name[:200]}". {known}')
    return found


def space_with_id(connection: Connection[Any], space_id: int) -> Space | None:
    """None where it was dropped."""
    with connection.cursor(row_factory=class_row(Space)) as cursor:
        return cursor.execute(
            """
            select s.id, s.collection_id, name, document, model, dimensions, epoch, revision, records_revision,
                job.id as job, coalesce(job.state, 'new') as state, coalesce(job.phase, '') as phase,
                coalesce(job.done, 0) as done, coalesce(job.in_all, 0) as in_all,
                coalesce(job.cancel_wanted, false) as cancel_wanted, job.problem, s.report
            from spaces as s left join lateral (
                select * from jobs where space_id = s.id order by id desc limit 1
            ) as job on true
            where s.id = %s
            """,
            [space_id],
        ).fetchone()


def want_followed(connection: Connection[Any]) -> None:
    """Has every filled space filled again whose records changed since, unless it asks for something that costs.

    A filling that failed or was cancelled waits for a person.
    """
    connection.execute(
        """
        insert into jobs (kind, collection_id, space_id, by_server)
        select 'filling', s.collection_id, s.id, true
        from spaces as s join collections as c on c.id = s.collection_id
        where records_revision is distinct from c.revision
            and coalesce((document -> 'source' ->> 'follow')::boolean, true)
            and 'done' = (select state from jobs where space_id = s.id order by id desc limit 1)
        """
    )
    # Of earlier fillings the report stays, and that is in the space.
    connection.execute(
        """
        delete from jobs as old using jobs as newer
        where old.space_id = newer.space_id and old.id < newer.id and old.state not in ('waiting', 'running')
        """
    )


def spaces_behind(connection: Connection[Any]) -> int:
    """How many filled spaces have records that changed since."""
    row = connection.execute(
        """
        select count(*) from spaces as s join collections as c on c.id = s.collection_id
        where records_revision is not null and records_revision <> c.revision
        """
    ).fetchone()
    return 0 if row is None else int(row[0])


def make_space(connection: Connection[Any], collection_id: int, name: str, document: dict[str, Any]) -> Space:
    """A new space without vectors. Raises BadInput where there is one of that name."""
    try:
        with connection.transaction():
            connection.execute(
                "insert into spaces (collection_id, name, document) values (%s, %s, %s)",
                [collection_id, name, Json(document)],
            )
    except UniqueViolation as error:
        raise BadInput(
            f'There is a space "{name}" already. A space never changes what it is: choose another name, or drop it.'
        ) from error
    return space_named(connection, collection_id, name)


def drop_space(connection: Connection[Any], space_id: int) -> None:
    """Drops a space with all its vectors."""
    connection.execute("delete from spaces where id = %s", [space_id])


def want_filling(connection: Connection[Any], space: Space) -> int:
    """Says that a space is to be filled, unless that was said already; returns the job's id."""
    if space.job is not None and space.state in ("waiting", "running"):
        return space.job
    return add_job(connection, "filling", space.collection_id, by_server=True, space_id=space.id)


def begin_epoch(connection: Connection[Any], space_id: int, model: str, dimensions: int) -> None:
    """Throws a space's vectors away; from now on they are of this model."""
    connection.execute("delete from vectors where space_id = %s", [space_id])
    connection.execute(
        "update spaces set epoch = epoch + 1, model = %s, dimensions = %s where id = %s", [model, dimensions, space_id]
    )


def forget_model(connection: Connection[Any], space_id: int) -> None:
    """Empties a space: the next filling begins with a new epoch."""
    connection.execute("delete from vectors where space_id = %s", [space_id])
    connection.execute("delete from learned_models where space_id = %s", [space_id])
    connection.execute(
        """
        update spaces set epoch = epoch + 1, model = null, dimensions = null, report = null, records_revision = null
        where id = %s
        """,
        [space_id],
    )


def note_filled(
    connection: Connection[Any],
    space_id: int,
    *,
    report: dict[str, Any] | None = None,
    records_revision: int | None = None,
) -> None:
    """Whatever the end, the vectors that there are count from now on. report, records_revision: None leaves them."""
    connection.execute(
        """
        update spaces set report = coalesce(%s, report), records_revision = coalesce(%s, records_revision),
            revision = revision + 1, updated_at = now()
        where id = %s
        """,
        [None if report is None else Json(report), records_revision, space_id],
    )


def keep_learned(connection: Connection[Any], space_id: int, epoch: int, content: bytes) -> None:
    """Keeps what a space has learned, in place of what it had."""
    connection.execute(
        """
        insert into learned_models (space_id, epoch, content) values (%s, %s, %s)
        on conflict (space_id) do update set epoch = excluded.epoch, content = excluded.content
        """,
        [space_id, epoch, content],
    )


def learned_content(connection: Connection[Any], space_id: int, epoch: int) -> bytes | None:
    """What was learned in an epoch; None where that was another one."""
    row = connection.execute(
        "select content from learned_models where space_id = %s and epoch = %s", [space_id, epoch]
    ).fetchone()
    return None if row is None else bytes(row[0])
