"""The table `spaces`: what each space is, how far its filling is, and what its vectors were made with."""

from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any, Final, Literal

from psycopg import Connection
from psycopg.errors import UniqueViolation
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.running.holding import holding

SpaceState = Literal["new", "waiting", "running", "done", "failed", "cancelled"]

# With a space's id the advisory lock of whoever fills it; any number of our own.
_SPACES: Final = 7_302


@dataclass(frozen=True, slots=True)
class Space:
    """A space as kept. records_revision: the collection's, that it was filled for last."""

    id: int
    collection_id: int
    name: str
    document: dict[str, Any]
    model: str | None
    dimensions: int | None
    epoch: int
    revision: int
    records_revision: int | None
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
            select id, collection_id, name, document, model, dimensions, epoch, revision, records_revision, state,
                phase, done, in_all, cancel_wanted, problem, report
            from spaces where collection_id = %s order by name
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
            select id, collection_id, name, document, model, dimensions, epoch, revision, records_revision, state,
                phase, done, in_all, cancel_wanted, problem, report
            from spaces where id = %s
            """,
            [space_id],
        ).fetchone()


def spaces_to_fill(connection: Connection[Any]) -> list[Space]:
    """Spaces that wait to be filled, were being filled when whoever did it ended, or whose records changed since.

    A filling that failed or was cancelled waits for a person.
    """
    with connection.cursor(row_factory=class_row(Space)) as cursor:
        return cursor.execute(
            """
            select s.id, collection_id, s.name, document, model, dimensions, epoch, s.revision, records_revision,
                state, phase, done, in_all, cancel_wanted, problem, report
            from spaces as s join collections as c on c.id = collection_id
            where state in ('waiting', 'running')
                or (state = 'done' and records_revision is distinct from c.revision
                    and coalesce((document -> 'source' ->> 'follow')::boolean, true))
            order by s.id
            """
        ).fetchall()


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
    connection.execute("delete from spaces where id = %s", [space_id])


def holding_space(connection: Connection[Any], space_id: int) -> AbstractContextManager[bool]:
    """Makes the filling this connection's own until the `with` ends; False where somebody else has it."""
    return holding(connection, _SPACES, space_id)


def want_filling(connection: Connection[Any], space_id: int) -> None:
    """Says that a space is to be filled, unless somebody is at it."""
    connection.execute(
        """
        update spaces set state = 'waiting', cancel_wanted = false, problem = null, phase = '', done = 0, in_all = 0,
            updated_at = now()
        where id = %s and state not in ('waiting', 'running')
        """,
        [space_id],
    )


def want_no_filling(connection: Connection[Any], space_id: int) -> None:
    connection.execute(
        "update spaces set cancel_wanted = true where id = %s and state in ('waiting', 'running')", [space_id]
    )


def note_filling(connection: Connection[Any], space_id: int, phase: str, done: int, in_all: int) -> bool:
    """Notes how far the filling is; returns whether it should go on."""
    row = connection.execute(
        """
        update spaces set state = 'running', phase = %s, done = %s, in_all = %s, updated_at = now()
        where id = %s returning cancel_wanted
        """,
        [phase, done, in_all, space_id],
    ).fetchone()
    return row is not None and not row[0]


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


def end_filling(
    connection: Connection[Any],
    space_id: int,
    state: SpaceState,
    *,
    problem: str | None = None,
    report: dict[str, Any] | None = None,
    records_revision: int | None = None,
) -> None:
    """Whatever the end, the vectors that there are count from now on. report, records_revision: None leaves them."""
    connection.execute(
        """
        update spaces set state = %s, problem = %s, report = coalesce(%s, report), cancel_wanted = false,
            records_revision = coalesce(%s, records_revision), revision = revision + 1, updated_at = now()
        where id = %s
        """,
        [state, problem, None if report is None else Json(report), records_revision, space_id],
    )


def keep_learned(connection: Connection[Any], space_id: int, epoch: int, content: bytes) -> None:
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
