"""The table `chains`: saved chains in versions that are never changed."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import check_name, refuse_unstorable


@dataclass(frozen=True, slots=True)
class SavedChain:
    name: str
    version: int
    notation: str


def latest_chains(connection: Connection[Any], collection_id: int) -> list[SavedChain]:
    """The newest version of each saved chain, by name."""
    with connection.cursor(row_factory=class_row(SavedChain)) as cursor:
        return cursor.execute(
            """
            select distinct on (name) name, version, notation from chains
            where collection_id = %s order by name, version desc
            """,
            [collection_id],
        ).fetchall()


def chain_named(connection: Connection[Any], collection_id: int, name: str, version: int | None = None) -> SavedChain:
    """A saved chain, the newest version where none is named. Raises NotFound."""
    refuse_unstorable(name)
    with connection.cursor(row_factory=class_row(SavedChain)) as cursor:
        chain = cursor.execute(
            """
            select name, version, notation from chains
            where collection_id = %(collection)s and name = %(name)s
                and (%(version)s::integer is null or version = %(version)s)
            order by version desc limit 1
            """,
            {"collection": collection_id, "name": name, "version": version},
        ).fetchone()
    if chain is None:
        known = ", ".join(f"@{other.name}" for other in latest_chains(connection, collection_id))
        of_version = f" in version {version}" if version is not None else ""
        raise NotFound(
            f'There is no saved chain "@{name}"{of_version}. {f"There are: {known}." if known else "None is saved."}'
        )
    return chain


def save_chain(connection: Connection[Any], collection_id: int, name: str, notation: str) -> SavedChain:
    """Saves a new version, or gives the newest one where it says the same already."""
    check_name(name)
    connection.execute("select from collections where id = %s for update", [collection_id])
    newest = next((chain for chain in latest_chains(connection, collection_id) if chain.name == name), None)
    if newest is not None and newest.notation == notation:
        return newest
    version = newest.version + 1 if newest else 1
    connection.execute(
        "insert into chains (collection_id, name, version, notation) values (%s, %s, %s, %s)",
        [collection_id, name, version, notation],
    )
    return SavedChain(name, version, notation)
