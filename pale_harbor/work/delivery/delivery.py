"""All that stands behind the search endpoint: keys, answers, rates, and what was asked."""

from contextlib import nullcontext
from dataclasses import dataclass, replace
from threading import Lock
from typing import Final
from uuid import UUID

from pale_harbor.core.fields import OneOf
from pale_harbor.core.pages import PagePlaces
from pale_harbor.errors import NotFound
from pale_harbor.formats.display import ShownField
from pale_harbor.formats.iiif.image import PartAsked, PartMade, part_of_picture
from pale_harbor.formats.pages.pictures import picture_size
from pale_harbor.store.delivery.asked import EventKind
from pale_harbor.store.records.pictures import Picture, picture_named, small_picture_named
from pale_harbor.work.delivery.answering import Answering, DeliveredList
from pale_harbor.work.delivery.harvested import Harvesting
from pale_harbor.work.delivery.known import Known, KnownKeys
from pale_harbor.work.delivery.paged import FoundPage, FoundPages, PagedCollections
from pale_harbor.work.delivery.past import PastKeeper
from pale_harbor.work.delivery.rates import Counted, Rates
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.workbench import Workbench, display_of

_MOST_FACETS: Final = 6
_MOST_SORTS: Final = 4
# Pages of a thing that are told beside one of them.
_MOST_BESIDE: Final = 100
_LARGE_DOTS: Final = 12_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class About:
    """How a page shows what it finds, of what its key may see. title, picture: fields, None where there is none;
    fields: below the title; facets: fields by whose values a list may be narrowed; sorts: by which it may be ordered;
    pages: whether records may be pages that a machine read.
    """

    title: str | None
    picture: str | None
    fields: list[ShownField]
    facets: list[str]
    sorts: list[str]
    pages: bool


@dataclass(frozen=True, slots=True)
class ShownPage:
    """A page with what a query matched on it. places: of all its words; beside: the pages of its thing on which
    something was found, itself among them, in their order."""

    found: FoundPage
    places: PagePlaces
    beside: list[FoundPage]


