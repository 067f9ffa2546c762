"""The table `delivery_settings`: what has to hold before a version goes live, and how long what was asked is kept."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

USUAL_DAYS = 90


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliverySettings:
    """judged_set: on which the guard rules are checked, None where none is; rules: as they are written, one a line."""

    judged_set: str | None = None
    rules: str = ""
    kept_days: int = USUAL_DAYS


def delivery_settings(connection: Connection[Any], collection_id: int) -> DeliverySettings:
    """As they are usually, where nobody said otherwise."""
    with connection.cursor(row_factory=class_row(DeliverySettings)) as cursor:
        found = cursor.execute(
            """
            select judged_sets.name as judged_set, rules, kept_days
            from delivery_settings as own left join judged_sets on judged_sets.id = own.set_id
            where own.collection_id = %s
            """,
            [collection_id],
        ).fetchone()
    return found or DeliverySettings()


def put_delivery_settings(
    connection: Connection[Any], collection_id: int, set_id: int | None, rules: str, kept_days: int
) -> None:
    """Settles them."""
    connection.execute(
        """
        insert into delivery_settings (collection_id, set_id, rules, kept_days) values (%s, %s, %s, %s)
        on conflict (collection_id) do update
        set set_id = excluded.set_id, rules = excluded.rules, kept_days = excluded.kept_days
        """,
        [collection_id, set_id, rules, kept_days],
    )


def days_kept(connection: Connection[Any]) -> list[tuple[int, int]]:
    """Of every collection of which something is kept that was asked: its id, and for how many days."""
    rows = connection.execute(
        """
        select id, coalesce(kept_days, %s) from collections left join delivery_settings on collection_id = id
        where exists (select from asked_queries where asked_queries.collection_id = collections.id)
            or exists (select from asked_events where asked_events.collection_id = collections.id)
        order by id
        """,
        [USUAL_DAYS],
    ).fetchall()
    return [(int(id_), int(days)) for id_, days in rows]
