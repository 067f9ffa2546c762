"""The table `records`."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final, Literal, LiteralString

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import NotFound
from pale_harbor.formats.storable import unstorable
from pale_harbor.store.collections.collections import Collection


@dataclass(frozen=True, slots=True)
class Record:
    """A record as kept; `field_values` holds the key's field too."""

    key: str
    revision: int
    field_values: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlierRecord:
    """What a record was from one revision of the collection to another, and how that ended; by_person: by whom."""

    key: str
    revision: int
    ended_revision: int
    ended_by: Literal["change", "deletion"]
    ended_at: datetime
    field_values: dict[str, Any]
    by_person: str | None


@dataclass(frozen=True, slots=True)
class Deletion:
    """How many records a revision deleted that are not there again."""

    revision: int
    at: datetime
    records: int


@dataclass(frozen=True, slots=True)
class Changes:
    """Keys whose records changed or came, and keys of records that went, both in order."""

    written: list[str]
    deleted: list[str]


def record_count(connection: Connection[Any], collection_id: int) -> int:
    """How many records a collection has."""
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


def changes_since(connection: Connection[Any], collection_id: int, revision: int) -> Changes:
    """What was written and deleted after a revision."""
    written = connection.execute(
        "select key from records where collection_id = %s and revision > %s order by key", [collection_id, revision]
    ).fetchall()
    deleted = connection.execute(
        """
        select distinct key from earlier_records
        where collection_id = %(id)s and ended_revision > %(revision)s
            and not exists (select from records where collection_id = %(id)s and records.key = earlier_records.key)
        order by key
        """,
        {"id": collection_id, "revision": revision},
    ).fetchall()
    return Changes([key for (key,) in written], [key for (key,) in deleted])


def keyed_field_values(
    connection: Connection[Any], collection_id: int, field: str, first: str = "", behind: str | None = None
) -> Iterator[tuple[str, Any]]:
    """Key and one field of every record from a key on, in order of key, None where it is missing; streamed.

    behind: the first key that is no longer read; all are to the end where it is None.
    """
    with connection.cursor(name="field_values") as cursor:
        cursor.itersize = 20_000
        cursor.execute(
            """
            select key, field_values -> %s from records
            where collection_id = %s and key >= %s and (%s::text is null or key < %s) order by key
            """,
            [field, collection_id, first, behind, behind],
        )
        yield from cursor


def field_values_of(connection: Connection[Any], collection_id: int, field: str, keys: Sequence[str]) -> dict[str, Any]:
    """One field of the records with these keys, those without it left out."""
    rows = connection.execute(
        """
        select key, field_values -> %s from records
        where collection_id = %s and key = any(%s) order by key
        """,
        [field, collection_id, list(keys)],
    )
    return {key: value for key, value in rows if value is not None}


def sample_of_field(connection: Connection[Any], collection_id: int, field: str, count: int) -> list[Any]:
    """Values of a field from records all over the collection, the same ones each time."""
    rows = connection.execute(
        """
        select value from (
            select field_values -> %(field)s as value, key from records
            where collection_id = %(id)s order by content_hash limit %(count)s
        ) as chosen where value is not null order by key
        """,
        {"field": field, "id": collection_id, "count": count},
    ).fetchall()
    return [value for (value,) in rows]


def sample_of_records(connection: Connection[Any], collection_id: int, count: int, seed: int) -> list[Record]:
    """Records from all over the collection in order of key, the same ones for the same seed."""
    with connection.cursor(row_factory=class_row(Record)) as cursor:
        return cursor.execute(
            """
            select key, revision, field_values from (
                select key, revision, field_values from records
                where collection_id = %s order by md5(key || %s::text), key limit %s
            ) as chosen order by key
            """,
            [collection_id, seed, count],
        ).fetchall()


def sample_of_keys(connection: Connection[Any], collection_id: int, count: int) -> list[str]:
    """Keys from all over the collection, in their order."""
    rows = connection.execute(
        """
        select key from (
            select key from records where collection_id = %s order by md5(key), key limit %s
        ) as chosen order by key
        """,
        [collection_id, count],
    ).fetchall()
    return [key for (key,) in rows]


def all_records(connection: Connection[Any], collection_id: int) -> Iterator[Record]:
    """Every record in order of key, streamed."""
    with connection.cursor(name="all_records", row_factory=class_row(Record)) as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            "select key, revision, field_values from records where collection_id = %s order by key", [collection_id]
        )
        yield from cursor


def digested_records(connection: Connection[Any], collection_id: int) -> Iterator[tuple[str, bytes, dict[str, Any]]]:
    """Every record's key, the digest that was kept with it and its values, streamed."""
    with connection.cursor(name="digested_records") as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            "select key, content_hash, field_values from records where collection_id = %s order by key", [collection_id]
        )
        yield from cursor


def sampled_records(connection: Connection[Any], collection_id: int, count: int) -> Iterator[Record]:
    """So many records from all over the collection, the same ones each time, in order of key; streamed."""
    with connection.cursor(name="sampled_records", row_factory=class_row(Record)) as cursor:
        cursor.itersize = 5_000
        cursor.execute(
            """
            select key, revision, field_values from (
                select key, revision, field_values from records
                where collection_id = %s order by content_hash limit %s
            ) as chosen order by key
            """,
            [collection_id, count],
        )
        yield from cursor


