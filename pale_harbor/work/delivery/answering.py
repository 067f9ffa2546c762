"""Answers what visitors ask at the endpoint, by what is live, and within what their key may see."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import partial
from hashlib import sha256
from random import Random
from time import perf_counter
from typing import Any, Final, TypeVar
from uuid import UUID, uuid4

import orjson

from pale_harbor.core.fields import Filter, passing_records
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.traffic.interleaving import Interleaved, team_draft
from pale_harbor.errors import NotFound, RecordsChanged, Unavailable
from pale_harbor.store.database import for_one_statement
from pale_harbor.store.delivery.asked import AskedQuery
from pale_harbor.store.delivery.publications import Publication
from pale_harbor.store.ranking.rankers import SavedRanker
from pale_harbor.store.records.records import values_as_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.delivery.audience import ranker_for
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.nearly import Nearly, nearly_found
from pale_harbor.work.delivery.ready import AskedBy, ReadyCollections
from pale_harbor.work.delivery.scanning import TermCounted, terms_around
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.ranking.asked import allowed_records
from pale_harbor.work.ranking.asking import correction_of
from pale_harbor.work.ranking.completing import Completed, completions_for, recipe_of
from pale_harbor.work.ranking.corrected import DidYouMean
from pale_harbor.work.ranking.searching import FacetValue, Found, Result, Telling, page_of
from pale_harbor.work.running.caches import StateKey, record_bytes
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.workbench import RankerChoice, Workbench

T = TypeVar("T")
_TEAM: Final = {"live": "l", "candidate": "c", None: "-"}
_MOST_MIXED: Final = 200
# Values that fewer records share, on average, narrow a list to almost nothing.
_SHARED_BY: Final = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class RankerNamed:
    """Which version made a list."""

    name: str
    version: int


@dataclass(frozen=True, slots=True, kw_only=True)
class DeliveredList:
    """A page of a list as a visitor gets it.

    found: records in the whole list; rows: of it, fewer where it shows one per group. left_out: what there was no time
    for. asked: what is noted of it. revision: of the records that it was made of, which may be the former ones.
    """

    query_id: UUID
    ranker: RankerNamed
    found: int
    rows: int
    results: list[Result]
    facets: dict[str, list[FacetValue]]
    did_you_mean: DidYouMean | None
    notes: list[str]
    nearly: Nearly | None
    left_out: list[str]
    elapsed_ms: float
    asked: AskedQuery
    revision: int

    @property
    def is_whole(self) -> bool:
        """Whether whoever asks again gets the same: nothing was left out, for want of time or of a service."""
        return not self.left_out and not self.notes


@dataclass(frozen=True, slots=True, eq=False)
class _Kept:
    """A page that was made for whoever asks for it."""

    found: Found
    nearly: Nearly | None

    @property
    def size_bytes(self) -> int:
        """About what it takes up: its records, marks and counts."""
        found = self.found
        marks = sum(len(own) for row in found.results for own in row.marks.values())
        passages = sum(2 * len(one.text) for row in found.results for one in row.passages)
        counts = sum(len(values) for values in found.facets.values())
        records = sum(record_bytes(row.field_values) for row in found.results)
        return 2_000 + records + 500 * len(found.results) + 120 * marks + passages + 150 * counts


class _AskedOnce:
    """In the place of a page that was asked for once: most queries never come again, and would only push out others."""

    size_bytes: Final = 1_100


_ASKED_ONCE: Final = _AskedOnce()


@dataclass(frozen=True, slots=True, eq=False)
class _Seen:
    """A kept ranker as an audience meets it. name: of that; reads: the spaces that it asks, each once."""

    saved: SavedRanker
    ranker: Ranker
    name: Hashable
    reads: tuple[str, ...]

    def by(self, known: Known) -> AskedBy:
        """The same with the vectors that it asks by: other vectors have to be made ready, too."""
        return AskedBy((self.name, known.states(self.reads)), self.ranker)


class Answering:
    """Answers lists, completions, corrections and records. Safe to use from several threads."""

    def __init__(self, bench: Workbench) -> None:
        self._bench = bench
        self._ready = ReadyCollections(bench)

    def listed(self, known: Known, wanted: WantedList) -> DeliveredList:
        """A page of a list. Raises BadInput, NotFound, Unavailable."""
        wanted.check(known.audience)
        return self.listed_unchecked(known, wanted)

    def listed_unchecked(self, known: Known, wanted: WantedList) -> DeliveredList:
        """The same for what is asked by the program itself, which may narrow by what is not told. Raises as
        `listed`."""
        hurry = Hurry(min(known.terms.time_ms, wanted.time_ms or known.terms.time_ms) / 1000)
        place, candidate = self._who_answers(known, wanted)
        seen = self._seen(known, place)
        if candidate is None or wanted.sort or wanted.skip + wanted.top > _MOST_MIXED:
            return self._answered(known, seen, lambda opened: self._plain(opened, known, seen, wanted, hurry))
        other = self._seen(known, candidate)
        return self._answered(
            known, seen, lambda opened: self._mixed(opened, known, (seen, other), wanted, hurry), also=other
        )

    def listed_before(self, known: Known, wanted: WantedList) -> DeliveredList | None:
        """The same where somebody asked for it before, without waiting for anything; None where it has to be made.

        Raises BadInput, NotFound.
        """
        wanted.check(known.audience)
        place, candidate = self._who_answers(known, wanted)
        seen = self._bench.memory.rankers.get(_name_of(known, place))
        if seen is None or candidate is not None:
            return None
        opened = self._ready.at_once(known.standing.collection, seen.by(known))
        return None if opened is None else self._kept(opened, known, seen, wanted)

    def completed(self, known: Known, typed: str, top: int, language: str | None, patience_s: float) -> Completed:
        """Whole suggestions for what is typed. Raises as `listed`."""
        seen = self._seen(known, self._live_or_named(known))

        def work(opened: OpenCollection) -> Completed:
            narrowed = opened.naming(known.audience.named)
            return completions_for(narrowed, seen.ranker, typed, top, language, patience_s)

        return self._answered(known, seen, work)

    def corrected(self, known: Known, wanted: WantedList) -> DidYouMean | None:
        """What a query may have meant. Raises as `listed`."""
        seen = self._seen(known, self._live_or_named(known))
        return self._answered(
            known,
            seen,
            lambda opened: correction_of(opened.naming(known.audience.named), seen.ranker, wanted.question),
        )

    def record(self, known: Known, key: str) -> tuple[dict[str, Any], int]:
        """What a record holds, as far as it may be seen, and of which revision that is.

        Raises NotFound, with the same words where it may not be seen.
        """
        seen = self._seen(known, self._live_or_named(known))

        def work(opened: OpenCollection) -> tuple[dict[str, Any], int]:
            values = self._values(opened, known, [key]) if self._passes(opened, seen, key) else {}
            if key not in values:
                raise NotFound(f'There is no record with the key "{key[:200]}" here.')
            return values[key], opened.collection.revision

        return self._answered(known, seen, work)

    def held(self, known: Known, field: str, keys: Sequence[str]) -> dict[str, Any]:
        """What records hold in a field, whether or not it may be seen: for who tells no more of it than may be.

        Those that the key's filters leave out are left out. Raises as `listed`.
        """
        seen = self._seen(known, self._live_or_named(known))

        def work(opened: OpenCollection) -> dict[str, Any]:
            own = [key for key in keys if self._passes(opened, seen, key)]
            values = self._whole_values(opened, own)
            return {key: one[field] for key, one in values.items() if field in one}

        return self._answered(known, seen, work)

    def one_per(self, known: Known) -> str | None:
        """The field of whose values the live ranker's list shows one record each. Raises as `listed`."""
        return self._seen(known, self._live_or_named(known)).ranker.one_per

    def terms(
        self, known: Known, field: str, term: str, before: int, after: int, *, by_words: bool
    ) -> tuple[list[TermCounted], list[TermCounted]]:
        """Terms of a field before a term and from it on, with how many records hold them that the key may see.

        Raises as `listed`.
        """
        seen = self._seen(known, self._live_or_named(known))
        hurry = Hurry(known.terms.time_ms / 1000)

        def work(opened: OpenCollection) -> tuple[list[TermCounted], list[TermCounted]]:
            filters = seen.ranker.filters
            return terms_around(opened, field, filters, term, before, after, hurry, by_words=by_words)

        return self._answered(known, seen, work)

    def filters(self, known: Known) -> tuple[Filter, ...]:
        """All that records have to pass: the live ranker's filters and the key's own. Raises as `listed`."""
        return self._seen(known, self._live_or_named(known)).ranker.filters

    def loosely_read(self, known: Known) -> tuple[frozenset[str], frozenset[str]]:
        """The fields whose words the live ranker finds by their stems, and those that spelling slack reaches.

        Raises as `listed`.
        """
        ranker = self._seen(known, self._live_or_named(known)).ranker
        stemmed = frozenset(one.field for one in ranker.readings if "stem(" in one.chain.identity)
        slack = frozenset(one.field for one in ranker.readings if ranker.spelling is not None and one.slack)
        return stemmed, slack

    def values_repeat(self, known: Known, fields: Sequence[str]) -> list[str]:
        """Of some fields those whose values several records share, so that a list can be narrowed by them."""
        seen = self._seen(known, self._live_or_named(known))

        def work(opened: OpenCollection) -> list[str]:
            slabs = range(len(opened.slabs))
            distinct = {
                name: len({text for slab in slabs for text in opened.column(slab, name).texts}) for name in fields
            }
            return [name for name in fields if 2 <= distinct[name] <= max(2, opened.record_count // _SHARED_BY)]

        return self._answered(known, seen, work)

    def holds(self, known: Known, wanted: Filter) -> bool:
        """Whether a record passes a filter that may be seen. Raises as `listed`."""
        seen = self._seen(known, self._live_or_named(known))
        filters = (*seen.ranker.filters, wanted)

        def work(opened: OpenCollection) -> bool:
            for slab, live in enumerate(opened.slabs):
                passing = allowed_records(opened, slab, filters)
                if passing is not None and (passing if live.alive is None else passing & live.alive).any():
                    return True
            return False

        return self._answered(known, seen, work)

    def state_of(self, known: Known, wanted: WantedList | None, revision: int | None = None) -> str:
        """Names all that an answer depends on beside what is asked: where it is the same, nothing has changed.

        revision: of the records that it was made of, the present ones where it is None.
        """
        place, candidate = (self._live_or_named(known), None) if wanted is None else self._who_answers(known, wanted)
        other = "" if candidate is None else f"{candidate.id}"
        # Which of them a version asks is known once it is made: where another was filled, a page is sent once more.
        vectors = " ".join(known.states(sorted(known.spaces)))
        # Rules may end with a day.
        today = _today()
        if revision is None:
            revision = known.standing.collection.revision
        return f"{known.recipe} {vectors} {revision} {place.ranker}:{place.version} {other} {today}"

    def _live_or_named(self, known: Known) -> Publication:
        """What answers where no visitor is told from another: what is live, or whatever the key names."""
        terms = known.terms
        if terms.ranker is None:
            return known.live
        version = terms.version or known.standing.parts.newest_version
        if version is None:
            raise NotFound(f'The ranker "{terms.ranker}" that this key names is not there any more.')
        return Publication(
            id=0,
            place="live",
            ranker=terms.ranker,
            version=version,
            share=None,
            mixed=False,
            note="",
            rules=None,
            overruled=None,
            by_person=None,
            at=known.key.made_at,
        )

    def _who_answers(self, known: Known, wanted: WantedList) -> tuple[Publication, Publication | None]:
        """Which version makes a visitor's list, and with which candidate it is mixed, if with any.

        A visitor is a session: whoever tells none is one of those who meet what is live.
        """
        live = self._live_or_named(known)
        candidate = known.published.get("candidate")
        if known.terms.ranker is not None or candidate is None or wanted.session is None:
            return live, None
        if _part(f"{candidate.id} {wanted.session}") >= (candidate.share or 0.0):
            return live, None
        return (live, candidate) if candidate.mixed else (candidate, None)

    def _seen(self, known: Known, place: Publication) -> _Seen:
        """The ranker that was published there, as this key meets it."""
        assert place.ranker is not None, "a place without a ranker answers nothing"
        key = _name_of(known, place)

        def make() -> _Seen:
            choice = RankerChoice(place.ranker, place.version)
            chosen = self._bench.chosen_as(known.standing, choice)
            assert chosen.saved is not None, "a version that is kept"
            suggestions = recipe_of(self._bench.pool, known.standing.collection, chosen.ranker)
            covered = {one.name: one.covered.fields for one in known.spaces.values()}
            ranker = ranker_for(chosen.ranker, known.audience, suggestions, covered)
            second = () if ranker.second_stage is None else (ranker.second_stage.space,)
            reads = dict.fromkeys((*(use.space for use in ranker.spaces), *second))
            return _Seen(chosen.saved, ranker, key, tuple(reads))

        return self._bench.memory.rankers.get_or_make(key, make)

    def _answered(self, known: Known, seen: _Seen, work: Callable[[OpenCollection], T], also: _Seen | None = None) -> T:
        collection = known.standing.collection
        if also is not None:
            self._ready.opened(collection, also.by(known))
        opened = self._ready.opened(collection, seen.by(known))
        try:
            return work(opened)
        except RecordsChanged:
            # Something of the former records was asked for that nobody had read yet.
            try:
                return work(self._ready.renewed(collection))
            except RecordsChanged as error:
                raise Unavailable(f'The records of "{collection.name}" keep changing. Ask again in a while.') from error

    def _plain(
        self, opened: OpenCollection, known: Known, seen: _Seen, wanted: WantedList, hurry: Hurry
    ) -> DeliveredList:
        """By one ranker. Whoever asks what was asked before gets what was made then, under a number of their own."""
        kept = self._kept(opened, known, seen, wanted)
        if kept is not None:
            return kept
        found = self._page(opened, known, seen, wanted, hurry, wanted.top, wanted.skip)
        nearly = None
        if found.matched == 0 and not wanted.is_typed and wanted.skip == 0:
            nearly = self._nearly(opened, known, seen, wanted, hurry)
        delivered = _delivered(known, opened, seen, wanted, found, found.results, hurry.left_out, nearly=nearly)
        if delivered.is_whole:
            answers, name = self._bench.memory.answers, _answer_name(opened, known, seen, wanted)
            answers.put(name, _ASKED_ONCE if answers.get(name) is None else _Kept(found, nearly))
        return delivered

    def _kept(self, opened: OpenCollection, known: Known, seen: _Seen, wanted: WantedList) -> DeliveredList | None:
        started = perf_counter()
        kept: _Kept | _AskedOnce | None = self._bench.memory.answers.get(_answer_name(opened, known, seen, wanted))
        if not isinstance(kept, _Kept):
            return None
        found = replace(kept.found, elapsed_ms=(perf_counter() - started) * 1000)
        return _delivered(known, opened, seen, wanted, found, found.results, [], nearly=kept.nearly)

    def _nearly(
        self, opened: OpenCollection, known: Known, seen: _Seen, wanted: WantedList, hurry: Hurry
    ) -> Nearly | None:
        """What nearly fits. What is tried is not remembered: nobody asked for it."""
        aside = opened.unremembering()

        def finds(query: str, *, filtered: bool = True) -> int:
            filters = wanted.filters if filtered else ()
            other = replace(wanted, query=query, filters=filters, facets=(), passages=None)
            return self._page(aside, known, seen, other, hurry, 1, 0).matched

        try:
            unfiltered = partial(finds, filtered=False) if wanted.filters else None
            return nearly_found(wanted.query, finds, unfiltered, hurry)
        finally:
            opened.memory.forget_state(aside.state)

    def _mixed(
        self,
        opened: OpenCollection,
        known: Known,
        both: tuple[_Seen, _Seen],
        wanted: WantedList,
        hurry: Hurry,
    ) -> DeliveredList:
        """Live and candidate in one list, by a coin of the session's own: a later page goes on where this one ends."""
        depth = wanted.skip + wanted.top
        live = self._page(opened, known, both[0], wanted, hurry, depth, 0)
        candidate = self._page(opened, known, both[1], replace(wanted, facets=()), hurry, depth, 0)
        random = Random(f"{wanted.session} {wanted.query}")
        own, other = ({row.key: row for row in one.results} for one in (live, candidate))
        mixed = team_draft(list(own), list(other), depth, lambda: random.random() < 0.5)
        keys, teams = mixed.keys[wanted.skip : depth], mixed.teams[wanted.skip : depth]
        rows = [
            replace(own[key] if team != "candidate" and key in own else other.get(key) or own[key], rank=rank)
            for rank, (key, team) in enumerate(zip(keys, teams, strict=True), start=wanted.skip + 1)
        ]
        return _delivered(known, opened, both[0], wanted, live, rows, hurry.left_out, both[1], Interleaved(keys, teams))

    def _page(
        self,
        opened: OpenCollection,
        known: Known,
        seen: _Seen,
        wanted: WantedList,
        hurry: Hurry,
        top: int,
        skip: int,
    ) -> Found:
        audience = known.audience
        ranker = seen.ranker if wanted.per is None else replace(seen.ranker, one_per=wanted.per or None)
        telling = Telling(wanted.passages, utf16=True, fields=frozenset(audience.shown), sources=False)
        spaces: Mapping[str, OpenSpace] = {name: one.within(hurry) for name, one in known.spaces.items()}
        page = page_of(
            opened.naming(audience.named),
            ranker,
            wanted.question,
            top,
            skip,
            wanted.facets,
            telling,
            hurry,
            spaces,
        )
        return page.told(self._values(opened, known, page.keys))

    def _passes(self, opened: OpenCollection, seen: _Seen, key: str) -> bool:
        """Whether there is a record of that key which the ranker and the audience leave in."""
        placed = opened.find(key)
        return placed is not None and all(
            passing_records(one, opened.column(placed.slab, one.field))[placed.record_id] for one in seen.ranker.filters
        )

    def _values(self, opened: OpenCollection, known: Known, keys: list[str]) -> dict[str, dict[str, Any]]:
        """What may be seen of records."""
        return {key: known.audience.values(values) for key, values in self._whole_values(opened, keys).items()}

    def _whole_values(self, opened: OpenCollection, keys: list[str]) -> dict[str, dict[str, Any]]:
        """What records held when the collection was opened, the last ones from memory."""
        kept = self._bench.memory.records
        held = {key: kept.get((opened.state, key)) for key in keys}
        missing = [key for key, values in held.items() if values is None]
        if missing:
            with for_one_statement(opened.pool) as connection:
                read = values_as_of(connection, opened.collection.id, opened.collection.revision, missing)
            for key, values in read.items():
                kept.put((opened.state, key), values)
                held[key] = values
        return {key: orjson.loads(values) for key, values in held.items() if values is not None}


def _name_of(known: Known, place: Publication) -> Hashable:
    """Of a ranker as a key meets it."""
    return ("seen", known.recipe, place.ranker, place.version)


def _answer_name(opened: OpenCollection, known: Known, seen: _Seen, wanted: WantedList) -> StateKey:
    """All that a whole page depends on."""
    return opened.state, (seen.by(known).name, _today(), replace(wanted, session=None, time_ms=None))


def _today() -> str:
    return datetime.now(tz=UTC).date().isoformat()


def _part(said: str) -> float:
    """A number from 0 to below 1 that is always the same for the same text, and evenly spread over texts."""
    return int.from_bytes(sha256(said.encode("utf-8", "surrogatepass")).digest()[:8]) / 2**64


def _delivered(
    known: Known,
    opened: OpenCollection,
    seen: _Seen,
    wanted: WantedList,
    found: Found,
    rows: list[Result],
    left_out: list[str],
    candidate: _Seen | None = None,
    mixed: Interleaved[str] | None = None,
    nearly: Nearly | None = None,
) -> DeliveredList:
    query_id = uuid4()
    narrowed: dict[str, Any] = {}
    if wanted.filters:
        narrowed["filters"] = [str(one) for one in wanted.filters]
    if wanted.sort:
        narrowed["sort"] = [("-" if one.descending else "") + one.field for one in wanted.sort]
    asked = AskedQuery(
        id=query_id,
        collection_id=known.key.collection_id,
        at=datetime.now(tz=UTC),
        key_id=known.key.id,
        session=wanted.session,
        query=wanted.query,
        language=wanted.language or "",
        narrowed=narrowed or None,
        is_typed=wanted.is_typed,
        skip=wanted.skip,
        found=found.matched,
        elapsed_ms=found.elapsed_ms,
        ranker=seen.saved.name,
        version=seen.saved.version,
        candidate_ranker=None if candidate is None else candidate.saved.name,
        candidate_version=None if candidate is None else candidate.saved.version,
        teams=None if mixed is None else "".join(_TEAM[team] for team in mixed.teams),
        shown=[row.key for row in rows],
        left_out=list(left_out),
    )
    return DeliveredList(
        query_id=query_id,
        ranker=RankerNamed(name=seen.saved.name, version=seen.saved.version),
        found=found.matched,
        rows=found.rows,
        results=rows,
        facets=found.facets,
        did_you_mean=found.did_you_mean,
        notes=found.notes,
        nearly=nearly,
        left_out=list(left_out),
        elapsed_ms=found.elapsed_ms,
        asked=asked,
        revision=opened.collection.revision,
    )
