"""Why a record has its score: the arithmetic, part by part, so that it adds up again."""

import dataclasses
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.ranking.bm25 import term_part
from pale_harbor.core.ranking.demands import is_met
from pale_harbor.core.ranking.found import FoundTerm
from pale_harbor.core.ranking.plan import LiteralWords, OpenWord, TypedWord, ValueRange, WordRun
from pale_harbor.core.ranking.prepared import PooledTerm, PreparedQuery, PreparedReading, TermKind
from pale_harbor.core.ranking.ranker import CombineHow
from pale_harbor.core.ranking.search import Adjustments, combined_score
from pale_harbor.core.ranking.signals import Signal, signal_amount, signal_order, with_signal


@dataclass(frozen=True, slots=True, kw_only=True)
class TermPart:
    """What one term adds to one reading's score: `score`, with everything it is computed from.

    said: the query's own term, where this one stands in for it. times: how often the query says it;
    holding: records that hold it (df); worth: what its occurrences count; edits: letters apart.
    """

    kind: TermKind
    term: str
    said: str
    times: int
    holding: int
    idf: float
    worth: float
    edits: int
    frequency: float
    norm: float
    score: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingPart:
    """One reading's share: weight · (sum of the terms' scores).

    number: which reading of the ranker, None for the literal reading of quoted words. length,
    average_length: in tokens. missing: terms of the query that the record lacks here.
    """

    number: int | None
    field: str
    chain: str
    weight: float
    k1: float
    b: float
    length: int
    average_length: float
    record_count: int
    terms: tuple[TermPart, ...]
    missing: tuple[str, ...]
    unweighted: float = dataclasses.field(init=False, default=0.0)
    score: float = dataclasses.field(init=False, default=0.0)

    def __post_init__(self) -> None:
        total = 0.0
        for term in self.terms:
            total += term.score
        object.__setattr__(self, "unweighted", total)
        object.__setattr__(self, "score", self.weight * total)


@dataclass(frozen=True, slots=True, kw_only=True)
class PooledShare:
    """What one reading adds to a pooled term: weight · worth · frequency / length_share."""

    field: str
    weight: float
    worth: float
    frequency: float
    length_share: float
    added: float = dataclasses.field(init=False, default=0.0)

    def __post_init__(self) -> None:
        added = self.weight * (self.worth or 1.0) * self.frequency / self.length_share
        object.__setattr__(self, "added", added)


@dataclass(frozen=True, slots=True, kw_only=True)
class PooledTermPart:
    """What one pooled term adds: idf · times · frequency · (k1 + 1) / (frequency + k1)."""

    kind: TermKind
    term: str
    times: int
    holding: int
    idf: float
    frequency: float
    score: float
    shares: tuple[PooledShare, ...]


@dataclass(frozen=True, slots=True)
class SignalPart:
    """What a signal does to a score: adds weight · value, or multiplies by 1 + weight · value."""

    signal: Signal
    value: float
    amount: float = dataclasses.field(init=False, default=0.0)

    def __post_init__(self) -> None:
        object.__setattr__(self, "amount", signal_amount(self.signal, self.value))


@dataclass(frozen=True, slots=True)
class WordHeld:
    """A word of the query, and whether the record holds it in any reading. counted: false where it need not be held: a
    stop word, or what no reading looks for."""

    word: str
    held: bool
    counted: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Why:
    """The parts of a record's score. `score` is what they come to, to the last digit of the list's.

    matched: whether it holds enough of the query; words: which of its words it holds. keyword_score: of the readings as
    they are combined; share: with STRONGEST; score: with signals and lifts.
    """

    readings: tuple[ReadingPart, ...]
    pool: tuple[PooledTermPart, ...] | None
    how: CombineHow
    share: float
    signals: tuple[SignalPart, ...]
    lifts: tuple[float, ...]
    words: tuple[WordHeld, ...]
    matched: bool
    keyword_score: float
    score: float = dataclasses.field(init=False, default=0.0)

    def __post_init__(self) -> None:
        total = self.keyword_score
        for number in signal_order([part.signal for part in self.signals]):
            total = with_signal(total, self.signals[number].signal, self.signals[number].value)
        for by in self.lifts:
            total *= by
        object.__setattr__(self, "score", total)


def why(query: PreparedQuery, record_id: int, adjustments: Adjustments | None = None) -> Why:
    """The arithmetic of one record's score for a query."""
    readings = tuple(_reading_part(prepared, record_id) for prepared in query.readings)
    pool = None
    if query.pool is not None:
        k1 = query.plan.ranker.combine.k1
        pool = tuple(part for term in query.pool if (part := _pooled_part(term, record_id, k1)) is not None)
        keyword = 0.0
        for part in pool:
            keyword += part.score
    else:
        keyword = combined_score(query, [part.score for part in readings if part.terms])
    held = held_words(query, record_id)
    combine = query.plan.ranker.combine
    adjustments = adjustments or Adjustments()
    return Why(
        readings=readings,
        pool=pool,
        how=combine.how,
        share=combine.share,
        signals=tuple(SignalPart(signal, float(values[record_id])) for signal, values in adjustments.signals),
        lifts=tuple(by for own, by in adjustments.lifts if own == record_id),
        words=_words(query, held),
        matched=matches(query, record_id, held),
        keyword_score=keyword,
    )