class Delivery:
    """What the world sees. One per process; safe to use from several threads."""

    def __init__(self, bench: Workbench) -> None:
        self._bench = bench
        self.keys = KnownKeys(bench)
        self.answering = Answering(bench)
        self.paged = PagedCollections(bench, self.answering)
        self.harvesting = Harvesting(bench, self.answering)
        self.past = PastKeeper(bench.pool)
        self.rates = Rates()
        self._opens_large = Lock()

    def count(self, known: Known, address: str) -> Counted:
        """Counts a request with a key from an address."""
        terms = known.terms
        return self.rates.count(known.key.id, address, terms.per_minute, terms.per_minute_each)

    def listed(self, known: Known, wanted: WantedList) -> DeliveredList:
        """A page of a list, which is noted where the key says so. Raises BadInput, NotFound, Unavailable."""
        return self._noted(known, self.answering.listed(known, wanted))

    def listed_before(self, known: Known, wanted: WantedList) -> DeliveredList | None:
        """The same where somebody asked for it before, without waiting for anything; None where it has to be made.

        Raises BadInput, NotFound.
        """
        found = self.answering.listed_before(known, wanted)
        return None if found is None else self._noted(known, found)

    def _noted(self, known: Known, found: DeliveredList) -> DeliveredList:
        if known.terms.keeps:
            self.past.note(found.asked)
        return found

    def note_event(self, known: Known, query_id: UUID, kind: EventKind, record_key: str) -> None:
        """Keeps what was done with a row of a list, before it returns."""
        if known.terms.keeps:
            self.past.note_event(known.key.collection_id, query_id, kind, record_key)

    def page(self, known: Known, key: str, wanted: WantedList) -> ShownPage:
        """A page with what a query matches on it, and on the others of its thing; nothing of it is noted, since the
        list that it was found in was.

        Raises NotFound where it is no page that may be seen; as `listed` otherwise.
        """
        page, places = self.paged.page(known, key)
        nothing = ShownPage(FoundPage(page, ()), places, [])
        if not wanted.query.strip():
            return nothing
        wanted = replace(wanted, top=_MOST_BESIDE, skip=0)
        if page.thing is not None and self.paged.has_things(known):
            listed = self.answering.listed(known, self.paged.within(known, page.thing, wanted))
            beside = self.paged.find(known, listed, in_order_of_pages=True).pages
            own = next((one for one in beside if one.page.key == key), None)
            if own is not None or len(listed.results) < _MOST_BESIDE:
                return replace(nothing, found=own or nothing.found, beside=beside)
        else:
            beside = []
        # Alone, or farther down than anybody looks.
        key_field = next((one.name for one in known.fields if one.is_key), None)
        if key_field is None:
            return replace(nothing, beside=beside)
        alone = replace(wanted, filters=(*wanted.filters, OneOf(key_field, (key,))), top=1, per="")
        found = self.paged.hits_of(known, self.answering.listed_unchecked(known, alone)).get(key)
        return replace(nothing, found=found or nothing.found, beside=beside)

    def picture(self, known: Known, name: str, *, small: bool = False) -> Picture:
        """A picture that records name, small as lists show it. Raises NotFound where there is none, or where it may not
        be seen."""
        field = next((one.name for one in known.fields if one.role == "picture"), None)
        if field not in known.audience.shown or not self.answering.holds(known, OneOf(field, (name,))):
            raise NotFound(f'There is no picture "{name[:200]}" here.')
        with self._bench.pool.connection() as connection:
            return (small_picture_named if small else picture_named)(connection, known.key.collection_id, name)

    def picture_size(self, known: Known, name: str) -> tuple[int, int]:
        """How large a picture is, in dots. Raises NotFound as `picture`, and for one that is drawn."""
        size = picture_size(self.picture(known, name).content)
        if size is None:
            raise NotFound(f'"{name[:200]}" is drawn, not made of dots; there are no parts of it to be had.')
        return size

    def picture_part(self, known: Known, name: str, part: PartAsked) -> PartMade:
        """A part of a picture. Raises NotFound as `picture_size`; BadInput where it has no such part."""
        content = self.picture(known, name).content
        width, height = picture_size(content) or (0, 0)
        # Opening one takes four bytes of each of its dots: of large ones one after the other is opened.
        with self._opens_large if width * height > _LARGE_DOTS else nullcontext():
            return part_of_picture(content, part)

    def pages_found(self, known: Known, wanted: WantedList, thing: str | None, top: int, skip: int) -> FoundPages:
        """Pages of a thing, or of all, that a query finds, with what it matched on them; noted as `listed` does.

        Within a thing the pages come in their order. Raises as `listed`; NotFound where there is nothing that says what
        pages are pages of.
        """
        wanted = replace(wanted, top=top, skip=skip, per="")
        if thing is not None:
            wanted = self.paged.within(known, thing, wanted)
        listed = self.answering.listed(known, wanted)
        if not wanted.is_typed:
            self._noted(known, listed)
        return self.paged.find(known, listed, in_order_of_pages=thing is not None)

    def about(self, known: Known) -> About:
        """How a page shows what it finds: records as they are shown everywhere, lists narrowed by values that several
        records share, and ordered by numbers and dates. Raises NotFound where nothing is live."""
        shown = known.audience.shown
        whole = display_of(known.standing.collection, known.fields)
        told = [one for one in whole.fields if one.field in shown]
        kinds = {one.name: one.kind for one in known.fields if one.role in (None, "language")}
        named = [one.field for one in told if kinds.get(one.field) in ("exact", "flag")]
        return About(
            title=whole.title if whole.title in shown else None,
            picture=whole.picture if whole.picture in shown else None,
            fields=told,
            facets=self.answering.values_repeat(known, named)[:_MOST_FACETS],
            sorts=[one.field for one in told if kinds.get(one.field) in ("number", "date")][:_MOST_SORTS],
            pages=any(one.role == "places" for one in known.fields),
        )

    def end(self) -> None:
        """Keeps what is still held."""
        self.past.end()
