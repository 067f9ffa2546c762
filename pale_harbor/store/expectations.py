"""The table `expectations`: plain demands that need no full grading, in the revisions of their judged set."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row

ExpectationKind = Literal["among_first", "never", "more_than", "nothing"]


@dataclass(frozen=True, slots=True)
class Expectation:
    """among_first: the record stands among the first `number`; never: it is not in the list at all; more_than: more
    than `number` records match; nothing: none does."""

    id: int
    query_id: str
    kind: ExpectationKind
    record_key: str | None
    number: int | None
    note: str


def expectations_of(connection: Connection[Any], set_id: int, revision: int | None = None) -> list[Expectation]:
    """As they are, or as they were in a revision."""
    with connection.cursor(row_factory=class_row(Expectation)) as cursor:
        return cursor.execute(
            """
            select id, query_id, kind, record_key, number, note from expectations
            where set_id = %(set)s and (
                (%(revision)s::bigint is null and until is null)
                or (since <= %(revision)s and (until is null or until > %(revision)s))
            )
            order by id
            """,
            {"set": set_id, "revision": revision},
        ).fetchall()


def add_expectation(
    connection: Connection[Any],
    set_id: int,
    revision: int,
    query_id: str,
    kind: ExpectationKind,
    record_key: str | None,
    number: int | None,
    note: str,
) -> int:
    row = connection.execute(
        """
        insert into expectations (set_id, query_id, kind, record_key, number, note, since)
        values (%s, %s, %s, %s, %s, %s, %s) returning id
        """,
        [set_id, query_id, kind, record_key, number, note, revision],
    ).fetchone()
    assert row is not None
    return int(row[0])


def end_expectations(connection: Connection[Any], set_id: int, revision: int, ids: Sequence[int]) -> int:
    """Ends expectations from a revision on; returns how many held."""
    return connection.execute(
        "update expectations set until = %s where set_id = %s and until is null and id = any(%s::bigint[])",
        [revision, set_id, list(ids)],
    ).rowcount