def matches(query: PreparedQuery, record_id: int, held: int) -> bool:
    """Whether a record that holds these bits is in the list, filters aside."""
    if query.alive is not None and not query.alive[record_id]:
        return False
    if query.demand is not None:
        return is_met(query.demand, held, query.plan.ranker.need)
    return any(_frequency(found, record_id) for prepared in query.readings for _, found in prepared.found_terms())


def held_words(query: PreparedQuery, record_id: int) -> int:
    """The bits of the query's words that a record holds in any reading."""
    held = 0
    for prepared in query.readings:
        for term, found in prepared.found_terms():
            if term.bits & ~held and _frequency(found, record_id):
                held |= term.bits
    for marker in query.markers:
        if _place(marker.record_ids, record_id) is not None:
            held |= marker.bits
    return held


def _words(query: PreparedQuery, held: int) -> tuple[WordHeld, ...]:
    words: list[WordHeld] = []
    for leaf in query.plan.leaves:
        match leaf:
            case WordRun(text, own):
                said = [(text[start:end], bit) for start, end, bit in own if bit >= 0]
            case TypedWord():
                # The run has told of it.
                said = []
            case OpenWord(text=text, begins=begins, bit=bit):
                said = [(f"{text}*" if begins else f"*{text}", bit)]
            case LiteralWords(text=text, bit=bit, whole=whole):
                said = [(f"{'=' if whole else ''}“{text.strip()}”", bit)]
            case ValueRange(field, low, high, bit):
                said = [(f"{field}:{low or ''}..{high or ''}", bit)]
        words += [WordHeld(word, bool(held >> bit & 1), bool(query.words >> bit & 1)) for word, bit in said]
    return tuple(words)


def _reading_part(prepared: PreparedReading, record_id: int) -> ReadingPart:
    reading, index = prepared.reading, prepared.index
    base, slope = prepared.norm
    length = int(index.lengths[record_id])
    norm = base + slope * length
    terms: list[TermPart] = []
    missing: list[str] = []
    for term in prepared.terms:
        frequency = _frequency(term.found, record_id)
        if frequency:
            score = float(term_part(term.factor, frequency, reading.k1, norm))
            terms.append(
                TermPart(
                    kind=term.kind,
                    term=term.text,
                    said=term.said,
                    times=term.times,
                    holding=term.holding,
                    idf=term.idf,
                    worth=term.worth,
                    edits=term.edits,
                    frequency=frequency,
                    norm=norm,
                    score=score,
                )
            )
        elif term.kind in (TermKind.TERM, TermKind.BEGINNING, TermKind.ENDING, TermKind.PHRASE):
            missing.append(term.text)
    return ReadingPart(
        number=None if prepared.literal else prepared.number,
        field=reading.field,
        chain=reading.chain.notation,
        weight=reading.weight,
        k1=reading.k1,
        b=reading.b,
        length=length,
        average_length=prepared.statistics.average_length,
        record_count=prepared.statistics.record_count,
        terms=tuple(terms),
        missing=tuple(missing),
    )


def _pooled_part(term: PooledTerm, record_id: int, k1: float) -> PooledTermPart | None:
    shares: list[PooledShare] = []
    total = 0.0
    for part in term.parts:
        frequency = _frequency(part.term.found, record_id)
        if frequency:
            base, slope = part.prepared.length_share
            length_share = base + slope * int(part.prepared.index.lengths[record_id])
            reading = part.prepared.reading
            shares.append(
                PooledShare(
                    field=reading.field,
                    weight=reading.weight,
                    worth=part.term.worth,
                    frequency=frequency,
                    length_share=length_share,
                )
            )
            total += part.multiplier * frequency / length_share
    if not shares:
        return None
    score = float(term_part(term.factor, total, k1, k1))
    return PooledTermPart(
        kind=term.kind,
        term=term.text,
        times=term.times,
        holding=term.holding,
        idf=term.idf,
        frequency=total,
        score=score,
        shares=tuple(shares),
    )


def _frequency(found: FoundTerm | None, record_id: int) -> float:
    if found is None:
        return 0
    at = _place(found.record_ids, record_id)
    return 0 if at is None else found.frequencies[at].item()


def _place(record_ids: "Sequence[int] | np.ndarray", record_id: int) -> int | None:
    at = int(np.searchsorted(record_ids, record_id))
    return at if at < len(record_ids) and record_ids[at] == record_id else None
