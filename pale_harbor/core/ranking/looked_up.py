"""What was looked up for a query: everything that no weight, need, combination, signal, rule's lift or blend changes.

Looking up parses, tokenises and asks postings. Weighing (`for_plan`) dresses what was found for a plan of the same
query that differs in such things only, and asks nothing. From the second time on sums come from sheets.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from pale_harbor.core.ranking.demands import is_met, live_demand
from pale_harbor.core.ranking.plan import AtLeast, Demand, QueryPlan, TypedWord, WordRun
from pale_harbor.core.ranking.pooling import pool_terms
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading, TermKind
from pale_harbor.core.ranking.ranker import ANY, CombineHow, Reading
from pale_harbor.core.ranking.search import sheet_for
from pale_harbor.core.ranking.sheet import Sheet

# About what a query takes up that was looked up, and each of its readings and terms in a slab: objects, views of data.
_BYTES: Final = 1_500
_READING_BYTES: Final = 600
_TERM_BYTES: Final = 600


def lookup_name(plan: QueryPlan, language: str | None) -> Hashable:
    """The same for plans whose words are looked up alike: by leaves, by what readings read, by spelling slack, by how
    a beginning is taken."""
    readings = tuple(reading_name(one) for one in plan.readings)
    return plan.leaves, plan.numbers, readings, plan.ranker.spelling, plan.ranker.typing, language


def reading_name(reading: Reading) -> Hashable:
    """The same for readings that look for the same in the same places."""
    chains = reading.chain.identity, reading.query_chain.identity
    return reading.field, *chains, reading.share, reading.slack, _near_what(reading)


def _near_what(reading: Reading) -> tuple[int, bool] | None:
    """Which words count as near each other: what being near is worth is weighing."""
    near = reading.nearness
    return None if near is None else (near.gap, near.same_order)


@dataclass(slots=True, eq=False, kw_only=True)
class LookedUp:
    """A query looked up in every slab.

    slabs: as prepared for the plan that it was looked up for first. words: bits of what may be asked for: that some
    reading looks for, and that is no stop word.
    all_counted: whether every term stands for a word of the query, so that holding any term is holding a word.
    has_grown: whether it holds more than when it was made.
    """

    slabs: Sequence[PreparedQuery]
    words: int
    all_counted: bool
    # With each reading's k1, b and worths, on which sheets depend beside what was looked up. One attribute,
    # replaced whole: searches at the same time may differ in them, and none may take the sheets of another.
    _sheets: tuple[tuple[tuple[float, ...], ...], list[Sheet]] | None = None
    _times: int = field(default=0)

    has_grown: bool = False

    @property
    def size_bytes(self) -> int:
        """About what is held in memory for it: sheets, postings of made-up terms, and what holds its terms."""
        kept = self._sheets
        sheets = 0 if kept is None else sum(sheet.size_bytes for sheet in kept[1])
        return sheets + _BYTES + sum(_found_bytes(one) for slab in self.slabs for one in slab.readings)

    def for_plan(self, plan: QueryPlan) -> list[PreparedQuery]:
        """Prepared queries for a plan of the same name, one for each slab."""
        self._times += 1
        self.has_grown = False
        dressed = self.dressed(plan)
        demand = dressed[0].demand if dressed else None
        if demand is not None and self.all_counted and _is_any(demand, plan):
            dressed = [replace(own, demand=None) for own in dressed]
        if plan.ranker.combine.how is CombineHow.POOLED:
            return [replace(own, pool=pool) for own, pool in zip(dressed, pool_terms(dressed), strict=True)]
        if self._times == 1:
            return dressed
        return [replace(own, sheet=sheet) for own, sheet in zip(dressed, self._sheets_for(dressed), strict=True)]

    def dressed(self, plan: QueryPlan) -> list[PreparedQuery]:
        """Prepared queries for a plan of the same name, one for each slab, with all that it demands and no sheet."""
        demand = live_demand(plan.demand, self.words)
        everything = demand is not None and is_met(demand, 0, plan.ranker.need)
        return [
            replace(
                slab,
                plan=plan,
                readings=tuple(
                    _read_as(own, reading) for own, reading in zip(slab.readings, plan.readings, strict=True)
                ),
                demand=demand,
                everything=everything,
                pool=None,
                sheet=None,
            )
            for slab in self.slabs
        ]

    def _sheets_for(self, dressed: Sequence[PreparedQuery]) -> list[Sheet]:
        readings = [one.reading for one in dressed[0].readings] if dressed else []
        of = tuple((reading.k1, reading.b, _near_worth(reading), reading.synonyms) for reading in readings)
        kept = self._sheets
        if kept is None or kept[0] != of:
            kept = self._sheets = of, [sheet_for(own) for own in dressed]
            self.has_grown = True
        return kept[1]


def _near_worth(reading: Reading) -> float:
    return 0.0 if reading.nearness is None else reading.nearness.weight


def _read_as(found: PreparedReading, reading: Reading) -> PreparedReading:
    """What was found for a reading, weighed as another of the same name weighs it."""
    worths = {TermKind.NEAR: _near_worth(reading), TermKind.SYNONYM: reading.synonyms}
    if worths == {TermKind.NEAR: _near_worth(found.reading), TermKind.SYNONYM: found.reading.synonyms}:
        return replace(found, reading=reading)
    # What only matches is worth nothing, whatever a knob says.
    terms = tuple(
        replace(term, worth=worths[term.kind]) if term.kind in worths and term.worth else term for term in found.terms
    )
    return replace(found, reading=reading, terms=terms)


def _is_any(demand: Demand, plan: QueryPlan) -> bool:
    """Whether any word is enough and nothing else is asked, so that nobody need count."""
    if plan.ranker.need != ANY or not isinstance(demand, AtLeast):
        return False
    return all(
        isinstance(leaf, TypedWord) or (isinstance(leaf, WordRun) and leaf.scored and leaf.field is None)
        for leaf in plan.leaves
    )


def _found_bytes(reading: PreparedReading) -> int:
    # Postings of plain terms are the index's own, and looked at from here; what was put together for this query is not.
    own = sum(
        found.record_ids.nbytes + found.frequencies.nbytes + found.lengths.nbytes
        for _, found in reading.found_terms()
        if found.record_ids.base is None
    )
    return own + _READING_BYTES + _TERM_BYTES * len(reading.terms)
