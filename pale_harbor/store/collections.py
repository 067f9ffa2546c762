"""The tables `collections` and `fields`."""

from dataclasses import dataclass
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.storable import unstorable

FieldKind = Literal["text", "number", "flag"]


@dataclass(frozen=True, slots=True)
class Collection:
    """A collection as kept: `fingerprint` is of its records' keys and contents."""

    id: int
    name: str
    revision: int
    fingerprint: str
    default_ranker: str | None


@dataclass(frozen=True, slots=True)
class CollectionField:
    """A field of a collection, in the order in which fields were first seen."""

    name: str
    kind: FieldKind
    is_key: bool


def all_collections(connection: Connection[Any]) -> list[Collection]:
    with connection.cursor(row_factory=class_row(Collection)) as cursor:
        return cursor.execute(
            "select id, name, revision, fingerprint, default_ranker from collections order by name"
        ).fetchall()


def collection_named(connection: Connection[Any], name: str, *, lock: bool = False) -> Collection:
    """The collection of a name; with `lock` nobody else changes it until the transaction ends."""
    refuse_unstorable(name)
    with connection.cursor(row_factory=class_row(Collection)) as cursor:
        if lock:
            cursor.execute(
                """
                select id, name, revision, fingerprint, default_ranker
                from collections where name = %s for update
                """,
                [name],
            )
        else:
            cursor.execute(
                "select id, name, revision, fingerprint, default_ranker from collections where name = %s",
                [name],
            )
        collection = cursor.fetchone()
    if collection is None:
        names = [other.name for other in all_collections(connection)]
        known = f"There are: {', '.join(names)}." if names else "There is none yet: load one first."
        raise NotFound(f'There is no collection "{name}". {known}')
    return collection


def hold_still(connection: Connection[Any], name: str) -> None:
    """Keeps everybody from changing the collection's records until the transaction ends."""
    connection.execute("select from collections where name = %s for share", [name])


def make_collection(connection: Connection[Any], name: str) -> None:
    """Makes the collection where there is none of that name."""
    check_name(name)
    connection.execute("insert into collections (name) values (%s) on conflict (name) do nothing", [name])


def set_default_ranker(connection: Connection[Any], collection_id: int, ranker: str) -> None:
    connection.execute("update collections set default_ranker = %s where id = %s", [ranker, collection_id])


def fields_of(connection: Connection[Any], collection_id: int) -> list[CollectionField]:
    with connection.cursor(row_factory=class_row(CollectionField)) as cursor:
        return cursor.execute(
            "select name, kind, is_key from fields where collection_id = %s order by place", [collection_id]
        ).fetchall()


def put_fields(connection: Connection[Any], collection_id: int, fields: list[CollectionField]) -> None:
    """Replaces the collection's fields."""
    connection.execute("delete from fields where collection_id = %s", [collection_id])
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into fields (collection_id, name, place, kind, is_key) values (%s, %s, %s, %s, %s)",
            [(collection_id, field.name, place, field.kind, field.is_key) for place, field in enumerate(fields)],
        )


def refuse_unstorable(name: str) -> None:
    """Raises NotFound for a name that cannot be in the database, and cannot be asked for there either."""
    if (wrong := unstorable(name)) is not None:
        raise NotFound(f"Nothing is called so: the name holds {wrong}.")


def check_name(name: str) -> None:
    """Raises BadInput unless a collection, chain, ranker or judged set can be called so."""
    plain = name.replace("-", "a").replace("_", "a")
    if not (plain.isascii() and plain.isalnum() and plain == plain.lower() and len(name) <= 63 and name[0] not in "-_"):
        raise BadInput(
            f'"{name[:80]}" cannot be a name: a name has 1 to 63 small letters, digits, "-" and "_", '
            "and begins with a letter or digit."
        )
