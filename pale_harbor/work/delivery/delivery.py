"""All that stands behind the search endpoint: keys, answers, rates, and what was asked."""

from dataclasses import dataclass
from typing import Final
from uuid import UUID

from pale_harbor.core.fields import OneOf
from pale_harbor.errors import NotFound
from pale_harbor.formats.display import ShownField
from pale_harbor.store.delivery.asked import EventKind
from pale_harbor.store.records.pictures import Picture, picture_named
from pale_harbor.work.delivery.answering import Answering, DeliveredList
from pale_harbor.work.delivery.known import Known, KnownKeys
from pale_harbor.work.delivery.past import PastKeeper
from pale_harbor.work.delivery.rates import Counted, Rates
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.workbench import Workbench, display_of

_MOST_FACETS: Final = 6
_MOST_SORTS: Final = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class About:
    """How a page shows what it finds, of what its key may see. title, picture: fields, None where there is none;
    fields: below the title; facets: fields by whose values a list may be narrowed; sorts: by which it may be ordered.
    """

    title: str | None
    picture: str | None
    fields: list[ShownField]
    facets: list[str]
    sorts: list[str]


class Delivery:
    """What the world sees. One per process; safe to use from several threads."""

    def __init__(self, bench: Workbench) -> None:
        self._bench = bench
        self.keys = KnownKeys(bench)
        self.answering = Answering(bench)
        self.past = PastKeeper(bench.pool)
        self.rates = Rates()

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

    def picture(self, known: Known, name: str) -> Picture:
        """A picture that records name. Raises NotFound where there is none, or where it may not be seen."""
        field = next((one.name for one in known.fields if one.role == "picture"), None)
        if field not in known.audience.shown or not self.answering.holds(known, OneOf(field, (name,))):
            raise NotFound(f'There is no picture "{name[:200]}" here.')
        with self._bench.pool.connection() as connection:
            return picture_named(connection, known.key.collection_id, name)

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
        )

    def end(self) -> None:
        """Keeps what is still held."""
        self.past.end()
