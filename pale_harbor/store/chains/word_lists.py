"""The table `word_lists`: named lists in versions that are never changed."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import check_name, refuse_unstorable


@dataclass(frozen=True, slots=True)
class SavedList:
    """A version of a word list without its entries."""

    name: str
    version: int
    kind: str
    entry_count: int


@dataclass(frozen=True, slots=True)
class SavedEntries:
    """A version of a word list; entries in the shape of its kind."""

    name: str
    version: int
    kind: str
    entries: Any


def latest_lists(connection: Connection[Any], collection_id: int) -> list[SavedList]:
    """The newest version of each word list, by name."""
    with connection.cursor(row_factory=class_row(SavedList)) as cursor:
        return cursor.execute(
            """
            select distinct on (name) name, version, kind, entry_count from word_lists
            where collection_id = %s order by name, version desc
            """,
            [collection_id],
        ).fetchall()


def list_named(connection: Connection[Any], collection_id: int, name: str, version: int | None = None) -> SavedEntries:
    """A word list, the newest version where none is named. Raises NotFound."""
    refuse_unstorable(name)
    with connection.cursor(row_factory=class_row(SavedEntries)) as cursor:
        found = cursor.execute(
            """
            select name, version, kind, entries from word_lists
            where collection_id = %(collection)s and name = %(name)s
                and (%(version)s::integer is null or version = %(version)s)
            order by version desc limit 1
            """,
            {"collection": collection_id, "name": name, "version": version},
        ).fetchone()
    if found is None:
        known = ", ".join(f"@{other.name}" for other in latest_lists(connection, collection_id))
        of_version = f" in version {version}" if version is not None else ""
        advice = f"There are: {known}." if known else "There is none yet."
        raise NotFound(f'There is no word list "@{name}"{of_version}. {advice}')
    return found


def save_list(
    connection: Connection[Any],
    collection_id: int,
    name: str,
    kind: str,
    entries: list[Any],
    as_version: int | None = None,
) -> SavedEntries:
    """Saves a new version, or gives the newest one where it says the same already.

    as_version: which version it has to become. Raises BadInput where others were saved meanwhile.
    """
    check_name(name)
    connection.execute("select from collections where id = %s for update", [collection_id])
    version = 1
    if any(known.name == name for known in latest_lists(connection, collection_id)):
        newest = list_named(connection, collection_id, name)
        if (newest.kind, newest.entries) == (kind, entries):
            return newest
        version = newest.version + 1
    if as_version is not None and version != as_version:
        now = f"its newest version is {version - 1}" if version > 1 else "it is no longer there"
        raise BadInput(f"@{name} was changed meanwhile: {now}. Look at it, and try again.")
    connection.execute(
        """
        insert into word_lists (collection_id, name, version, kind, entries, entry_count)
        values (%s, %s, %s, %s, %s, %s)
        """,
        [collection_id, name, version, kind, Json(entries), len(entries)],
    )
    return list_named(connection, collection_id, name, version)
