"""The table `publications`: which version of a ranker answers at the endpoint, since when and by whom."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

PublishedAs = Literal["live", "candidate"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Publication:
    """What was made live, or a candidate, or (ranker is None) that there is none any more.

    share: of visitors who meet a candidate; mixed: whether in one list with the live one. rules: each with its text,
    whether it held and what was found, None where there was none to check; overruled: why it was published although
    some were broken.
    """

    id: int
    place: PublishedAs
    ranker: str | None
    version: int | None
    share: float | None
    mixed: bool
    note: str
    rules: list[dict[str, Any]] | None
    overruled: str | None
    by_person: str | None
    at: datetime


def add_publication(
    connection: Connection[Any],
    collection_id: int,
    place: PublishedAs,
    *,
    ranker: str | None,
    version: int | None,
    note: str,
    share: float | None = None,
    mixed: bool = False,
    rules: list[dict[str, Any]] | None = None,
    overruled: str | None = None,
) -> Publication:
    """From now on this version is what stands at that place; None: nothing is."""
    with connection.cursor(row_factory=class_row(Publication)) as cursor:
        made = cursor.execute(
            """
            insert into publications (collection_id, place, ranker, version, share, mixed, note, rules, overruled)
            values (%s, %s, %s, %s, %s, %s, %s, %s, %s)
            returning id, place, ranker, version, share, mixed, note, rules, overruled, by_person, at
            """,
            [
                *(collection_id, place, ranker, version, share, mixed, note),
                *(None if rules is None else Json(rules), overruled),
            ],
        ).fetchone()
    assert made is not None
    return made


def published_now(connection: Connection[Any], collection_id: int) -> dict[PublishedAs, Publication]:
    """What is live and what is a candidate, as far as there is one."""
    with connection.cursor(row_factory=class_row(Publication)) as cursor:
        rows = cursor.execute(
            """
            select distinct on (place)
                id, place, ranker, version, share, mixed, note, rules, overruled, by_person, at
            from publications where collection_id = %s order by place, id desc
            """,
            [collection_id],
        ).fetchall()
    return {row.place: row for row in rows if row.ranker is not None}


def publications_of(connection: Connection[Any], collection_id: int, count: int = 500) -> list[Publication]:
    """What was published, the latest first."""
    with connection.cursor(row_factory=class_row(Publication)) as cursor:
        return cursor.execute(
            """
            select id, place, ranker, version, share, mixed, note, rules, overruled, by_person, at
            from publications where collection_id = %s order by id desc limit %s
            """,
            [collection_id, count],
        ).fetchall()
