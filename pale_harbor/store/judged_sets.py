"""The tables `judged_sets`, `queries` and `grades`."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import NotFound
from pale_harbor.store.collections import check_name


@dataclass(frozen=True, slots=True)
class JudgedSet:
    id: int
    name: str
    revision: int


@dataclass(frozen=True, slots=True)
class SetQuery:
    query_id: str
    query: str
    need: str
    tags: list[str]


def sets_of(connection: Connection[Any], collection_id: int) -> list[JudgedSet]:
    with connection.cursor(row_factory=class_row(JudgedSet)) as cursor:
        return cursor.execute(
            "select id, name, revision from judged_sets where collection_id = %s order by name",
            [collection_id],
        ).fetchall()


def set_named(connection: Connection[Any], collection_id: int, name: str) -> JudgedSet:
    sets = sets_of(connection, collection_id)
    found = next((judged_set for judged_set in sets if judged_set.name == name), None)
    if found is None:
        names = ", ".join(judged_set.name for judged_set in sets)
        known = f"There are: {names}." if names else "None is loaded yet."
        raise NotFound(f'There is no judged set "{name}". {known}')
    return found


def queries_of(connection: Connection[Any], set_id: int) -> list[SetQuery]:
    with connection.cursor(row_factory=class_row(SetQuery)) as cursor:
        return cursor.execute(
            "select query_id, query, need, tags from queries where set_id = %s order by place, query_id",
            [set_id],
        ).fetchall()


def grades_of(connection: Connection[Any], set_id: int) -> dict[str, dict[str, int]]:
    """Grades by query and record key."""
    grades: dict[str, dict[str, int]] = {}
    for query_id, record_key, grade in connection.execute(
        "select query_id, record_key, grade from grades where set_id = %s order by query_id, record_key",
        [set_id],
    ):
        grades.setdefault(query_id, {})[record_key] = grade
    return grades


def replace_set(
    connection: Connection[Any],
    collection_id: int,
    name: str,
    queries: Sequence[SetQuery],
    grades: Mapping[str, Mapping[str, int]],
) -> JudgedSet:
    """Puts these queries and grades in place of the set's; a new revision unless nothing differs."""
    check_name(name)
    connection.execute(
        "insert into judged_sets (collection_id, name) values (%s, %s) on conflict (collection_id, name) do nothing",
        [collection_id, name],
    )
    connection.execute(
        "select from judged_sets where collection_id = %s and name = %s for update", [collection_id, name]
    )
    judged_set = set_named(connection, collection_id, name)
    if queries_of(connection, judged_set.id) == list(queries) and grades_of(connection, judged_set.id) == grades:
        return judged_set
    connection.execute("delete from queries where set_id = %s", [judged_set.id])
    with connection.cursor() as cursor:
        with cursor.copy("copy queries (set_id, query_id, place, query, need, tags) from stdin") as copy:
            for place, query in enumerate(queries):
                copy.write_row((judged_set.id, query.query_id, place, query.query, query.need, query.tags))
        with cursor.copy("copy grades (set_id, query_id, record_key, grade) from stdin") as copy:
            for query_id, of_query in grades.items():
                for record_key, grade in of_query.items():
                    copy.write_row((judged_set.id, query_id, record_key, grade))
    connection.execute("update judged_sets set revision = revision + 1 where id = %s", [judged_set.id])
    return set_named(connection, collection_id, name)
