"""The table `outside_rankers`: rankers that are not ours, from a run file or asked over HTTP."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import check_name
from pale_harbor.store.running.jobs import add_job


@dataclass(frozen=True, slots=True, kw_only=True)
class OutsideRanker:
    """secrets: header values, sealed, for the service alone. job: of the last asking; set_id to problem: of it."""

    id: int
    collection_id: int
    name: str
    document: dict[str, Any]
    secrets: dict[str, str]
    job: int | None
    state: str
    set_id: int | None
    done: int
    in_all: int
    cancel_wanted: bool
    problem: str | None


def outside_rankers_of(connection: Connection[Any], collection_id: int) -> list[OutsideRanker]:
    """A collection's outside rankers, by name."""
    return _outside_rankers(connection, collection_id, None)


def outside_with_id(connection: Connection[Any], outside_id: int | None) -> OutsideRanker | None:
    """None where it was dropped."""
    return next(iter(_outside_rankers(connection, None, outside_id)), None) if outside_id is not None else None


def _outside_rankers(
    connection: Connection[Any], collection_id: int | None, outside_id: int | None
) -> list[OutsideRanker]:
    with connection.cursor(row_factory=class_row(OutsideRanker)) as cursor:
        return cursor.execute(
            """
            select o.id, o.collection_id, name, document, secrets, job.id as job,
                coalesce(job.state, case when document ->> 'kind' = 'file' then 'done' else 'new' end) as state,
                job.set_id, coalesce(job.done, 0) as done, coalesce(job.in_all, 0) as in_all,
                coalesce(job.cancel_wanted, false) as cancel_wanted, job.problem
            from outside_rankers as o left join lateral (
                select * from jobs where outside_id = o.id order by id desc limit 1
            ) as job on true
            where o.collection_id = coalesce(%s, o.collection_id) and o.id = coalesce(%s, o.id) order by name
            """,
            [collection_id, outside_id],
        ).fetchall()


def outside_named(connection: Connection[Any], collection_id: int, name: str) -> OutsideRanker:
    """An outside ranker by its name. Raises NotFound."""
    known = outside_rankers_of(connection, collection_id)
    found = next((one for one in known if one.name == name), None)
    if found is None:
        names = ", ".join(one.name for one in known)
        raise NotFound(
            f'There is no outside ranker "{name[:80]}". {f"There are: {names}." if names else "There is none yet."}'
        )
    return found


def all_secrets(connection: Connection[Any]) -> dict[int, dict[str, str]]:
    """What is kept as secret of every outside ranker, by its id."""
    return dict(connection.execute("select id, secrets from outside_rankers for update").fetchall())


def set_secrets(connection: Connection[Any], outside_id: int, secrets: dict[str, str]) -> None:
    """Keeps an outside ranker's secrets otherwise."""
    connection.execute("update outside_rankers set secrets = %s where id = %s", [Json(secrets), outside_id])


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


def add_asking(
    connection: Connection[Any], outside: OutsideRanker, set_id: int, in_all: int, *, by_server: bool
) -> int:
    """A new asking for a judged set, in place of earlier ones; returns the job's id."""
    connection.execute("delete from jobs where outside_id = %s", [outside.id])
    return add_job(
        connection,
        "asking",
        outside.collection_id,
        by_server=by_server,
        outside_id=outside.id,
        set_id=set_id,
        in_all=in_all,
    )
