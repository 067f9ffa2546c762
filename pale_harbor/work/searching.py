"""Searches a collection with a ranker, and asks why."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from time import perf_counter
from typing import Final

import numpy as np

from pale_harbor.core.fields import Filter, facet, passing
from pale_harbor.core.marking import Stretch, marks
from pale_harbor.core.query import how_it_was_read
from pale_harbor.core.ranking import Placed, Ranker, Why, shares, why
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.errors import NotFound
from pale_harbor.store.records import Record, records_with_keys
from pale_harbor.work.asking import Answer, Asked, Question, ask, filtered, first_rows, scored
from pale_harbor.work.opened import OpenCollection

# Stretches of numbers come in order, so that leaving some out would leave out the greatest.
MOST_STRETCHES: Final = 1_000


@dataclass(frozen=True, slots=True)
class Source:
    """Where parts of scores come from. kind: reading, literal, signal or rule; number: which one of the ranker."""

    kind: str
    number: int
    name: str


@dataclass(frozen=True, slots=True)
class Result:
    """One row of a ranked list. source_scores: what each source adds to its score, in order.

    others: how many more its group has, where the list shows one per group.
    """

    rank: int
    key: str
    score: float
    source_scores: list[float]
    marks: dict[str, list[Stretch]]
    record: Record | None
    pinned: bool
    others: int


@dataclass(frozen=True, slots=True)
class FacetWanted:
    """Which facet is asked for: the `most` frequent values of a field, or numbers in stretches of a width."""

    field: str
    most: int = 10
    step: float | None = None


@dataclass(frozen=True, slots=True)
class Found:
    """A ranked list's page.

    matched: all records; groups: rows of the whole list. sources: where scores come from; query_terms:
    what each reading looked for. read_as: how the query was read, empty for plain words; notes: what of
    it could not be taken as typed. rules: those that did something, by number. facets: by field, values
    and counts. elapsed_ms: preparing, scoring, counting and selecting, without fetching records.
    """

    matched: int
    groups: int
    elapsed_ms: float
    results: list[Result]
    sources: list[Source]
    query_terms: list[list[str]]
    read_as: str
    notes: list[str]
    rules: list[int]
    filters: list[str]
    facets: dict[str, list[tuple[str, int]]]


def find(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    top: int,
    skip: int = 0,
    facets: Sequence[FacetWanted] = (),
) -> Found:
    """Rows `skip` + 1 to `skip` + `top` of the list, with their marks and where their scores came from."""
    opened.make_ready(ranker)
    started = perf_counter()
    asked = ask(opened, ranker, question)
    everything = scored(opened, asked)
    answer = first_rows(opened, asked, filtered(opened, everything, asked.filters), skip + top)
    counted = {
        wanted.field: facet(
            [
                (opened.column(slab, wanted.field), own.record_ids)
                for slab, own in enumerate(
                    # The values that could be chosen instead stay in sight.
                    filtered(opened, everything, [one for one in asked.filters if one.field != wanted.field])
                )
            ],
            wanted.step,
        )[: wanted.most if wanted.step is None else MOST_STRETCHES]
        for wanted in facets
    }
    elapsed_ms = (perf_counter() - started) * 1000
    return Found(
        answer.records,
        answer.groups,
        elapsed_ms,
        _results(opened, asked, answer, skip),
        sources_of(asked),
        [list(dict.fromkeys(term.said for term in part.terms)) for part in asked.prepared[0].readings]
        if asked.prepared
        else [],
        how_it_was_read(asked.parsed),
        [*asked.plan.notes, *(f"Rule {number + 1} took too long and was passed over." for number in asked.ruled.slow)],
        list(asked.ruled.applied),
        [str(one) for one in asked.ruled.filters],
        counted,
    )


def sources_of(asked: Asked) -> list[Source]:
    """Where scores may come from: readings that take part, signals, and rules that lift."""
    plan = asked.plan
    sources: list[Source] = []
    for number, reading in enumerate(plan.readings):
        if plan.is_literal(number):
            sources.append(Source("literal", number, f"{reading.field}, literally"))
        else:
            sources.append(Source("reading", plan.numbers[number], reading.field))
    signals = [(number, signal) for number, signal in enumerate(asked.ranker.signals) if signal.weight]
    sources += [Source("signal", number, f"{signal.field}, {signal.shape.value}") for number, signal in signals]
    if asked.ruled.lifts:
        sources.append(Source("rule", 0, "rules"))
    return sources


def _results(opened: OpenCollection, asked: Asked, answer: Answer, skip: int) -> list[Result]:
    rows = answer.rows[skip:]
    keys = [opened.key(row) for row in rows]
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    return [
        Result(
            rank,
            key,
            row.score,
            _source_scores(asked, row),
            marks(asked.prepared[row.slab], row.record_id),
            records.get(key),
            row.pinned,
            others,
        )
        for rank, key, row, others in zip(
            range(skip + 1, skip + len(rows) + 1), keys, rows, answer.others[skip:], strict=True
        )
    ]


def _source_scores(asked: Asked, row: Placed) -> list[float]:
    """What readings, signals and lifts add to a row's score, one after the other; together they are the score."""
    query, adjustments = asked.prepared[row.slab], asked.adjustments[row.slab]
    parts: list[float] = shares(query, np.array([row.record_id], np.int32))[0].tolist()
    signals = [(signal, float(values[row.record_id])) for signal, values in adjustments.signals]
    amounts = [0.0] * len(signals)
    total = sum(parts)
    for number, (signal, value) in enumerate(signals):
        if not signal.multiplied:
            amounts[number] = signal.weight * value
            total += amounts[number]
    for number, (signal, value) in enumerate(signals):
        if signal.multiplied:
            amounts[number] = total * signal.weight * value
            total += amounts[number]
    lifted = total
    for record_id, by in adjustments.lifts:
        lifted *= by if record_id == row.record_id else 1.0
    return [*parts, *amounts, *([lifted - total] if asked.ruled.lifts else [])]