def records_page(
    connection: Connection[Any],
    collection_id: int,
    *,
    words: str,
    field: str | None,
    sort: str | None,
    descending: bool,
    first: int,
    count: int,
) -> tuple[list[Record], int]:
    """A page of records and how many there are in all.

    words: a text that the key or a value must hold, whatever the case; field: look in this field
    only. sort: by a field's value, numbers before texts, what has none last; by key without it.
    """
    names: dict[str, Any] = {
        "id": collection_id,
        "like": "%" + words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%",
        "all": words == "",
        "field": field,
        "sort": sort,
        "first": first,
        "count": count,
    }
    # A key holds as a value does; without a field the whole of the record's text is looked through.
    total = connection.execute(f"select count(*) {_CHOSEN}", names).fetchone()
    order = _ORDERS[sort is not None, descending]
    with connection.cursor(row_factory=class_row(Record)) as cursor:
        rows = cursor.execute(
            f"select key, revision, field_values {_CHOSEN} order by {order} limit %(count)s offset %(first)s", names
        ).fetchall()
    assert total is not None
    return rows, int(total[0])


def earlier_states(connection: Connection[Any], collection_id: int, key: str) -> list[EarlierRecord]:
    """What a record was before, the latest first."""
    with connection.cursor(row_factory=class_row(EarlierRecord)) as cursor:
        return cursor.execute(
            """
            select key, revision, ended_revision, ended_by, ended_at, field_values, by_person from earlier_records
            where collection_id = %s and key = %s order by ended_revision desc
            """,
            [collection_id, key],
        ).fetchall()


def deleted_records(
    connection: Connection[Any], collection_id: int, first: int, count: int
) -> tuple[list[EarlierRecord], int]:
    """Records that are no longer there, the latest deleted first; and how many there are in all."""
    names: dict[str, Any] = {"id": collection_id, "first": first, "count": count}
    with connection.cursor(row_factory=class_row(EarlierRecord)) as cursor:
        rows = cursor.execute(
            """
            select * from (
                select distinct on (key) key, revision, ended_revision, ended_by, ended_at, field_values, by_person
                from earlier_records
                where collection_id = %(id)s and not exists (
                    select from records where collection_id = %(id)s and records.key = earlier_records.key
                )
                order by key, ended_revision desc
            ) as gone
            order by ended_revision desc, key limit %(count)s offset %(first)s
            """,
            names,
        ).fetchall()
    return rows, sum(one.records for one in deletions(connection, collection_id))


def deletions(connection: Connection[Any], collection_id: int) -> list[Deletion]:
    """Revisions that deleted records which are not there again, the latest first."""
    with connection.cursor(row_factory=class_row(Deletion)) as cursor:
        return cursor.execute(
            """
            select ended_revision as revision, max(ended_at) as at, count(*) as records from (
                select distinct on (key) key, ended_revision, ended_at from earlier_records
                where collection_id = %(id)s and not exists (
                    select from records where collection_id = %(id)s and records.key = earlier_records.key
                )
                order by key, ended_revision desc
            ) as gone
            group by ended_revision order by ended_revision desc
            """,
            {"id": collection_id},
        ).fetchall()


def records_with_keys(connection: Connection[Any], collection_id: int, keys: Sequence[str]) -> dict[str, Record]:
    """Records by key; those that are not there are left out."""
    with connection.cursor(row_factory=class_row(Record)) as cursor:
        records = cursor.execute(
            """
            select key, revision, field_values from records
            where collection_id = %s and key = any(%s) order by key
            """,
            [collection_id, list(keys)],
        ).fetchall()
    return {record.key: record for record in records}


def values_as_of(
    connection: Connection[Any], collection_id: int, revision: int, keys: Sequence[str]
) -> dict[str, bytes]:
    """What records held in a revision of the collection, by key, as JSON; those that were not there are left out."""
    rows = connection.execute(
        """
        select key, field_values::text from records
        where collection_id = %(id)s and key = any(%(keys)s) and revision <= %(revision)s
        union all
        select key, field_values::text from earlier_records
        where collection_id = %(id)s and key = any(%(keys)s)
            and revision <= %(revision)s and ended_revision > %(revision)s
        """,
        {"id": collection_id, "keys": list(keys), "revision": revision},
    ).fetchall()
    return {key: values.encode() for key, values in rows}


def record_with_key(connection: Connection[Any], collection: Collection, key: str) -> Record:
    """A record by its key. Raises NotFound."""
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
    """The first key of all, None where there are no records."""
    row = connection.execute("select min(key) from records where collection_id = %s", [collection_id]).fetchone()
    return row[0] if row else None


def key_at(connection: Connection[Any], collection_id: int, place: int) -> str | None:
    """The key at a place in order of key, from 0; None where there are fewer records."""
    row = connection.execute(
        "select key from records where collection_id = %s order by key offset %s limit 1", [collection_id, place]
    ).fetchone()
    return row[0] if row else None


# Which records a page is of; see records_page.
_CHOSEN: Final[LiteralString] = """
from records
where collection_id = %(id)s and (
    %(all)s or (%(field)s::text is null and (key ilike %(like)s or exists (
        select from json_each_text(field_values) as one where one.value ilike %(like)s
    ))) or field_values ->> %(field)s ilike %(like)s
)
"""
_NUMBER: Final[LiteralString] = """
    case when json_typeof(field_values -> %(sort)s) = 'number' then (field_values ->> %(sort)s)::numeric end
"""
_TEXT: Final[LiteralString] = "lower(field_values ->> %(sort)s)"
# By whether a field sorts them, and whether downwards.
_ORDERS: Final[dict[tuple[bool, bool], LiteralString]] = {
    (False, False): "key",
    (False, True): "key desc",
    (True, False): f"{_NUMBER} nulls last, {_TEXT} nulls last, key",
    (True, True): f"{_NUMBER} desc nulls last, {_TEXT} desc nulls last, key",
}
