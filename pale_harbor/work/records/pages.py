"""Pages that a machine read, as records: their pictures with the places of their words, and words put right."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from psycopg import Connection

from pale_harbor.core.pages import PagePlaces, Place, realigned, replaced
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.pages.places_text import PlacesReference, places_in, places_text, reference_in, referred
from pale_harbor.formats.records.conversion import RecordRow, content_hash
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.records.page_places import places_kept
from pale_harbor.store.records.pictures import Picture, has_picture, picture_named, small_picture_named
from pale_harbor.store.records.records import record_with_key

# A word that a machine read as one may be several; it is no paragraph.
LONGEST_CORRECTION = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordPage:
    """The page that a record is. field: its text, and text: what stands in it; picture: the name of its picture, None
    where it tells none, and pictured: whether that is here; width, height: in the units of the places. fits: whether
    the places are here, and of this very text; there are none where they are not.
    """

    key: str
    revision: int
    field: str
    text: str
    picture: str | None
    pictured: bool
    width: float
    height: float
    fits: bool
    places: tuple[Place, ...]


def page_of_record(pool: Pool, collection_name: str, key: str) -> RecordPage:
    """A record as a page. Raises NotFound where there is no such record, or it is no page that a machine read."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        fields = fields_of(connection, collection.id)
        record = record_with_key(connection, collection, key)
        by_role = {one.role: one.name for one in fields if one.role is not None}
        reference = reference_in(record.field_values.get(by_role.get("places", "")))
        if reference is None:
            raise NotFound(f'The record "{key[:200]}" is no page with places of its words.')
        text = record.field_values.get(reference.field)
        picture = record.field_values.get(by_role.get("picture", ""))
        pictured = isinstance(picture, str) and has_picture(connection, collection.id, picture)
        found = _places(connection, collection.id, reference)
        fits = found is not None and isinstance(text, str) and reference.are_of(text)
        places = found.places if found is not None and fits else ()
    return RecordPage(
        key=record.key,
        revision=record.revision,
        field=reference.field,
        text=text if isinstance(text, str) else "",
        picture=picture if isinstance(picture, str) else None,
        pictured=pictured,
        width=reference.width,
        height=reference.height,
        fits=fits,
        places=places,
    )


def picture_of_record(pool: Pool, collection_name: str, key: str, *, small: bool) -> Picture:
    """The picture that a record names, as lists show it where it is to be small. Raises NotFound."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        field = next((one.name for one in fields_of(connection, collection.id) if one.role == "picture"), "")
        name = record_with_key(connection, collection, key).field_values.get(field)
        if not isinstance(name, str):
            raise NotFound(f'The record "{key[:200]}" names no picture.')
        return (small_picture_named if small else picture_named)(connection, collection.id, name)


def corrected_record(pool: Pool, collection_name: str, key: str, start: int, end: int, letters: str) -> dict[str, Any]:
    """The values of a record, its places as a file would bring them, once letters of its text are others.

    start, end: of the letters in the text. What somebody read with their own eyes is sure. Raises NotFound, BadInput
    where the text has no such letters.
    """
    page = page_of_record(pool, collection_name, key)
    letters = letters.strip()
    if not page.fits:
        raise BadInput(
            "The places of this page are of another text than it has now, or not here: nobody can tell its words on "
            "the picture."
        )
    if not 0 <= start < end <= len(page.text):
        raise BadInput(f"The text has {len(page.text):,} letters; the word must be of them.")
    if not letters or len(letters) > LONGEST_CORRECTION:
        raise BadInput(f"A word has at least one letter, and {LONGEST_CORRECTION} at most.")
    text = page.text[:start] + letters + page.text[end:]
    places = _sure(replaced(page.places, start, end, len(letters)), start, start + len(letters))
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        record = record_with_key(connection, collection, key)
        field = next(one.name for one in fields_of(connection, collection.id) if one.role == "places")
    written = places_text(page.field, text, PagePlaces(page.width, page.height, places))
    # As a file would bring it: what keeps records puts places aside.
    return {**record.field_values, page.field: text, field: written}


def with_places_of_now(
    connection: Connection[Any], collection_id: int, record: RecordRow, before: Mapping[str, Any]
) -> RecordRow:
    """A record whose text was changed while its places were left: they follow what stayed of it, word by word.

    before: its values until now.
    """
    values, made = dict(record.values), dict(record.places)
    for name, value in record.values.items():
        reference = reference_in(value)
        if reference is None:
            continue
        text, former = values.get(reference.field), before.get(reference.field)
        if (
            not isinstance(text, str)
            or not isinstance(former, str)
            or reference.are_of(text)
            or not reference.are_of(former)
        ):
            continue
        places = _places(connection, collection_id, reference, made)
        if places is None:
            continue
        moved = PagePlaces(places.width, places.height, realigned(places.places, former, text))
        written = places_text(reference.field, text, moved)
        values[name], digest = referred(written)
        made[digest] = written
    if values == record.values:
        return record
    return RecordRow(record.key, values, content_hash(record.key, values), made)


def _places(
    connection: Connection[Any], collection_id: int, reference: PlacesReference, given: Mapping[str, str] | None = None
) -> PagePlaces | None:
    """The places that a record refers to, None where they are not kept: it may come from elsewhere."""
    kept = (given or {}).get(reference.digest)
    kept = kept or places_kept(connection, collection_id, [reference.digest]).get(reference.digest)
    return None if kept is None else places_in(kept)


def _sure(places: tuple[Place, ...], start: int, end: int) -> tuple[Place, ...]:
    return tuple(
        Place(one.start, one.end, one.box, one.line, 1.0) if one.start < end and start < one.end else one
        for one in places
    )
