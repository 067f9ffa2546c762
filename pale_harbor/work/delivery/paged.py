"""Pages that a machine read, as visitors get them: what a query matched on them, and the pages of a thing."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from pale_harbor.core.fields import Has, OneOf
from pale_harbor.core.marking import from_utf16
from pale_harbor.core.pages import Box, PageHit, PagePlaces, Place, hits_on
from pale_harbor.errors import NotFound
from pale_harbor.formats.pages.pictures import picture_size
from pale_harbor.formats.pages.places_text import PlacesReference, places_in, places_near, reference_in
from pale_harbor.formats.records.several_files import in_order
from pale_harbor.store.records.page_places import places_kept
from pale_harbor.store.records.pictures import picture_named, picture_types
from pale_harbor.work.delivery.answering import Answering, DeliveredList
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.ranking.searching import Result
from pale_harbor.work.workbench import Workbench, display_of

# What scanned pages come with.
_THING: Final = "thing"
_NUMBER: Final = "page"
_LABEL: Final = "page_label"
# Of a thing; nobody turns over more.
MOST_PAGES: Final = 5_000
_NO_PLACES: Final = PagePlaces(0, 0, ())


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitorPage:
    """A page as far as it may be seen. thing: what it is a page of, None where nobody says; number, label: which page.
    field: its text, and text: what stands there, both "" where it may not be seen; picture: the name of its picture
    where that is here and may be seen, and picture_type its media type. width, height: in the units of its places, else
    of its picture. reference: to where its words stand, None where that is not known of this text. values: all that may
    be seen.
    """

    key: str
    title: str
    thing: str | None
    number: float | None
    label: str
    field: str
    text: str
    picture: str | None
    picture_type: str | None
    width: float
    height: float
    reference: PlacesReference | None
    values: dict[str, Any]


@dataclass(frozen=True, slots=True)
class FoundPage:
    """A page with what a query matched on it."""

    page: VisitorPage
    hits: tuple[PageHit, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundPages:
    """Pages that a query finds. found: how many there are in the whole list; left_out: what there was no time for."""

    pages: list[FoundPage]
    found: int
    left_out: list[str]


@dataclass(frozen=True, slots=True)
class ThingTold:
    """A thing that has pages. name: as its pages say it; title: as people read it."""

    name: str
    title: str


class PagedCollections:
    """Pages and things, for keys. Safe to use from several threads."""

    def __init__(self, bench: Workbench, answering: Answering) -> None:
        self._bench, self._answering = bench, answering

    def hits_of(self, known: Known, found: DeliveredList) -> dict[str, FoundPage]:
        """What a list's query matched on those of its rows that are pages, by key. Raises as `Answering.listed`."""
        return self._found(known, found.results)

    def find(self, known: Known, listed: DeliveredList, *, in_order_of_pages: bool) -> FoundPages:
        """The same as a list of its own, best first, or in the order of the pages."""
        pages = [one for one in self._found(known, listed.results).values() if one.hits]
        if in_order_of_pages:
            pages.sort(key=lambda one: _place(one.page))
        return FoundPages(pages=pages, found=listed.found, left_out=listed.left_out)

    def within(self, known: Known, thing: str, wanted: WantedList) -> WantedList:
        """A query narrowed to the pages of a thing. Raises NotFound where nothing says what pages are pages of."""
        return replace(wanted, filters=(*wanted.filters, OneOf(self._thing_field(known), (thing,))), per="")

    def page(self, known: Known, key: str) -> tuple[VisitorPage, PagePlaces]:
        """A page, and where all its words stand. Raises NotFound where it is none that may be seen."""
        values, _ = self._answering.record(known, key)
        page = self._told(known, {key: values}, self._references(known, [key])).get(key)
        if page is None or not page.field:
            raise NotFound(f'The record "{key[:200]}" is no page with places of its words.')
        kept = self._kept(known, [page]).get(key)
        return page, _NO_PLACES if kept is None else places_in(kept)

    def pages_of(self, known: Known, thing: str) -> list[VisitorPage]:
        """The pages of a thing in their order. Raises NotFound where it has none that may be seen."""
        wanted = WantedList(query="", top=MOST_PAGES)
        rows = self._answering.listed(known, self.within(known, thing, wanted)).results
        keys = [row.key for row in rows]
        told = self._told(known, {row.key: row.field_values for row in rows}, self._references(known, keys))
        pages = sorted(told.values(), key=_place)
        if not pages:
            raise NotFound(f'There is no thing "{thing[:200]}" with pages here.')
        return [self._sized(known, page) for page in pages]

    def things(self, known: Known, top: int, skip: int) -> tuple[list[ThingTold], int]:
        """Things with pages, in the order of the ranker for equals, and how many there are in all.

        Raises NotFound where nothing says what pages are pages of.
        """
        field = self._thing_field(known)
        found = self._answering.listed(
            known, WantedList(query="", filters=(Has(field, True),), top=top, skip=skip, per=field)
        )
        rows = {row.key: row.field_values for row in found.results}
        pages = self._told(known, rows, self._references(known, list(rows)))
        return [ThingTold(one.thing, thing_title([one])) for one in pages.values() if one.thing is not None], found.rows

    def has_things(self, known: Known) -> bool:
        """Whether pages say what they are pages of, in a field that may be seen."""
        return self._field_of_things(known) is not None

    def _field_of_things(self, known: Known) -> str | None:
        names = (self._answering.one_per(known), _THING)
        return next((name for name in names if name is not None and name in known.audience.shown), None)

    def _thing_field(self, known: Known) -> str:
        field = self._field_of_things(known)
        if field is None:
            raise NotFound(
                f'Nothing that may be seen here says what a page is a page of: a field "{_THING}" does, or what the '
                "ranker's list shows one record each of."
            )
        return field

    def _references(self, known: Known, keys: Sequence[str]) -> dict[str, PlacesReference]:
        field = next((one.name for one in known.fields if one.role == "places"), None)
        if field is None:
            return {}
        held = self._answering.held(known, field, keys)
        return {key: found for key, value in held.items() if (found := reference_in(value)) is not None}

    def _told(
        self, known: Known, rows: Mapping[str, Mapping[str, Any]], references: Mapping[str, PlacesReference]
    ) -> dict[str, VisitorPage]:
        by_role = {one.role: one.name for one in known.fields if one.role is not None}
        title = display_of(known.standing.collection, known.fields).title
        picture_field, thing_field = by_role.get("picture", ""), self._field_of_things(known) or ""
        pictures = self._pictures(known, [values.get(picture_field) for values in rows.values()])
        return {
            key: _page(key, values, references.get(key), title or "", thing_field, picture_field, pictures)
            for key, values in rows.items()
        }

    def _pictures(self, known: Known, names: Sequence[Any]) -> dict[str, str]:
        own = sorted({name for name in names if isinstance(name, str)})
        if not own:
            return {}
        with self._bench.pool.connection() as connection:
            return picture_types(connection, known.key.collection_id, own)

    def _found(self, known: Known, rows: Sequence[Result]) -> dict[str, FoundPage]:
        references = self._references(known, [row.key for row in rows])
        pages = self._told(known, {row.key: row.field_values for row in rows if row.key in references}, references)
        kept = self._kept(known, [page for page in pages.values() if page.text])
        found: dict[str, FoundPage] = {}
        for row in rows:
            page = pages.get(row.key)
            if page is None or not page.field:
                continue
            marks = from_utf16(page.text, row.marks.get(page.field, []))
            places = places_near(kept[row.key], marks) if row.key in kept else _NO_PLACES
            found[row.key] = FoundPage(page, hits_on(page.text, places, marks))
        return found

    def _kept(self, known: Known, pages: Sequence[VisitorPage]) -> dict[str, str]:
        """Where words stand on pages of which it is known, by key, as it is kept."""
        digests = {page.key: page.reference.digest for page in pages if page.reference is not None}
        if not digests:
            return {}
        with self._bench.pool.connection() as connection:
            kept = places_kept(connection, known.key.collection_id, sorted(set(digests.values())))
        return {key: kept[digest] for key, digest in digests.items() if digest in kept}

    def _sized(self, known: Known, page: VisitorPage) -> VisitorPage:
        """The page as large as its picture, where nobody says how large it is."""
        if (page.width > 0 and page.height > 0) or page.picture is None:
            return page
        with self._bench.pool.connection() as connection:
            content = picture_named(connection, known.key.collection_id, page.picture).content
        width, height = picture_size(content) or (0, 0)
        return replace(page, width=float(width), height=float(height))


