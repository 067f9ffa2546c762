"""Records in the order in which they changed, with those that are gone: for whoever harvests them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True, slots=True)
class ChangedRecord:
    """A record as it is since a moment. field_values: None where it is not there any more."""

    key: str
    revision: int
    at: datetime
    field_values: dict[str, Any] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """Changes that are asked for: of revisions up to one, from a moment on and before another, None for any."""

    up_to: int
    since: datetime | None
    before: datetime | None


def changed_records(
    connection: Connection[Any], collection_id: int, span: Span, after: tuple[int, str], count: int
) -> list[ChangedRecord]:
    """So many records behind a place, in the order of revisions and keys. after: the revision and key of the last one
    that was told, (0, "") for none."""
    names = {
        "id": collection_id,
        "up_to": span.up_to,
        "since": span.since,
        "before": span.before,
        "revision": after[0],
        "key": after[1],
        "count": count,
    }
    with connection.cursor(row_factory=class_row(ChangedRecord)) as cursor:
        return cursor.execute(
            """
            select key, revision, at, field_values from (
                (
                    select key, records.revision, coalesce(made.at, collections.created_at) as at, field_values
                    from records
                    left join record_revisions as made
                        on made.collection_id = records.collection_id and made.revision = records.revision
                    join collections on collections.id = records.collection_id
                    where records.collection_id = %(id)s and records.revision <= %(up_to)s
                        and (records.revision, key) > (%(revision)s, %(key)s)
                        and (
                            %(since)s::timestamptz is null or coalesce(made.at, collections.created_at) >= %(since)s
                        )
                        and (
                            %(before)s::timestamptz is null or coalesce(made.at, collections.created_at) < %(before)s
                        )
                    order by records.revision, key limit %(count)s
                )
                union all
                (
                    select key, ended_revision as revision, coalesce(made.at, ended_at) as at,
                        null::json as field_values
                    from earlier_records as gone
                    left join record_revisions as made
                        on made.collection_id = gone.collection_id and made.revision = gone.ended_revision
                    where gone.collection_id = %(id)s and ended_by = 'deletion' and ended_revision <= %(up_to)s
                        and (ended_revision, key) > (%(revision)s, %(key)s)
                        and (%(since)s::timestamptz is null or coalesce(made.at, ended_at) >= %(since)s)
                        and (%(before)s::timestamptz is null or coalesce(made.at, ended_at) < %(before)s)
                        and not exists (
                            select from records where collection_id = %(id)s and records.key = gone.key
                        )
                        and not exists (
                            select from earlier_records as later where later.collection_id = %(id)s
                                and later.key = gone.key and later.ended_revision > gone.ended_revision
                        )
                    order by ended_revision, key limit %(count)s
                )
            ) as changed
            order by revision, key limit %(count)s
            """,
            names,
        ).fetchall()


def change_of(connection: Connection[Any], collection_id: int, key: str) -> ChangedRecord | None:
    """A record, or when it went; None where there never was one."""
    with connection.cursor(row_factory=class_row(ChangedRecord)) as cursor:
        return cursor.execute(
            """
            select key, records.revision, coalesce(made.at, collections.created_at) as at, field_values
            from records
            left join record_revisions as made
                on made.collection_id = records.collection_id and made.revision = records.revision
            join collections on collections.id = records.collection_id
            where records.collection_id = %(id)s and key = %(key)s
            union all
            (
                select key, ended_revision as revision, coalesce(made.at, ended_at) as at, null::json as field_values
                from earlier_records
                left join record_revisions as made
                    on made.collection_id = earlier_records.collection_id
                    and made.revision = earlier_records.ended_revision
                where earlier_records.collection_id = %(id)s and key = %(key)s
                    and not exists (select from records where collection_id = %(id)s and key = %(key)s)
                order by ended_revision desc limit 1
            )
            """,
            {"id": collection_id, "key": key},
        ).fetchone()


def values_before(connection: Connection[Any], collection_id: int, keys: list[str]) -> dict[str, list[dict[str, Any]]]:
    """All that records held before, by key, in the order in which they held it."""
    found: dict[str, list[dict[str, Any]]] = {}
    rows = connection.execute(
        """
        select key, field_values from earlier_records where collection_id = %s and key = any(%s)
        order by key, ended_revision
        """,
        [collection_id, keys],
    )
    for key, values in rows:
        found.setdefault(key, []).append(values)
    return found


def revision_now(connection: Connection[Any], collection_id: int) -> int:
    """The revision of a collection's records."""
    row = connection.execute("select revision from collections where id = %s", [collection_id]).fetchone()
    return 0 if row is None else int(row[0])


def made_at(connection: Connection[Any], collection_id: int) -> datetime | None:
    """When the collection was made: nothing in it changed before."""
    row = connection.execute("select created_at from collections where id = %s", [collection_id]).fetchone()
    return None if row is None else row[0]
