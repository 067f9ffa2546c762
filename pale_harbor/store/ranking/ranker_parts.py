"""What a ranker of a collection depends on beside its own document, told in one statement; with records, if wanted."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection, sql

from pale_harbor.store.collections.collections import Collection, collection_named, refuse_unstorable


@dataclass(frozen=True, slots=True, kw_only=True)
class PartsState:
    """The same state gives the same ranker for the same document.

    chains, lists: how many versions of them are saved, which only grows. default_ranker: of the collection;
    newest_version: of the ranker that was asked for, or of the default one, None where there is none.
    """

    chains: int
    lists: int
    fields: tuple[str, ...]
    spaces: tuple[str, ...]
    default_ranker: str | None
    newest_version: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """A collection as it stands, with what its rankers depend on."""

    collection: Collection
    parts: PartsState


_NOTHING: Final = PartsState(chains=0, lists=0, fields=(), spaces=(), default_ranker=None, newest_version=None)
_PARTS: Final = sql.SQL("""
    (select count(*) from chains where collection_id = collections.id),
    (select count(*) from word_lists where collection_id = collections.id),
    (select coalesce(array_agg(name order by place), array[]::text[]) from fields where collection_id = collections.id),
    (select coalesce(array_agg(name order by name), array[]::text[]) from spaces where collection_id = collections.id),
    default_ranker,
    (
        select max(version) from rankers
        where collection_id = collections.id and name = coalesce(%(ranker)s, default_ranker)
    )
""")
_STATE: Final = sql.SQL("select {} from collections where id = %(collection)s").format(_PARTS)
_STANDING: Final = sql.SQL("""
    select id, uid, name, revision, fingerprint, default_ranker, display, found.keys, found.field_values, {}
    from collections, lateral (
        select coalesce(array_agg(key), array[]::text[]) as keys,
            coalesce(array_agg(field_values), array[]::json[]) as field_values
        from records where collection_id = collections.id and key = any(%(keys)s)
    ) as found
    where name = %(name)s
""").format(_PARTS)


def parts_state(connection: Connection[Any], collection_id: int, ranker: str | None) -> PartsState:
    """The present state. ranker: whose newest version is told, the default one's where it is None."""
    row = connection.execute(
        _STATE,
        {"collection": collection_id, "ranker": ranker},
    ).fetchone()
    return _NOTHING if row is None else _parts(row)


def standing_and_records(
    connection: Connection[Any], collection_name: str, ranker: str | None, keys: Sequence[str]
) -> tuple[Standing, dict[str, dict[str, Any]]]:
    """A collection as it stands, and the field values of records by key, seen in the same moment by one statement.

    ranker: as in `parts_state`. Records that are not there are left out. Raises NotFound where there is no such
    collection.
    """
    for name in (collection_name, ranker or ""):
        refuse_unstorable(name)
    row = connection.execute(
        _STANDING,
        {"name": collection_name, "ranker": ranker, "keys": list(keys)},
    ).fetchone()
    if row is None:
        # It says which collections there are.
        collection_named(connection, collection_name)
        return standing_and_records(connection, collection_name, ranker, keys)
    id, uid, name, revision, fingerprint, default, display, found, values, *parts = row
    collection = Collection(
        id=id, uid=uid, name=name, revision=revision, fingerprint=fingerprint, default_ranker=default, display=display
    )
    return Standing(collection=collection, parts=_parts(parts)), dict(zip(found, values, strict=True))


def _parts(row: Sequence[Any]) -> PartsState:
    chains, lists, fields, spaces, default, newest = row
    return PartsState(
        chains=chains,
        lists=lists,
        fields=tuple(fields),
        spaces=tuple(spaces),
        default_ranker=default,
        newest_version=newest,
    )
