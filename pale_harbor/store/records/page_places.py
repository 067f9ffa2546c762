"""The tables `page_places` and `incoming_places`: where the letters of records' texts stand on pictures of pages."""

from collections.abc import Mapping, Sequence
from typing import Any

from psycopg import Connection


def keep_places(connection: Connection[Any], collection_id: int, places: Mapping[str, str]) -> None:
    """Keeps places by their digests."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into page_places (collection_id, digest, content) values (%s, %s, %s) on conflict do nothing",
            [(collection_id, digest, content) for digest, content in places.items()],
        )


def places_kept(connection: Connection[Any], collection_id: int, digests: Sequence[str]) -> dict[str, str]:
    """Places by their digests, of those that are kept."""
    return dict(
        connection.execute(
            "select digest, content from page_places where collection_id = %s and digest = any(%s)",
            [collection_id, list(digests)],
        ).fetchall()
    )


def add_incoming_places(connection: Connection[Any], job_id: int, places: Mapping[str, str]) -> None:
    """Adds places to those that wait with their rows."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into incoming_places (job_id, digest, content) values (%s, %s, %s) on conflict do nothing",
            [(job_id, digest, content) for digest, content in places.items()],
        )


def merge_incoming_places(connection: Connection[Any], job_id: int, collection_id: int) -> None:
    """Keeps a job's places for its collection."""
    connection.execute(
        """
        insert into page_places (collection_id, digest, content)
        select %s, digest, content from incoming_places where job_id = %s on conflict do nothing
        """,
        [collection_id, job_id],
    )
