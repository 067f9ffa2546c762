"""Records as they were before, gathered to be merged as an import's rows are."""

from collections.abc import Sequence
from typing import Any

from psycopg import Connection

from pale_harbor.store.collections.collections import Collection


def gather_earlier(connection: Connection[Any], collection: Collection, revision: int, ours: Sequence[int]) -> None:
    """Makes what a revision ended the rows to merge, as it was before, where no other revision touched it since.

    ours: revisions that do not count as others.
    """
    connection.execute(
        """
        create temporary table first_rows on commit drop as
        select earlier.key, earlier.content_hash, earlier.field_values
        from earlier_records as earlier
        left join records on records.collection_id = earlier.collection_id and records.key = earlier.key
        where earlier.collection_id = %(id)s and ended_revision = %(revision)s and (
            case when ended_by = 'deletion' then records.key is null
            else records.revision = %(revision)s or records.revision = any(%(ours)s) end
        )
        """,
        {"id": collection.id, "revision": revision, "ours": list(ours)},
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
    """Keys of records that a revision added and nobody touched since; and how many of those it added were touched."""
    names = {"id": collection.id, "revision": revision}
    rows = connection.execute(
        """
        select key from records where collection_id = %(id)s and revision = %(revision)s and not exists (
            select from earlier_records as earlier
            where earlier.collection_id = %(id)s and earlier.key = records.key
                and earlier.ended_revision = %(revision)s and earlier.ended_by = 'change'
        )
        order by key
        """,
        names,
    ).fetchall()
    touched = connection.execute(
        """
        select count(distinct key) from earlier_records as later
        where collection_id = %(id)s and revision = %(revision)s and not exists (
            select from earlier_records as earlier
            where earlier.collection_id = %(id)s and earlier.key = later.key and earlier.ended_revision = %(revision)s
        ) and exists (select from records where collection_id = %(id)s and records.key = later.key)
        """,
        names,
    ).fetchone()
    assert touched is not None
    return [key for (key,) in rows], int(touched[0])


def count_ended_by(connection: Connection[Any], collection: Collection, revision: int) -> int:
    """How many records a revision changed or deleted."""
    row = connection.execute(
        "select count(*) from earlier_records where collection_id = %s and ended_revision = %s",
        [collection.id, revision],
    ).fetchone()
    assert row is not None
    return int(row[0])
