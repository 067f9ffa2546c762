"""The tables `followed_sources` and `unfit_rows`: what a collection follows, and how far it is."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput
from pale_harbor.store.imports.incoming import Merged

State = Literal["following", "paused", "undecided"]

# With a collection's id the advisory lock of whoever follows for it; any number of our own.
FOLLOWING: Final = 7_303


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowedSource:
    """A collection's source and how far it is. See the migration for each."""

    collection_id: int
    collection: str
    connection_id: int
    connection: str
    document: dict[str, Any]
    number: int
    mark: str
    state: State
    position: dict[str, Any]
    columns: list[str] | None
    whole_wanted: bool
    outlook: dict[str, Any] | None
    agreed: int | None
    phase: str
    done: int
    in_all: int
    waiting: int
    behind_s: float
    problem: str | None
    problem_since: datetime | None
    heard_at: datetime | None
    in_step_at: datetime | None
    swept_at: datetime | None
    compared_at: datetime | None
    changes: int
    added: int
    updated: int
    deleted: int
    kept_bytes: int
    by_person: str | None
    made_at: datetime
    unfit: int


@dataclass(frozen=True, slots=True)
class UnfitRow:
    """A row that cannot become a record, by its key, and since when."""

    key: str
    reason: str
    at: datetime


_COLUMNS: Final = """
    f.collection_id, collections.name as collection, connection_id, connections.name as connection, f.document, number,
    mark, state, position, columns, whole_wanted, outlook, agreed, phase, done, in_all, waiting, behind_s, problem,
    problem_since, heard_at, in_step_at, swept_at, compared_at, changes, added, updated, deleted, kept_bytes,
    f.by_person, made_at,
    (select count(*) from unfit_rows where unfit_rows.collection_id = f.collection_id) as unfit
"""


def followed_by(connection: Connection[Any], collection_id: int) -> FollowedSource | None:
    """What a collection follows, None where it follows nothing."""
    return next(iter(_sources(connection, collection_id)), None)


def all_followed(connection: Connection[Any]) -> list[FollowedSource]:
    """What all collections follow."""
    return _sources(connection, None)


def _sources(connection: Connection[Any], collection_id: int | None) -> list[FollowedSource]:
    with connection.cursor(row_factory=class_row(FollowedSource)) as cursor:
        return cursor.execute(
            f"""
            select {_COLUMNS}
            from followed_sources as f join collections on collections.id = f.collection_id
            join connections on connections.id = f.connection_id
            where f.collection_id = coalesce(%s, f.collection_id) order by f.collection_id
            """,  # noqa: S608  # columns of ours
            [collection_id],
        ).fetchall()


def follows_anything(connection: Connection[Any]) -> bool:
    """Whether any collection is to be kept in step now."""
    row = connection.execute("select exists (select from followed_sources where state <> 'paused')").fetchone()
    return row == (True,)


def refuse_followed(connection: Connection[Any], collection_id: int) -> None:
    """Raises BadInput where a collection's records follow a live database: what is changed here would not last."""
    row = connection.execute(
        """
        select connections.name from followed_sources join connections on connections.id = connection_id
        where followed_sources.collection_id = %s
        """,
        [collection_id],
    ).fetchone()
    if row is not None:
        raise BadInput(
            f'These records follow the database "{row[0]}": change them there, and they change here. To change them '
            "here, end the following first (Records, In step)."
        )


def put_followed(
    connection: Connection[Any], collection_id: int, connection_id: int, mark: str, document: dict[str, Any]
) -> None:
    """Has a collection follow a source, or says anew how. All of it is read once more.

    mark: what its things in the other database are called by.
    """
    connection.execute(
        """
        insert into followed_sources (collection_id, connection_id, document, mark) values (%s, %s, %s, %s)
        on conflict (collection_id) do update set
            connection_id = excluded.connection_id, document = excluded.document,
            number = followed_sources.number + 1, state = 'following', position = '{}', columns = null,
            whole_wanted = true, outlook = null, agreed = null, phase = '', done = 0, in_all = 0, waiting = 0,
            behind_s = 0, problem = null, problem_since = null, in_step_at = null, swept_at = null
        """,
        [collection_id, connection_id, Json(document), mark],
    )


def set_state(connection: Connection[Any], collection_id: int, state: State) -> None:
    """Pauses a following, or has it go on."""
    connection.execute(
        """
        update followed_sources set state = %s, problem = null, problem_since = null, outlook = null
        where collection_id = %s
        """,
        [state, collection_id],
    )


def want_whole(connection: Connection[Any], collection_id: int, *, forget_columns: bool = False) -> None:
    """Has everything read once more. forget_columns: whatever columns the query gives by now are right."""
    connection.execute(
        """
        update followed_sources set whole_wanted = true, columns = case when %s then null else columns end
        where collection_id = %s
        """,
        [forget_columns, collection_id],
    )


def leave_to_decide(connection: Connection[Any], collection_id: int, outlook: Mapping[str, Any]) -> None:
    """Says what reading everything would do, for somebody to decide about."""
    connection.execute(
        "update followed_sources set state = 'undecided', outlook = %s, phase = '' where collection_id = %s",
        [Json(dict(outlook)), collection_id],
    )


def agree_to(connection: Connection[Any], collection_id: int, deletions: int) -> bool:
    """Lets everything that is read delete so many records; False where nothing waits for that."""
    agreed = connection.execute(
        """
        update followed_sources set state = 'following', agreed = %s, outlook = null
        where collection_id = %s and state = 'undecided'
        """,
        [deletions, collection_id],
    )
    return agreed.rowcount == 1


