"""The table `read_marks`: how far a query on another database was read."""

from typing import Any

from psycopg import Connection


def read_mark(connection: Connection[Any], collection_id: int, source_identity: str) -> str | None:
    """The latest change that was read, None where nothing was."""
    row = connection.execute(
        "select last_seen from read_marks where collection_id = %s and source_identity = %s",
        [collection_id, source_identity],
    ).fetchone()
    return None if row is None else str(row[0])


def set_read_mark(connection: Connection[Any], collection_id: int, source_identity: str, last_seen: str) -> None:
    """Keeps up to which moment a source was read."""
    connection.execute(
        """
        insert into read_marks (collection_id, source_identity, last_seen) values (%s, %s, %s)
        on conflict (collection_id, source_identity) do update set last_seen = excluded.last_seen
        """,
        [collection_id, source_identity, last_seen],
    )
