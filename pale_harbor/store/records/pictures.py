"""The tables `pictures` and `incoming_pictures`: pictures that records name."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, LiteralString

from psycopg import Connection
from psycopg.rows import class_row

from pale_harbor.errors import NotFound
from pale_harbor.formats.storable import unstorable


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture by the name that records call it. small: as a JPEG for lists, None where it is small itself."""

    name: str
    media_type: str
    content: bytes
    small: bytes | None = None


def put_pictures(connection: Connection[Any], collection_id: int, pictures: Iterable[Picture]) -> None:
    """Keeps pictures by name, in place of those of the same names."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into pictures (collection_id, name, media_type, content, small) values (%s, %s, %s, %b, %b)
            on conflict (collection_id, name) do update set
                media_type = excluded.media_type, content = excluded.content, small = excluded.small
            """,
            [(collection_id, one.name, one.media_type, one.content, one.small) for one in pictures],
        )


def add_incoming_pictures(connection: Connection[Any], job_id: int, pictures: Iterable[Picture]) -> None:
    """Adds pictures to those that wait with their rows."""
    with connection.cursor() as cursor:
        cursor.executemany(
            """
            insert into incoming_pictures (job_id, name, media_type, content, small) values (%s, %s, %s, %b, %b)
            on conflict (job_id, name) do nothing
            """,
            [(job_id, one.name, one.media_type, one.content, one.small) for one in pictures],
        )


def merge_incoming_pictures(connection: Connection[Any], job_id: int, collection_id: int) -> None:
    """Keeps a job's pictures for its collection, in place of those of the same names."""
    connection.execute(
        """
        insert into pictures (collection_id, name, media_type, content, small)
        select %s, name, media_type, content, small from incoming_pictures where job_id = %s
        on conflict (collection_id, name) do update set
            media_type = excluded.media_type, content = excluded.content, small = excluded.small
        """,
        [collection_id, job_id],
    )


def picture_named(connection: Connection[Any], collection_id: int, name: str) -> Picture:
    """A picture by its name, as it is. Raises NotFound."""
    return _picture(connection, collection_id, name, "select name, media_type, content from pictures")


def small_picture_named(connection: Connection[Any], collection_id: int, name: str) -> Picture:
    """A picture by its name, as lists show it. Raises NotFound."""
    return _picture(
        connection,
        collection_id,
        name,
        """
        select name, case when small is null then media_type else 'image/jpeg' end as media_type,
            coalesce(small, content) as content
        from pictures
        """,
    )


def _picture(connection: Connection[Any], collection_id: int, name: str, wanted: LiteralString) -> Picture:
    with connection.cursor(row_factory=class_row(Picture)) as cursor:
        picture = (
            cursor.execute(f"{wanted} where collection_id = %s and name = %s", [collection_id, name]).fetchone()
            if unstorable(name) is None
            else None
        )
    if picture is None:
        raise NotFound(f'There is no picture "{name[:200]}" in this collection.')
    return picture


def has_picture(connection: Connection[Any], collection_id: int, name: str) -> bool:
    """Whether a collection has a picture of such a name."""
    if unstorable(name) is not None:
        return False
    row = connection.execute(
        "select exists (select from pictures where collection_id = %s and name = %s)", [collection_id, name]
    ).fetchone()
    return row is not None and bool(row[0])


def picture_types(connection: Connection[Any], collection_id: int, names: Iterable[str]) -> dict[str, str]:
    """The media types of those pictures of some names that are here."""
    wanted = [name for name in names if unstorable(name) is None]
    rows = connection.execute(
        "select name, media_type from pictures where collection_id = %s and name = any(%s)", [collection_id, wanted]
    ).fetchall()
    return dict(rows)


def picture_count(connection: Connection[Any], collection_id: int) -> int:
    """How many pictures a collection has."""
    row = connection.execute("select count(*) from pictures where collection_id = %s", [collection_id]).fetchone()
    assert row is not None
    return int(row[0])