def end_following(connection: Connection[Any], collection_id: int) -> None:
    """Has a collection follow nothing any more; its records stay."""
    connection.execute("delete from followed_sources where collection_id = %s", [collection_id])


def note_taken(
    connection: Connection[Any],
    source: FollowedSource,
    position: Mapping[str, Any],
    merged: Merged,
    *,
    changes: int,
    columns: Sequence[str],
    whole: bool,
    wants_whole: bool = False,
) -> bool:
    """Notes up to where changes are kept, in the transaction that keeps them; False where the source was said anew
    meanwhile, and nothing of them may be kept.

    whole: whether everything was read; wants_whole: whether it has to be.
    """
    noted = connection.execute(
        """
        update followed_sources set
            position = %(position)s, changes = changes + %(changes)s, added = added + %(added)s,
            updated = updated + %(updated)s, deleted = deleted + %(deleted)s, columns = %(columns)s,
            whole_wanted = (whole_wanted and not %(whole)s) or %(wants_whole)s,
            agreed = case when %(whole)s then null else agreed end,
            compared_at = case when %(whole)s then now() else compared_at end
        where collection_id = %(id)s and number = %(number)s and state = 'following'
        """,
        {
            "position": Json(dict(position)),
            "changes": changes,
            "added": merged.added,
            "updated": merged.updated,
            "deleted": merged.deleted,
            "columns": Json(list(columns)),
            "whole": whole,
            "wants_whole": wants_whole,
            "id": source.collection_id,
            "number": source.number,
        },
    )
    return noted.rowcount == 1


def note_swept(connection: Connection[Any], collection_id: int) -> None:
    """Notes that keys were compared: what was agreed to was for that."""
    connection.execute(
        "update followed_sources set swept_at = now(), agreed = null where collection_id = %s", [collection_id]
    )


def note_standing(
    connection: Connection[Any],
    collection_id: int,
    *,
    phase: str = "",
    done: int = 0,
    in_all: int = 0,
    waiting: int = 0,
    behind_s: float = 0.0,
    kept_bytes: int = 0,
) -> None:
    """Notes how far a following is: the source answered."""
    connection.execute(
        """
        update followed_sources set
            phase = %(phase)s, done = %(done)s, in_all = %(in_all)s, waiting = %(waiting)s, behind_s = %(behind)s,
            kept_bytes = %(kept)s, heard_at = now(), problem = null, problem_since = null,
            in_step_at = case when %(waiting)s = 0 and %(phase)s = '' then now() else in_step_at end
        where collection_id = %(id)s
        """,
        {
            "phase": phase,
            "done": done,
            "in_all": in_all,
            "waiting": waiting,
            "behind": behind_s,
            "kept": kept_bytes,
            "id": collection_id,
        },
    )


def note_problem(connection: Connection[Any], collection_id: int, problem: str) -> None:
    """Notes why it goes no further; since when, where it is the same as before."""
    connection.execute(
        """
        update followed_sources set
            problem_since = case when problem = %(problem)s then problem_since else now() end,
            problem = %(problem)s, phase = ''
        where collection_id = %(id)s and problem is distinct from %(problem)s
        """,
        {"problem": problem, "id": collection_id},
    )


def put_unfit(connection: Connection[Any], collection_id: int, fit: Sequence[str], unfit: Mapping[str, str]) -> None:
    """Notes rows that cannot become records by their keys, with the reason, and that others can (or are gone)."""
    connection.execute(
        "delete from unfit_rows where collection_id = %s and key = any(%s)", [collection_id, [*fit, *unfit]]
    )
    _add_unfit(connection, collection_id, unfit)


def put_all_unfit(connection: Connection[Any], collection_id: int, unfit: Mapping[str, str]) -> None:
    """The same where every row was read."""
    connection.execute("delete from unfit_rows where collection_id = %s", [collection_id])
    _add_unfit(connection, collection_id, unfit)


def _add_unfit(connection: Connection[Any], collection_id: int, unfit: Mapping[str, str]) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into unfit_rows (collection_id, key, reason) values (%s, %s, %s)",
            [(collection_id, key, reason) for key, reason in unfit.items()],
        )


def unfit_rows(connection: Connection[Any], collection_id: int, first: int, count: int) -> list[UnfitRow]:
    """Rows that cannot become records, by key."""
    with connection.cursor(row_factory=class_row(UnfitRow)) as cursor:
        return cursor.execute(
            "select key, reason, at from unfit_rows where collection_id = %s order by key limit %s offset %s",
            [collection_id, count, first],
        ).fetchall()


def pause_all(connection: Connection[Any], why: str) -> None:
    """Pauses every following, as of a copy of the data that somebody else may follow with."""
    connection.execute(
        "update followed_sources set state = 'paused', problem = %s, problem_since = now(), whole_wanted = true", [why]
    )


def forget_earlier_of_followed(connection: Connection[Any]) -> int:
    """Forgets what records that follow a source were before they changed, where that is long ago; returns how many.

    What was deleted stays as it was last.
    """
    return connection.execute(
        """
        delete from earlier_records using followed_sources as f
        where earlier_records.collection_id = f.collection_id and ended_by = 'change'
            and ended_at < now() - make_interval(secs => 86400 * (f.document ->> 'kept_days')::float8)
        """
    ).rowcount
