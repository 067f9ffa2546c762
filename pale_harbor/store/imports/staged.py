"""Rows of a live database on their way in: within one transaction they are gathered, and become records at its end."""

from collections.abc import Iterable, Sequence
from contextlib import suppress
from typing import Any

from psycopg import Connection
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import Collection, collection_named


def begin_staging(connection: Connection[Any]) -> None:
    """Makes room for rows (as `first_rows`) and for keys that are gone, until the transaction ends."""
    connection.execute(
        """
        create temporary table first_rows (key text collate "C", content_hash bytea, field_values json) on commit drop
        """
    )
    connection.execute('create temporary table gone_keys (key text collate "C" primary key) on commit drop')


def stage_rows(connection: Connection[Any], rows: Iterable[tuple[str, bytes, dict[str, Any]]]) -> None:
    """Adds rows: key, content hash, values."""
    with (
        connection.cursor() as cursor,
        cursor.copy("copy first_rows (key, content_hash, field_values) from stdin") as copy,
    ):
        for key, content_hash, values in rows:
            copy.write_row((key, content_hash, Json(values)))


def stage_gone(connection: Connection[Any], keys: Sequence[str]) -> None:
    """Adds keys of rows that are gone."""
    connection.execute("insert into gone_keys select unnest(%s::text[]) on conflict do nothing", [list(keys)])


def take_repeated(connection: Connection[Any]) -> dict[str, int]:
    """Takes out the keys that stand in more than one row, which say nothing; by key, how many rows have it."""
    repeated = dict(
        connection.execute("select key, count(*) from first_rows group by key having count(*) > 1").fetchall()
    )
    if repeated:
        connection.execute("delete from first_rows where key = any(%s)", [list(repeated)])
    return repeated


def keep_as_they_are(connection: Connection[Any], collection_id: int, keys: Sequence[str]) -> None:
    """Has the records of these keys stay what they are, where everything else is replaced."""
    connection.execute(
        """
        insert into first_rows select key, content_hash, field_values from records
        where collection_id = %s and key = any(%s)
        """,
        [collection_id, list(keys)],
    )


def ready_to_merge(connection: Connection[Any]) -> None:
    """Has what was gathered found by its keys, where that is much."""
    connection.execute("create index on first_rows (key)")
    connection.execute("analyze first_rows")


def collection_held(connection: Connection[Any], collection_id: int) -> Collection:
    """The collection, held until the transaction ends; it may have been renamed. Raises NotFound where it is gone."""
    while True:
        row = connection.execute("select name from collections where id = %s", [collection_id]).fetchone()
        if row is None:
            raise NotFound("The collection that followed was dropped.")
        # Whoever renames it holds it first.
        with suppress(NotFound):
            found = collection_named(connection, str(row[0]), lock=True)
            if found.id == collection_id:
                return found


def begin_sweeping(connection: Connection[Any]) -> None:
    """Makes room for the keys that a source has, until the transaction ends."""
    connection.execute('create temporary table swept (key text collate "C", stamp text) on commit drop')


def sweep_keys(connection: Connection[Any], keys: Iterable[tuple[str, Any]]) -> int:
    """Adds keys with what their column of changes holds; returns how many."""
    count = 0
    with connection.cursor() as cursor, cursor.copy("copy swept (key, stamp) from stdin") as copy:
        for key, stamp in keys:
            copy.write_row((key, None if stamp is None else str(stamp)))
            count += 1
    return count


def swept_away(connection: Connection[Any], collection_id: int) -> list[str]:
    """Keys of records that the source does not have."""
    connection.execute("create index on swept (key)")
    connection.execute("analyze swept")
    rows = connection.execute(
        """
        select key from records
        where collection_id = %s and not exists (select from swept where swept.key = records.key)
        order by key
        """,
        [collection_id],
    ).fetchall()
    return [key for (key,) in rows]


def swept_otherwise(connection: Connection[Any], collection_id: int, stamp: str | None) -> list[str]:
    """Keys of the source that no record has, or whose record has another value in the field of changes. After
    `swept_away`."""
    rows = connection.execute(
        """
        select distinct swept.key
        from swept left join records on records.collection_id = %(id)s and records.key = swept.key
        where records.key is null
            or (%(stamp)s::text is not null and swept.stamp is distinct from (records.field_values ->> %(stamp)s))
        order by swept.key
        """,
        {"id": collection_id, "stamp": stamp},
    ).fetchall()
    return [key for (key,) in rows]
