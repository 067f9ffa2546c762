"""The table `connections`: other databases by names, with what is secret of them sealed."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.errors import ForeignKeyViolation
from psycopg.rows import class_row
from psycopg.types.json import Json

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import check_name


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptConnection:
    """document: as formats/following/connection.py reads it; secrets: sealed."""

    id: int
    collection_id: int
    name: str
    document: dict[str, Any]
    secrets: dict[str, str]


def connections_of(connection: Connection[Any], collection_id: int) -> list[KeptConnection]:
    """A collection's connections, by name."""
    with connection.cursor(row_factory=class_row(KeptConnection)) as cursor:
        return cursor.execute(
            "select id, collection_id, name, document, secrets from connections where collection_id = %s order by name",
            [collection_id],
        ).fetchall()


def connection_called(connection: Connection[Any], collection_id: int, name: str) -> KeptConnection:
    """A connection by its name. Raises NotFound."""
    known = connections_of(connection, collection_id)
    found = next((one for one in known if one.name == name), None)
    if found is None:
        names = ", ".join(one.name for one in known)
        raise NotFound(
            f'There is no connection "{name[:80]}". {f"There are: {names}." if names else "There is none yet."}'
        )
    return found


def put_connection(
    connection: Connection[Any], collection_id: int, name: str, document: dict[str, Any], secrets: dict[str, str]
) -> None:
    """Keeps a connection, or says anew what it is."""
    check_name(name)
    connection.execute(
        """
        insert into connections (collection_id, name, document, secrets) values (%s, %s, %s, %s)
        on conflict (collection_id, name) do update set document = excluded.document, secrets = excluded.secrets
        """,
        [collection_id, name, Json(document), Json(secrets)],
    )


def drop_connection(connection: Connection[Any], kept: KeptConnection) -> None:
    """Forgets a connection. Raises BadInput where the collection follows by it."""
    try:
        connection.execute("delete from connections where id = %s", [kept.id])
    except ForeignKeyViolation as error:
        raise BadInput(f'The collection follows by "{kept.name}". End the following first.') from error
