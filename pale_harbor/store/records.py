"""The table `records`."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import NotFound
from pale_harbor.formats.storable import unstorable
from pale_harbor.store.collections import Collection


@dataclass(frozen=True, slots=True)
class Record:
    """A record as kept; `field_values` holds the key's field too."""

    key: str
    revision: int
    field_values: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Merged:
    """What a merge did with the rows it was given."""

    added: int
    updated: int
    unchanged: int


def merge_records(
    connection: Connection[Any], collection: Collection, rows: Iterable[tuple[str, bytes, dict[str, Any]]]
) -> Merged:
    """Adds or replaces records by key; raises the collection's revision if that changed anything.

    rows: (key, content hash, values), keys distinct. Runs in the caller's transaction.
    """
    connection.execute(
        """
        create temporary table incoming (
            key text collate "C" primary key, content_hash bytea not null, field_values json not null
        ) on commit drop
        """
    )
    with connection.cursor() as cursor:
        with cursor.copy("copy incoming (key, content_hash, field_values) from stdin") as copy:
            for key, content_hash, values in rows:
                copy.write_row((key, content_hash, Json(values)))
        read = cursor.rowcount
    revision = collection.revision + 1
    updated = connection.execute(
        """
        update records set
            content_hash = incoming.content_hash, field_values = incoming.field_values, revision = %s
        from incoming
        where collection_id = %s and records.key = incoming.key
            and records.content_hash <> incoming.content_hash
        """,
        [revision, collection.id],
    ).rowcount
    added = connection.execute(
        """
        insert into records (collection_id, key, revision, content_hash, field_values)
        select %s, key, %s, content_hash, field_values from incoming
        on conflict (collection_id, key) do nothing
        """,
        [collection.id, revision],
    ).rowcount
    if added or updated:
        connection.execute(
            """
            update collections set revision = %(revision)s, fingerprint = (
                select encode(sha256(string_agg(content_hash, ''::bytea order by key)), 'hex')
                from records where collection_id = %(id)s
            )
            where id = %(id)s
            """,
            {"revision": revision, "id": collection.id},
        )
    return Merged(added, updated, read - added - updated)


def record_count(connection: Connection[Any], collection_id: int) -> int:
    row = connection.execute("select count(*) from records where collection_id = %s", [collection_id]).fetchone()
    assert row is not None
    return int(row[0])


def all_keys(connection: Connection[Any], collection_id: int) -> Iterator[str]:
    """Every key in code point order, streamed."""
    with connection.cursor(name="all_keys") as cursor:
        cursor.itersize = 20_000
        cursor.execute("select key from records where collection_id = %s order by key", [collection_id])
        for (key,) in cursor:
            yield key


def field_values(connection: Connection[Any], collection_id: int, field: str) -> Iterator[Any]:
    """One field of every record, in order of key, None where it is missing; streamed."""
    with connection.cursor(name="field_values") as cursor:
        cursor.itersize = 20_000
        cursor.execute(
            "select field_values -> %s from records where collection_id = %s order by key",
            [field, collection_id],
        )
        for (value,) in cursor:
            yield value


def records_with_keys(connection: Connection[Any], collection_id: int, keys: Sequence[str]) -> dict[str, Record]:
    with connection.cursor(row_factory=class_row(Record)) as cursor:
        records = cursor.execute(
            """
            select key, revision, field_values from records
            where collection_id = %s and key = any(%s) order by key
            """,
            [collection_id, list(keys)],
        ).fetchall()
    return {record.key: record for record in records}


def record_with_key(connection: Connection[Any], collection: Collection, key: str) -> Record:
    storable = unstorable(key) is None
    record = records_with_keys(connection, collection.id, [key]).get(key) if storable else None
    if record is None:
        raise NotFound(f'The collection "{collection.name}" has no record with the key "{key[:200]}".')
    return record


def keys_around(connection: Connection[Any], collection_id: int, key: str) -> tuple[str | None, str | None]:
    """The keys before and after a key, None at the ends."""
    row = connection.execute(
        """
        select
            (select max(key) from records where collection_id = %(id)s and key < %(key)s),
            (select min(key) from records where collection_id = %(id)s and key > %(key)s)
        """,
        {"id": collection_id, "key": key},
    ).fetchone()
    assert row is not None
    return row[0], row[1]


def first_key(connection: Connection[Any], collection_id: int) -> str | None:
    row = connection.execute("select min(key) from records where collection_id = %s", [collection_id]).fetchone()
    return row[0] if row else None
