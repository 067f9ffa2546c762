"""Records as they were before, gathered to be merged as an import's rows are."""

from collections.abc import Sequence
from typing import Any

from psycopg import Connection

from pale_harbor.store.collections.collections import Collection


def gather_earlier(connection: Connection[Any], collection: Collection, revision: int) -> None:
    """Makes what a revision ended the rows to merge, as it was before, where it still is or is again as the revision
    left it."""
    connection.execute(
        """
        create temporary table first_rows on commit drop as
        select before.key, before.content_hash, before.field_values
        from earlier_records as before
        left join records on records.collection_id = before.collection_id and records.key = before.key
        left join earlier_records as after on after.collection_id = before.collection_id and after.key = before.key
            and after.revision = %(revision)s
        where before.collection_id = %(id)s and before.ended_revision = %(revision)s and (
            case when before.ended_by = 'deletion' then records.key is null
            else records.revision = %(revision)s or records.content_hash = after.content_hash end
        )
        """,
        {"id": collection.id, "revision": revision},
    )
    connection.execute("alter table first_rows add primary key (key)")


def gather_deleted(
    connection: Connection[Any], collection: Collection, *, keys: Sequence[str] | None, ended_revision: int | None
) -> None:
    """Makes deleted records the rows to merge, as they were last: those with one of these keys, or that a revision
    deleted; all where neither is told."""
    connection.execute(
        """
        create temporary table first_rows on commit drop as
        select key, content_hash, field_values from (
            select distinct on (key) key, content_hash, field_values, ended_revision from earlier_records
            where collection_id = %(id)s and (%(keys)s::text[] is null or key = any(%(keys)s))
                and not exists (
                    select from records where collection_id = %(id)s and records.key = earlier_records.key
                )
            order by key, ended_revision desc
        ) as gone
        where %(revision)s::bigint is null or ended_revision = %(revision)s
        """,
        {"id": collection.id, "keys": None if keys is None else list(keys), "revision": ended_revision},
    )
    connection.execute("alter table first_rows add primary key (key)")


def keys_begun_by(connection: Connection[Any], collection: Collection, revision: int) -> tuple[list[str], int]:
    """Keys of records that a revision added and that still are, or are again, as it added them; and how many of those
    it added are otherwise now."""
    rows = connection.execute(
        """
        with begun as (
            select key, null::bytea as content_hash from records
            where collection_id = %(id)s and revision = %(revision)s
            union all
            select key, content_hash from earlier_records where collection_id = %(id)s and revision = %(revision)s
        )
        select key, coalesce(begun.content_hash = records.content_hash, true)
        from begun join records using (key)
        where records.collection_id = %(id)s and not exists (
            select from earlier_records as before where before.collection_id = %(id)s and before.key = begun.key
                and before.ended_revision = %(revision)s and before.ended_by = 'change'
        )
        order by key
        """,
        {"id": collection.id, "revision": revision},
    ).fetchall()
    as_added = [key for key, same in rows if same]
    return as_added, len(rows) - len(as_added)


def count_ended_by(connection: Connection[Any], collection: Collection, revision: int) -> int:
    """How many records a revision changed or deleted."""
    row = connection.execute(
        "select count(*) from earlier_records where collection_id = %s and ended_revision = %s",
        [collection.id, revision],
    ).fetchone()
    assert row is not None
    return int(row[0])
