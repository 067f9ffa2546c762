"""The tables `diary` and `looks`: what was decided and opened, and how often the open queries were looked at."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Json

EntryKind = Literal["locked look", "decision"]


@dataclass(frozen=True, slots=True, kw_only=True)
class DiaryEntry:
    """details: figures and names that the entry is about; by_person: who wrote it or opened it."""

    id: int
    written_at: datetime
    kind: EntryKind
    title: str
    body: str
    details: dict[str, Any]
    by_person: str | None = None


def diary_of(connection: Connection[Any], collection_id: int, count: int = 200) -> list[DiaryEntry]:
    """The newest entries, the newest first."""
    with connection.cursor(row_factory=class_row(DiaryEntry)) as cursor:
        return cursor.execute(
            """
            select id, written_at, kind, title, body, details, by_person from diary
            where collection_id = %s order by id desc limit %s
            """,
            [collection_id, count],
        ).fetchall()


def openings_of(connection: Connection[Any], collection_id: int, set_name: str) -> list[DiaryEntry]:
    """Every opening of a set's locked queries, the oldest first."""
    with connection.cursor(row_factory=class_row(DiaryEntry)) as cursor:
        return cursor.execute(
            """
            select id, written_at, kind, title, body, details, by_person from diary
            where collection_id = %s and kind = 'locked look' and details ->> 'set' = %s order by id
            """,
            [collection_id, set_name],
        ).fetchall()


def write_entry(
    connection: Connection[Any], collection_id: int, kind: EntryKind, title: str, body: str, details: dict[str, Any]
) -> DiaryEntry:
    """Writes an entry, and returns it as it is kept."""
    with connection.cursor(row_factory=class_row(DiaryEntry)) as cursor:
        entry = cursor.execute(
            """
            insert into diary (collection_id, kind, title, body, details) values (%s, %s, %s, %s, %s)
            returning id, written_at, kind, title, body, details, by_person
            """,
            [collection_id, kind, title, body, Json(details)],
        ).fetchone()
    assert entry is not None
    return entry


def note_look(connection: Connection[Any], set_id: int, fingerprint: bytes) -> None:
    """Notes that a ranker was measured on a set's open queries; the same one again is no further look."""
    connection.execute(
        "insert into looks (set_id, fingerprint) values (%s, %s) on conflict (set_id, fingerprint) do nothing",
        [set_id, fingerprint],
    )


def looks_at(connection: Connection[Any], set_id: int) -> int:
    """How many rankers were measured on a set's open queries; opening the locked ones forgets none of them."""
    row = connection.execute("select count(*) from looks where set_id = %s", [set_id]).fetchone()
    assert row is not None
    return int(row[0])
