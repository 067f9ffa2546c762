"""The table `expectations`: plain demands that need no full grading, in the revisions of their judged set."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.core.judging import Expectation, ExpectationKind


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptExpectation:
    """An expectation of a judged set, about one of its queries."""

    id: int
    query_id: str
    kind: ExpectationKind
    record_key: str | None
    number: int | None
    note: str

    @property
    def wanted(self) -> Expectation:
        """What is expected."""
        return Expectation(self.kind, self.record_key, self.number, self.note)


def expectations_of(connection: Connection[Any], set_id: int, revision: int | None = None) -> list[KeptExpectation]:
    """As they are, or as they were in a revision."""
    with connection.cursor(row_factory=class_row(KeptExpectation)) as cursor:
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


def add_expectation(connection: Connection[Any], set_id: int, revision: int, query_id: str, wanted: Expectation) -> int:
    """Adds an expectation that holds from a revision on, and returns its id."""
    row = connection.execute(
        """
        insert into expectations (set_id, query_id, kind, record_key, number, note, since)
        values (%s, %s, %s, %s, %s, %s, %s) returning id
        """,
        [set_id, query_id, wanted.kind, wanted.record_key, wanted.number, wanted.note, revision],
    ).fetchone()
    assert row is not None
    return int(row[0])


def end_expectations(connection: Connection[Any], set_id: int, revision: int, ids: Sequence[int]) -> int:
    """Ends expectations from a revision on; returns how many held."""
    return connection.execute(
        "update expectations set until = %s where set_id = %s and until is null and id = any(%s::bigint[])",
        [revision, set_id, list(ids)],
    ).rowcount
