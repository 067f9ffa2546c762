"""The table `pictures`: small pictures that records name."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import NotFound
from pale_harbor.formats.storable import unstorable


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture by the name that records call it."""

    name: str
    media_type: str
    content: bytes


def put_pictures(connection: Connection[Any], collection_id: int, pictures: list[Picture]) -> None:
    """Keeps pictures by name, in place of those of the same names."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into pictures (collection_id, name, media_type, content) values (%s, %s, %s, %s)
            on conflict (collection_id, name) do update set
                media_type = excluded.media_type, content = excluded.content
            """,
            [(collection_id, picture.name, picture.media_type, picture.content) for picture in pictures],
        )


def picture_named(connection: Connection[Any], collection_id: int, name: str) -> Picture:
    """A picture by its name. Raises NotFound."""
    with connection.cursor(row_factory=class_row(Picture)) as cursor:
        picture = (
            cursor.execute(
                "select name, media_type, content from pictures where collection_id = %s and name = %s",
                [collection_id, name],
            ).fetchone()
            if unstorable(name) is None
            else None
        )
    if picture is None:
        raise NotFound(f'There is no picture "{name[:200]}" in this collection.')
    return picture


def picture_count(connection: Connection[Any], collection_id: int) -> int:
    """How many pictures a collection has."""
    row = connection.execute("select count(*) from pictures where collection_id = %s", [collection_id]).fetchone()
    assert row is not None
    return int(row[0])
