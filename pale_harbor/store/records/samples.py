"""Values of a field to look at: the longest ones, and those that hold a word."""

from typing import Any

from psycopg import Connection


def longest_values(connection: Connection[Any], collection_id: int, field: str, count: int) -> list[tuple[str, Any]]:
    """Key and value of the records whose field is longest, the longest first."""
    return connection.execute(
        """
        select key, field_values -> %(field)s from records
        where collection_id = %(id)s and field_values ->> %(field)s is not null
        order by length(field_values ->> %(field)s) desc, key limit %(count)s
        """,
        {"id": collection_id, "field": field, "count": count},
    ).fetchall()


def values_containing(
    connection: Connection[Any], collection_id: int, field: str, word: str, count: int
) -> list[tuple[str, Any]]:
    """Key and value of the first records whose field holds a text, whatever its case."""
    return connection.execute(
        """
        select key, field_values -> %(field)s from records
        where collection_id = %(id)s and position(lower(%(word)s) in lower(field_values ->> %(field)s)) > 0
        order by key limit %(count)s
        """,
        {"id": collection_id, "field": field, "word": word, "count": count},
    ).fetchall()