def _page(
    key: str,
    values: Mapping[str, Any],
    reference: PlacesReference | None,
    title: str,
    thing: str,
    picture: str,
    pictures: Mapping[str, str],
) -> VisitorPage:
    """thing, picture: the fields that say it; pictures: media types of those that are here, by name."""
    text = values.get(reference.field) if reference is not None else None
    number, label, named = values.get(_NUMBER), values.get(_LABEL), values.get(picture)
    is_number = isinstance(number, int | float) and not isinstance(number, bool)
    its_thing, its_picture = values.get(thing), named if isinstance(named, str) and named in pictures else None
    return VisitorPage(
        key=key,
        title=str(values.get(title) or key),
        thing=None if its_thing is None or isinstance(its_thing, list) else str(its_thing),
        number=float(number) if is_number and number is not None else None,
        label=str(label if label is not None else number if is_number else values.get(title) or key),
        field=reference.field if reference is not None and isinstance(text, str) else "",
        text=text if isinstance(text, str) else "",
        picture=its_picture,
        picture_type=None if its_picture is None else pictures[its_picture],
        width=0.0 if reference is None else reference.width,
        height=0.0 if reference is None else reference.height,
        reference=reference if reference is not None and isinstance(text, str) and reference.are_of(text) else None,
        values=dict(values),
    )


