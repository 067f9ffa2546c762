"""The table `outside_rankers`: rankers that are not ours, from a run file or asked over HTTP."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import check_name


@dataclass(frozen=True, slots=True)
class OutsideRanker:
    """secrets: header values, for the service alone. set_id, done, in_all, problem: of the last asking."""

    id: int
    collection_id: int
    name: str
    document: dict[str, Any]
    secrets: dict[str, str]
    state: str
    set_id: int | None
    done: int
    in_all: int
    cancel_wanted: bool
    problem: str | None


def outside_rankers_of(connection: Connection[Any], collection_id: int) -> list[OutsideRanker]:
    with connection.cursor(row_factory=class_row(OutsideRanker)) as cursor:
        return cursor.execute(
            """
            select id, collection_id, name, document, secrets, state, set_id, done, in_all, cancel_wanted, problem
            from outside_rankers where collection_id = %s order by name
            """,
            [collection_id],
        ).fetchall()


def outside_named(connection: Connection[Any], collection_id: int, name: str) -> OutsideRanker:
    known = outside_rankers_of(connection, collection_id)
    found = next((one for one in known if one.name == name), None)
    if found is None:
        names = ", ".join(one.name for one in known)
        raise NotFound(
            f'There is no outside ranker "{name[:80]}". {f"There are: {names}." if names else "There is none yet."}'
        )
    return found


def put_outside(
    connection: Connection[Any], collection_id: int, name: str, document: dict[str, Any], secrets: dict[str, str]
) -> None:
    """Makes an outside ranker, or says anew what it is."""
    check_name(name)
    connection.execute(
        """
        insert into outside_rankers (collection_id, name, document, secrets) values (%s, %s, %s, %s)
        on conflict (collection_id, name) do update set document = excluded.document, secrets = excluded.secrets
        """,
        [collection_id, name, Json(document), Json(secrets)],
    )


def drop_outside(connection: Connection[Any], outside_id: int) -> None:
    """Drops an outside ranker with its runs."""
    connection.execute("delete from outside_rankers where id = %s", [outside_id])


def begin_asking(connection: Connection[Any], outside_id: int, set_id: int, in_all: int) -> bool:
    """Says that it is being asked; False where somebody else asks it already."""
    begun = connection.execute(
        """
        update outside_rankers
        set state = 'running', set_id = %s, done = 0, in_all = %s, cancel_wanted = false, problem = null
        where id = %s and state <> 'running'
        """,
        [set_id, in_all, outside_id],
    )
    return begun.rowcount == 1


def note_asked(connection: Connection[Any], outside_id: int, done: int) -> bool:
    """Notes how many queries were asked; whether somebody wants the asking to end."""
    row = connection.execute(
        "update outside_rankers set done = %s where id = %s returning cancel_wanted", [done, outside_id]
    ).fetchone()
    return row is None or bool(row[0])


def end_asking(connection: Connection[Any], outside_id: int, state: str, problem: str | None = None) -> None:
    connection.execute(
        "update outside_rankers set state = %s, problem = %s where id = %s", [state, problem, outside_id]
    )


def want_end(connection: Connection[Any], outside_id: int) -> None:
    connection.execute("update outside_rankers set cancel_wanted = true where id = %s", [outside_id])


def end_cut_off(connection: Connection[Any]) -> int:
    """Says of askings that a crash cut off that they failed; returns how many."""
    return connection.execute(
        """
        update outside_rankers set state = 'failed',
            problem = 'The server stopped while it asked. Ask again: what it had was not kept.'
        where state in ('waiting', 'running')
        """
    ).rowcount