@dataclass(frozen=True, slots=True)
class WhyRecord:
    """The arithmetic of a record's score, and what else decides whether and where it is listed.

    rank: in the whole list, None where it is not in it. pinned, hidden: by a rule. failed_filters: those
    that it does not pass. rules: the ranker's, as they were in force.
    """

    why: Why
    rank: int | None
    pinned: bool
    hidden: bool
    failed_filters: list[str]
    rules: tuple[Rule, ...]
    applied: tuple[int, ...]
    asked: Asked
    placed: Placed


def why_record(opened: OpenCollection, ranker: Ranker, question: Question, key: str) -> WhyRecord:
    """Why a record has its score and its place. Raises NotFound where there is no such record."""
    placed = opened.find(key)
    if placed is None:
        raise NotFound(f'The collection "{opened.collection.name}" has no record with the key "{key[:200]}".')
    asked = ask(opened, ranker, question)
    answer = why(asked.prepared[placed.slab], placed.record_id, asked.adjustments[placed.slab])
    place = (placed.slab, placed.record_id)
    pinned = any((one.slab, one.record_id) == place for one in asked.pinned)
    failed = [str(one) for one in asked.filters if not filter_passes(opened, placed, one)]
    return WhyRecord(
        answer,
        rank_of(opened, asked, placed),
        pinned,
        place in asked.hidden,
        failed,
        asked.ranker.rules,
        asked.ruled.applied,
        asked,
        placed,
    )


def rank_of(opened: OpenCollection, asked: Asked, placed: Placed) -> int | None:
    """A record's rank in the whole list, one per group aside; None where it is not in it."""
    found = filtered(opened, scored(opened, asked), asked.filters)
    place = (placed.slab, placed.record_id)
    pins = [(one.slab, one.record_id) for one in asked.pinned]
    pins = [pin for pin in pins if all(filter_passes(opened, Placed(*pin, 0.0), one) for one in asked.filters)]
    if place in pins:
        return pins.index(place) + 1
    own = found[placed.slab]
    at = np.flatnonzero(own.record_ids == placed.record_id)
    if not at.size:
        return None
    score = own.scores[at[0]]
    by = asked.ranker.equals_by
    mine = opened.place(*place, by)
    before = len(pins)
    for slab, here in enumerate(found):
        before += int(np.count_nonzero(here.scores > score))
        equal = here.record_ids[here.scores == score]
        if slab == placed.slab:
            order = opened.order(slab, by)
            before += int(np.count_nonzero(order[equal] < order[placed.record_id]))
        else:
            in_order = equal[np.argsort(opened.order(slab, by)[equal])].tolist()
            before += bisect_left(in_order, mine, key=lambda one, slab=slab: opened.place(slab, one, by))
        # Pinned records stand before all others, wherever their scores would put them.
        for pin_slab, pin in pins:
            held = np.flatnonzero(here.record_ids == pin) if pin_slab == slab else at[:0]
            if held.size:
                pinned_score = here.scores[held[0]]
                tied_before = pinned_score == score and opened.place(slab, pin, by) < mine
                before -= bool(pinned_score > score or tied_before)
    return before + 1


def filter_passes(opened: OpenCollection, placed: Placed, wanted: Filter) -> bool:
    """Whether one record passes a filter."""
    return bool(passing(wanted, opened.column(placed.slab, wanted.field))[placed.record_id])