def _place(page: VisitorPage) -> tuple[float, list[str | tuple[int, str]]]:
    """What pages of a thing are put in order by: their numbers, then their keys."""
    return (float("inf") if page.number is None else page.number, in_order(page.key))


def thing_title(pages: Sequence[VisitorPage]) -> str:
    """What a thing is called: as its first page's title begins, before it says which page it is."""
    first = pages[0]
    for which in (first.label, "" if first.number is None else f"{first.number:g}"):
        before = first.title.removesuffix(f", page {which}")
        if which and before != first.title:
            return before
    return first.thing or first.title


def lines_of(text: str, places: PagePlaces) -> list[tuple[str, Box]]:
    """The lines that were read on a page, in their order, each with the rectangle around it.

    A word that is parted stands on both of its lines, as far as it stands on each.
    """
    lines: dict[int, list[Place]] = {}
    for place in places.places:
        lines.setdefault(place.line, []).append(place)
    told: list[tuple[str, Box]] = []
    for own in lines.values():
        letters = " ".join(text[own[0].start : own[-1].end].split())
        left, top = min(one.box.x for one in own), min(one.box.y for one in own)
        right = max(one.box.x + one.box.width for one in own)
        bottom = max(one.box.y + one.box.height for one in own)
        told.append((letters, Box(left, top, right - left, bottom - top)))
    return told


def same_on_all(pages: Sequence[VisitorPage], left_out: Sequence[str]) -> dict[str, Any]:
    """What all pages of a thing say alike, by field: it is of the thing."""
    first, *others = pages
    return {
        name: value
        for name, value in first.values.items()
        if name not in left_out and value not in (None, "") and all(one.values.get(name) == value for one in others)
    }
