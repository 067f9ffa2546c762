"""The tables `judged_sets`, `queries` and `grades`, in revisions.

Whatever changes a set makes one new revision of it. A row holds from its `since` on until, and without, its `until`;
what held in an old revision is still there to be measured again.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row, kwargs_row
from psycopg.types.json import Json

from pale_harbor.core.judging import Settling
from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import check_name


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedSet:
    """queries_revision: the revision that last changed the queries; meanings: of the grades 0 to 3, in the set's own
    words, empty where it has none."""

    id: int
    collection_id: int
    name: str
    revision: int
    queries_revision: int
    settling: Settling
    locked_share: float
    meanings: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SetQuery:
    """A judged query. filters: as documents; asked: how often visitors asked it, None where nobody knows."""

    query_id: str
    query: str
    need: str = ""
    tags: list[str] = field(default_factory=list[str])
    filters: list[dict[str, Any]] = field(default_factory=list[dict[str, Any]])
    language: str | None = None
    asked: int | None = None
    nothing_to_find: bool = False
    locked: bool = False


def sets_of(connection: Connection[Any], collection_id: int) -> list[JudgedSet]:
    """A collection's judged sets, by name."""
    with connection.cursor(row_factory=kwargs_row(_judged_set)) as cursor:
        return cursor.execute(
            """
            select id, collection_id, name, revision, queries_revision, settling, locked_share, meanings
            from judged_sets where collection_id = %s order by name
            """,
            [collection_id],
        ).fetchall()


def _judged_set(*, settling: str, **columns: Any) -> JudgedSet:
    return JudgedSet(settling=Settling(settling), **columns)


def set_named(connection: Connection[Any], collection_id: int, name: str) -> JudgedSet:
    """A judged set by its name. Raises NotFound, which names those that there are."""
    sets = sets_of(connection, collection_id)
    found = next((judged_set for judged_set in sets if judged_set.name == name), None)
    if found is None:
        names = ", ".join(judged_set.name for judged_set in sets)
        known = f"There are: {names}." if names else "None is loaded yet."
        raise NotFound(f'There is no judged set "{name}". {known}')
    return found


def held_set(connection: Connection[Any], collection_id: int, name: str) -> JudgedSet:
    """The set, which nobody else changes until this transaction ends."""
    connection.execute(
        "select from judged_sets where collection_id = %s and name = %s for update", [collection_id, name]
    )
    return set_named(connection, collection_id, name)


def make_set(connection: Connection[Any], collection_id: int, name: str) -> JudgedSet:
    """The set of that name, held; made where there is none."""
    check_name(name)
    connection.execute(
        "insert into judged_sets (collection_id, name) values (%s, %s) on conflict (collection_id, name) do nothing",
        [collection_id, name],
    )
    return held_set(connection, collection_id, name)


def drop_set(connection: Connection[Any], set_id: int) -> None:
    """Drops a judged set with all that was judged."""
    connection.execute("delete from judged_sets where id = %s", [set_id])


def put_rules(
    connection: Connection[Any], set_id: int, settling: Settling, locked_share: float, meanings: Sequence[str]
) -> None:
    """Keeps how grades are settled and what they mean, and which share of new queries is locked away."""
    connection.execute(
        "update judged_sets set settling = %s, locked_share = %s, meanings = %s::text[] where id = %s",
        [str(settling), locked_share, list(meanings), set_id],
    )


def set_with_id(connection: Connection[Any], set_id: int) -> tuple[JudgedSet, str]:
    """A judged set, and the name of its collection. Raises NotFound where it was dropped."""
    row = connection.execute(
        """
        select collection_id, collections.name, judged_sets.name from judged_sets
        join collections on collections.id = collection_id where judged_sets.id = %s
        """,
        [set_id],
    ).fetchone()
    if row is None:
        raise NotFound("The judged set was dropped meanwhile.")
    return set_named(connection, row[0], row[2]), str(row[1])


def next_revision(connection: Connection[Any], judged_set: JudgedSet, *, of_queries: bool) -> int:
    """Begins another revision of a held set, and returns its number."""
    row = connection.execute(
        """
        update judged_sets set revision = revision + 1,
            queries_revision = case when %s then revision + 1 else queries_revision end
        where id = %s returning revision
        """,
        [of_queries, judged_set.id],
    ).fetchone()
    assert row is not None
    return int(row[0])


@dataclass(frozen=True, slots=True, kw_only=True)
class SetCounts:
    """How much a judged set holds now. locked: of its queries."""

    queries: int
    locked: int
    grades: int
    expectations: int


