"""The table `rankers`: numbered versions that are never changed."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json, Jsonb

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import check_name, refuse_unstorable


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedRanker:
    """A kept version of a ranker.

    chain_versions, list_versions: for each saved chain and word list that it names without a
    version of its own, the version it means.
    """

    id: int
    name: str
    version: int
    document: dict[str, Any]
    chain_versions: dict[str, int]
    list_versions: dict[str, int]
    note: str
    created_at: datetime
    by_person: str | None = None

    @property
    def title(self) -> str:
        """How people name it: first:2."""
        return f"{self.name}:{self.version}"


def all_rankers(connection: Connection[Any], collection_id: int) -> list[SavedRanker]:
    """Every version of every ranker, by name, newest version first."""
    with connection.cursor(row_factory=class_row(SavedRanker)) as cursor:
        return cursor.execute(
            """
            select id, name, version, document, chain_versions, list_versions, note, created_at, by_person from rankers
            where collection_id = %s order by name, version desc
            """,
            [collection_id],
        ).fetchall()


def ranker_named(connection: Connection[Any], collection_id: int, name: str, version: int | None = None) -> SavedRanker:
    """A kept ranker, the newest version where none is named. Raises NotFound."""
    refuse_unstorable(name)
    with connection.cursor(row_factory=class_row(SavedRanker)) as cursor:
        ranker = cursor.execute(
            """
            select id, name, version, document, chain_versions, list_versions, note, created_at, by_person from rankers
            where collection_id = %(collection)s and name = %(name)s
                and (%(version)s::integer is null or version = %(version)s)
            order by version desc limit 1
            """,
            {"collection": collection_id, "name": name, "version": version},
        ).fetchone()
    if ranker is None:
        names = sorted({other.name for other in all_rankers(connection, collection_id)})
        known = f"There are: {', '.join(names)}." if names else "None is kept yet."
        of_version = f" in version {version}" if version is not None and name in names else ""
        raise NotFound(f'There is no ranker "{name}"{of_version}. {known}')
    return ranker


def save_ranker(
    connection: Connection[Any],
    collection_id: int,
    name: str,
    document: dict[str, Any],
    chain_versions: dict[str, int],
    list_versions: dict[str, int],
    note: str,
    newest_known: int | None = None,
) -> SavedRanker:
    """Keeps a new version, or gives the newest one where it says the same already.

    newest_known: the newest version that whoever keeps it knows of, 0 for none. Raises BadInput where there is a newer
    one.
    """
    check_name(name)
    connection.execute("select from collections where id = %s for update", [collection_id])
    newest = next((r for r in all_rankers(connection, collection_id) if r.name == name), None)
    if newest is not None and (
        newest.document,
        newest.chain_versions,
        newest.list_versions,
    ) == (document, chain_versions, list_versions):
        return newest
    if newest is not None and newest_known is not None and newest.version > newest_known:
        raise BadInput(
            f'There is a ranker "{name}" already, in version {newest.version}.'
            if newest_known == 0
            else f"{newest.title} was kept meanwhile{f': {newest.note}' if newest.note else '.'}"
        )
    version = newest.version + 1 if newest else 1
    connection.execute(
        """
        insert into rankers (collection_id, name, version, document, chain_versions, list_versions, note)
        values (%s, %s, %s, %s, %s, %s, %s)
        """,
        [collection_id, name, version, Json(document), Jsonb(chain_versions), Jsonb(list_versions), note],
    )
    return ranker_named(connection, collection_id, name, version)


def put_note(connection: Connection[Any], collection_id: int, name: str, version: int, note: str) -> SavedRanker:
    """Says why a kept version was kept, in other words. Raises NotFound."""
    ranker_named(connection, collection_id, name, version)
    connection.execute(
        "update rankers set note = %s where collection_id = %s and name = %s and version = %s",
        [note, collection_id, name, version],
    )
    return ranker_named(connection, collection_id, name, version)
