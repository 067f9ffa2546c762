"""Rewrites what was kept in older words, once, within the migration that changed them."""

from typing import Any

from psycopg import Connection
from psycopg.types.json import Json

from pale_harbor.formats.older_documents import present_notation, present_ranker, present_space


def rewrite_kept_documents(connection: Connection[Any]) -> None:
    """Saved chains, kept rankers and spaces in today's words; each does what it did."""
    chains = connection.execute(
        "select collection_id, name, version, notation from chains order by collection_id, name, version"
    ).fetchall()
    for collection_id, name, version, notation in chains:
        if (now := present_notation(notation)) != notation:
            connection.execute(
                "update chains set notation = %s where collection_id = %s and name = %s and version = %s",
                [now, collection_id, name, version],
            )
    for ranker_id, document in connection.execute("select id, document from rankers order by id").fetchall():
        if (now := present_ranker(document)) != document:
            connection.execute("update rankers set document = %s where id = %s", [Json(now), ranker_id])
    for space_id, document in connection.execute("select id, document from spaces order by id").fetchall():
        if (now := present_space(document)) != document:
            connection.execute("update spaces set document = %s where id = %s", [Json(now), space_id])
