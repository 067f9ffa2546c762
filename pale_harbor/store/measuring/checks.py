"""The table `checks`: guard rules as they were checked."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

# Of a set so many are kept.
MOST_KEPT = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptCheck:
    """A check. ranker, against: as people name them; rules: each with its text, whether it held and what was found."""

    id: int
    checked_at: datetime
    ranker: str
    against: str | None
    holds: bool
    rules: list[dict[str, Any]]


def add_check(
    connection: Connection[Any],
    collection_id: int,
    set_id: int,
    *,
    ranker: str,
    against: str | None,
    holds: bool,
    rules: list[dict[str, Any]],
) -> None:
    """Keeps a check; the oldest ones of a set with more than enough go."""
    connection.execute(
        """
        insert into checks (collection_id, set_id, ranker, against, holds, rules) values (%s, %s, %s, %s, %s, %s)
        """,
        [collection_id, set_id, ranker, against, holds, Json(rules)],
    )
    connection.execute(
        """
        delete from checks where set_id = %s and id <= (
            select id from checks where set_id = %s order by id desc offset %s limit 1
        )
        """,
        [set_id, set_id, MOST_KEPT],
    )


def checks_of(connection: Connection[Any], set_id: int) -> list[KeptCheck]:
    """A set's checks, the newest first."""
    with connection.cursor(row_factory=class_row(KeptCheck)) as cursor:
        return cursor.execute(
            """
            select id, checked_at, ranker, against, holds, rules from checks where set_id = %s order by id desc
            """,
            [set_id],
        ).fetchall()