def counts_of(connection: Connection[Any], collection_id: int) -> dict[int, SetCounts]:
    """What each judged set of a collection holds, counted where it lies."""
    rows = connection.execute(
        """
        select id,
            (select count(*) from queries where set_id = judged_sets.id and until is null),
            (select count(*) from queries where set_id = judged_sets.id and until is null and locked),
            (select count(*) from grades where set_id = judged_sets.id and until is null),
            (select count(*) from expectations where set_id = judged_sets.id and until is null)
        from judged_sets where collection_id = %s order by id
        """,
        [collection_id],
    )
    return {
        set_id: SetCounts(queries=queries, locked=locked, grades=grades, expectations=expectations)
        for set_id, queries, locked, grades, expectations in rows
    }


def queries_of(connection: Connection[Any], set_id: int, revision: int | None = None) -> list[SetQuery]:
    """Its queries in order, as they are or as they were in a revision."""
    with connection.cursor(row_factory=class_row(SetQuery)) as cursor:
        return cursor.execute(
            """
            select query_id, query, need, tags, filters, language, asked, nothing_to_find, locked from queries
            where set_id = %(set)s and (
                (%(revision)s::bigint is null and until is null)
                or (since <= %(revision)s and (until is null or until > %(revision)s))
            )
            order by place, query_id
            """,
            {"set": set_id, "revision": revision},
        ).fetchall()


def grades_of(connection: Connection[Any], set_id: int, revision: int | None = None) -> dict[str, dict[str, int]]:
    """The grades that count by query and record key, as they are or as they were in a revision."""
    grades: dict[str, dict[str, int]] = {}
    for query_id, record_key, grade in connection.execute(
        """
        select query_id, record_key, grade from grades
        where set_id = %(set)s and (
            (%(revision)s::bigint is null and until is null)
            or (since <= %(revision)s and (until is null or until > %(revision)s))
        )
        order by query_id, record_key
        """,
        {"set": set_id, "revision": revision},
    ):
        grades.setdefault(query_id, {})[record_key] = grade
    return grades


def put_queries(connection: Connection[Any], set_id: int, queries: Sequence[SetQuery], revision: int) -> None:
    """Makes these the set's queries from a revision on; those that stay as they are keep their rows."""
    before = {query.query_id: (place, query) for place, query in enumerate(queries_of(connection, set_id))}
    after = {query.query_id: (place, query) for place, query in enumerate(queries)}
    ended = [query_id for query_id, kept in before.items() if after.get(query_id) != kept]
    connection.execute(
        "update queries set until = %s where set_id = %s and until is null and query_id = any(%s::text[])",
        [revision, set_id, ended],
    )
    with (
        connection.cursor() as cursor,
        cursor.copy(
            "copy queries (set_id, query_id, place, query, need, tags, filters, language, asked, nothing_to_find, "
            "locked, since) from stdin"
        ) as copy,
    ):
        for query_id, (place, query) in after.items():
            if before.get(query_id) != (place, query):
                copy.write_row(
                    (
                        *(set_id, query_id, place, query.query, query.need, query.tags, Json(query.filters)),
                        *(query.language, query.asked, query.nothing_to_find, query.locked, revision),
                    )
                )


def put_grades(
    connection: Connection[Any],
    set_id: int,
    grades: Mapping[tuple[str, str], int | None],
    revision: int,
) -> None:
    """Sets which grades count from a revision on, by query and record; None: none counts any more."""
    connection.execute(
        """
        update grades set until = %s where set_id = %s and until is null
            and (query_id, record_key) in (select * from unnest(%s::text[], %s::text[]))
        """,
        [revision, set_id, [query for query, _ in grades], [record for _, record in grades]],
    )
    with (
        connection.cursor() as cursor,
        cursor.copy("copy grades (set_id, query_id, record_key, grade, since) from stdin") as copy,
    ):
        for (query_id, record_key), grade in grades.items():
            if grade is not None:
                copy.write_row((set_id, query_id, record_key, grade, revision))


def counted_grades(connection: Connection[Any], set_id: int, pairs: Iterable[tuple[str, str]]) -> dict[Any, int]:
    """The grades that count now for some queries and records; those without one are left out."""
    asked = list(pairs)
    rows = connection.execute(
        """
        select query_id, record_key, grade from grades where set_id = %s and until is null
            and (query_id, record_key) in (select * from unnest(%s::text[], %s::text[]))
        """,
        [set_id, [query for query, _ in asked], [record for _, record in asked]],
    )
    return {(query, record): grade for query, record, grade in rows}
