"""Who changed what: noted, and told."""

from collections.abc import Iterator
from csv import writer
from dataclasses import replace
from io import StringIO
from typing import Final

from pale_harbor.formats.spreadsheet_cells import guarded_cell
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.people import changes
from pale_harbor.store.people.changes import ChangesWanted, NotedChange

MOST_AT_ONCE: Final = 200


def note_change(pool: Pool, collection: str | None, what: str, about: str) -> None:
    """Notes what was done for whoever asks."""
    with pool.connection() as connection:
        # A sign that PostgreSQL keeps nowhere; the change itself is made by now.
        changes.note_change(connection, collection, what[:300], about.replace("\x00", "")[:500])


def changes_told(
    pool: Pool,
    collection_name: str | None,
    *,
    person: str | None = None,
    text: str | None = None,
    before: int | None = None,
) -> list[NotedChange]:
    """The newest changes to a collection, or to everything, the newest first.

    person: as others see their name; text: what was done, or to what; before: only what is older than this one.
    Raises NotFound.
    """
    with pool.connection() as connection:
        collection_id = None if collection_name is None else collection_named(connection, collection_name).id
        wanted = ChangesWanted(collection_id=collection_id, person=person or None, text=text or None, before=before)
        return changes.changes(connection, wanted, MOST_AT_ONCE)


def changes_as_csv(
    pool: Pool, collection_name: str | None, *, person: str | None = None, text: str | None = None
) -> Iterator[str]:
    """All of them as CSV (RFC 4180), a part at a time. Raises NotFound."""
    with pool.connection() as connection:
        collection_id = None if collection_name is None else collection_named(connection, collection_name).id
    return _csv_of(pool, ChangesWanted(collection_id=collection_id, person=person or None, text=text or None))


def _csv_of(pool: Pool, wanted: ChangesWanted) -> Iterator[str]:
    yield _lines([["at", "person", "collection", "what", "about"]])
    while True:
        # A connection for a part at a time: whoever reads slowly holds none meanwhile.
        with pool.connection() as connection:
            page = changes.changes(connection, wanted, 1_000)
        yield _lines([_row(one) for one in page])
        if len(page) < 1_000:
            return
        wanted = replace(wanted, before=page[-1].id)


def _row(change: NotedChange) -> list[str]:
    texts = (change.person or "", change.collection or "", change.what, change.about)
    return [change.at.isoformat(timespec="seconds"), *map(guarded_cell, texts)]


def _lines(rows: list[list[str]]) -> str:
    text = StringIO()
    writer(text).writerows(rows)
    return text.getvalue()
