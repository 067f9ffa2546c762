"""Searches a collection with a ranker, and asks why."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from time import perf_counter
from typing import Any, Final, Literal

import numpy as np

from pale_harbor.core.fields import Filter, facet, passing_records
from pale_harbor.core.marking import in_utf16, marks
from pale_harbor.core.query import how_it_was_read
from pale_harbor.core.query.words import literal_chain, value_chain
from pale_harbor.core.ranking import Placed, Ranker, Scored, TermKind, Why, shares, why
from pale_harbor.core.ranking.prepared import PreparedReading
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.core.ranking.signals import signal_order, with_signal
from pale_harbor.core.stretch import Stretch
from pale_harbor.errors import NotFound
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Asked, FedBack, Question
from pale_harbor.work.ranking.asking import Answer, Candidates, ask, candidates, correction_of, first_rows
from pale_harbor.work.ranking.corrected import DidYouMean
from pale_harbor.work.ranking.correcting import words_of
from pale_harbor.work.ranking.meaning import BlendedList, BlendedRow
from pale_harbor.work.ranking.passages import FoundPassage, PassagesWanted, passages_of
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.running.timed import timed
from pale_harbor.work.spaces.open_space import OpenSpace

# Stretches of numbers come in order, so that leaving some out would leave out the greatest.
MOST_STRETCHES: Final = 1_000
# Of a field of a record: nobody looks at more, and millions of them are more than the record.
MOST_MARKS: Final = 5_000


@dataclass(frozen=True, slots=True)
class ScoreSource:
    """Where parts of scores come from. kind: reading, literal, signal or rule; number: which one of the ranker.

    Of a blended list: words and space, or formula.
    """

    kind: Literal["reading", "literal", "signal", "rule", "words", "space", "formula"]
    number: int
    name: str


@dataclass(frozen=True, slots=True)
class Passage:
    """A passage that a record counts by in a space."""

    space: str
    field: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """One row of a ranked list. source_scores: what each source adds to its score, in order.

    marks: by field, in code points, the first 5,000. pinned: put there by a rule. others: how many more its group has,
    where the list shows one per group. ranks: of a blended list, in the words' list and in each space's, 0 where it is
    not in it. passage: that is nearest to the query, where texts are cut. second: by what the second stage ordered the
    row, None where it did not. passages: the best of its fields, where they were asked for, best first.
    """

    rank: int
    key: str
    score: float
    source_scores: list[float]
    marks: dict[str, list[Stretch]]
    field_values: dict[str, Any]
    pinned: bool
    others: int
    ranks: list[int]
    passage: Passage | None
    second: float | None
    passages: list[FoundPassage]


@dataclass(frozen=True, slots=True)
class Telling:
    """How rows are told. passages: whether passages are, and which; utf16: whether places count UTF-16 units instead of
    code points. fields: of which marks and passages are told, None: of all; sources: whether it is told where scores
    came from."""

    passages: PassagesWanted | None = None
    utf16: bool = False
    fields: frozenset[str] | None = None
    sources: bool = True

    def tells(self, field: str) -> bool:
        """Whether anything of a field is told."""
        return self.fields is None or field in self.fields


PLAINLY: Final = Telling()


@dataclass(frozen=True, slots=True)
class FacetWanted:
    """Which facet is asked for: the `most` frequent values of a field, or numbers in stretches of a width."""

    field: str
    most: int = 10
    step: float | None = None


@dataclass(frozen=True, slots=True)
class FacetValue:
    """A value of a field, and how many of the records have it."""

    value: str
    count: int


@dataclass(frozen=True, slots=True)
class AppliedRule:
    """A rule that did something: its number in the ranker, and what was said about it."""

    number: int
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A ranked list's page.

    matched: all records; rows: of the whole list, fewer where it shows one per group. sources: where scores come from;
    query_terms: what each reading looked for. read_as: how the query was read, empty for plain words; notes: what of
    it could not be taken as typed. rules: those that did something; filters: that rules made. facets: by field. kind:
    of queries that the blend is for, if any; lists: what was blended, empty where words were alone. fed_back: what the
    first records added, None where the ranker has no feedback; mended: the query as spaces read it, None where no word
    was mended. did_you_mean: another query that would find clearly more, or whose list this is. elapsed_ms: preparing,
    scoring, counting and selecting, without fetching records.
    """

    matched: int
    rows: int
    elapsed_ms: float
    results: list[Result]
    sources: list[ScoreSource]
    query_terms: list[list[str]]
    read_as: str
    notes: list[str]
    rules: list[AppliedRule]
    filters: list[str]
    facets: dict[str, list[FacetValue]]
    kind: str | None
    lists: list[str]
    fed_back: FedBack | None
    mended: str | None
    did_you_mean: DidYouMean | None


def find(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    top: int,
    skip: int = 0,
    facets: Sequence[FacetWanted] = (),
    telling: Telling = PLAINLY,
) -> Found:
    """Rows `skip` + 1 to `skip` + `top` of the list, with their marks and where their scores came from."""
    page = page_of(opened, ranker, question, top, skip, facets, telling)
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, page.keys)
    return page.told({key: record.field_values for key, record in records.items()})


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """A ranked list's page before its records are fetched. keys: of its rows, in order; hurry: when it is due."""

    opened: OpenCollection
    asked: Asked
    answer: Answer
    skip: int
    keys: list[str]
    counted: dict[str, list[tuple[str, int]]]
    elapsed_ms: float
    meant: DidYouMean | None
    telling: Telling
    hurry: Hurry

    def told(self, records: Mapping[str, dict[str, Any]]) -> Found:
        """The page with its records. records: their field values by key."""
        asked, answer = self.asked, self.answer
        blended = answer.blended
        return Found(
            matched=answer.records,
            rows=answer.groups,
            elapsed_ms=self.elapsed_ms,
            results=_timed_results(self, records),
            sources=sources_of(asked, blended),
            query_terms=[_said_terms(part) for part in asked.prepared[0].readings] if asked.prepared else [],
            read_as=how_it_was_read(asked.parsed),
            notes=[*asked.notes, *(blended.notes if blended is not None else ())],
            rules=[AppliedRule(number, asked.ranker.rules[number].reason) for number in asked.ruled.applied],
            filters=[str(one) for one in asked.ruled.filters],
            facets={field: [FacetValue(*pair) for pair in counts] for field, counts in self.counted.items()},
            kind=asked.meaning.kind if asked.meaning is not None else None,
            lists=[] if blended is None else lists_of(asked),
            fed_back=asked.fed_back,
            mended=None if asked.meaning is None else asked.meaning.mended,
            did_you_mean=self.meant,
        )


def page_of(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    top: int,
    skip: int,
    facets: Sequence[FacetWanted],
    telling: Telling = PLAINLY,
    hurry: Hurry | None = None,
    spaces: Mapping[str, OpenSpace] | None = None,
) -> Page:
    """What is on a page, and the counts of its facets.

    hurry: when it is due; facets, other ways to read the query, a second stage and passages are left out where there is
    no time left for them. spaces: as `opened.spaces` gives them, None: as they are now.
    """
    hurry = hurry or Hurry()
    with timed("search", "getting ready"):
        opened.make_ready(ranker)
        if ranker.corrections is not None and ranker.corrections.is_taken:
            words_of(opened, ranker)
    started = perf_counter()
    with timed("search", "reading the query"):
        asked = ask(opened, ranker, question, spaces=spaces)
    if asked.meaning is not None and asked.meaning.second_stage is not None and not hurry.has_time_for("second stage"):
        asked = replace(asked, meaning=replace(asked.meaning, second_stage=None))
    with timed("search", "ranking"):
        listed = candidates(opened, asked, asked.filters)
        answer = first_rows(opened, asked, listed, skip + top)
    with timed("search", "facets"):
        counted = {
            wanted.field: facet(
                [
                    (opened.column(slab, wanted.field), own.record_ids)
                    for slab, own in enumerate(_chosen_instead(opened, asked, listed, wanted.field))
                ],
                wanted.step,
            )[: wanted.most if wanted.step is None else MOST_STRETCHES]
            for wanted in facets
            if hurry.has_time_for("facets")
        }
    meant = asked.corrected
    may_mean = ranker.corrections is not None and not question.is_typed and skip == 0
    if meant is None and may_mean and hurry.has_time_for("did you mean"):
        with timed("search", "did you mean"):
            meant = correction_of(opened, ranker, question)
    elapsed_ms = (perf_counter() - started) * 1000
    keys = opened.keys_of(answer.rows[skip:])
    return Page(
        opened=opened,
        asked=asked,
        answer=answer,
        skip=skip,
        keys=keys,
        counted=counted,
        elapsed_ms=elapsed_ms,
        meant=meant,
        telling=telling,
        hurry=hurry,
    )


def lists_of(asked: Asked) -> list[str]:
    """The lists that a blend is of, by name: the words', then the spaces'."""
    return ["words", *(one.space.name for one in asked.meaning.spaces)] if asked.meaning is not None else ["words"]


def _chosen_instead(opened: OpenCollection, asked: Asked, listed: Candidates, field: str) -> list[Scored]:
    """What is counted for a facet: the values that could be chosen instead stay in sight."""
    others = [one for one in asked.filters if one.field != field]
    if len(others) == len(asked.filters):
        return listed.by_slab
    return candidates(opened, asked, others).by_slab


def _said_terms(reading: PreparedReading) -> list[str]:
    """What a reading looks for, each once; words that only enough of their terms hold, and pairs, are made of those."""
    made_of_others = (TermKind.ENOUGH, TermKind.NEAR)
    return list(dict.fromkeys(term.said for term in reading.terms if term.kind not in made_of_others))


def sources_of(asked: Asked, blended: BlendedList | None) -> list[ScoreSource]:
    """Where scores may come from: readings that take part, signals, and rules that lift; or lists that are blended."""
    if blended is not None:
        if blended.formula_is_used:
            return [ScoreSource("formula", 0, "formula")]
        words, *spaces = lists_of(asked)
        return [
            ScoreSource("words", 0, words),
            *(ScoreSource("space", number, name) for number, name in enumerate(spaces)),
        ]
    plan = asked.plan
    sources: list[ScoreSource] = []
    for number, reading in enumerate(plan.readings):
        if plan.is_literal(number):
            literally = "literally" if reading.chain == literal_chain() else "whole words"
            how = "whole" if reading.chain == value_chain() else literally
            sources.append(ScoreSource("literal", number, f"{reading.field}, {how}"))
        else:
            sources.append(ScoreSource("reading", plan.numbers[number], reading.field))
    signals = [(number, signal) for number, signal in enumerate(asked.ranker.signals) if signal.weight]
    sources += [ScoreSource("signal", number, f"{signal.field}, {signal.shape.value}") for number, signal in signals]
    if asked.ruled.lifts:
        sources.append(ScoreSource("rule", 0, "rules"))
    return sources


def _timed_results(page: Page, records: Mapping[str, dict[str, Any]]) -> list[Result]:
    with timed("search", "marking"):
        return _results(page, records)


def _results(page: Page, records: Mapping[str, dict[str, Any]]) -> list[Result]:
    opened, asked, answer, skip, keys = page.opened, page.asked, page.answer, page.skip, page.keys
    rows = answer.rows[skip:]
    marked: dict[tuple[int, int], dict[str, list[Stretch]]] = {}
    dealt: dict[tuple[int, int], list[float]] = {}
    for slab in {row.slab for row in rows} if asked.prepared else ():
        ids = [row.record_id for row in rows if row.slab == slab]
        places = [(slab, record_id) for record_id in ids]
        told = [_told_of(own, page.telling) for own in marks(asked.prepared[slab], ids)]
        marked |= dict(zip(places, told, strict=True))
        if answer.blended is None and page.telling.sources:
            shared = shares(asked.prepared[slab], np.array(ids, np.int32)).tolist()
            dealt |= dict(zip(places, shared, strict=True))
    return [
        Result(
            rank=rank,
            key=key,
            score=row.score,
            source_scores=source_scores(asked, row, answer.blended, dealt.get((row.slab, row.record_id), []))
            if page.telling.sources
            else [],
            marks=_in_units(marked.get((row.slab, row.record_id), {}), records.get(key, {}), page.telling),
            field_values=records.get(key, {}),
            pinned=row.pinned,
            others=others,
            ranks=[] if answer.blended is None else answer.blended.ranks((row.slab, row.record_id)),
            passage=_passage(opened, asked, answer.blended, row, records.get(key)),
            second=None if answer.blended is None else answer.blended.second_score((row.slab, row.record_id)),
            passages=_passages(page, row, records[key]) if key in records else [],
        )
        for rank, key, row, others in zip(
            range(skip + 1, skip + len(rows) + 1), keys, rows, answer.others[skip:], strict=True
        )
    ]


def _told_of(marked: dict[str, list[Stretch]], telling: Telling) -> dict[str, list[Stretch]]:
    return {field: own[:MOST_MARKS] for field, own in marked.items() if telling.tells(field)}


def _in_units(
    marked: dict[str, list[Stretch]], field_values: Mapping[str, Any], telling: Telling
) -> dict[str, list[Stretch]]:
    if not telling.utf16:
        return marked
    return {field: in_utf16("\n".join(texts_of(field_values.get(field))), own) for field, own in marked.items()}


def _passages(page: Page, row: Placed, field_values: Mapping[str, Any]) -> list[FoundPassage]:
    telling = page.telling
    if telling.passages is None or not page.hurry.has_time_for("passages"):
        return []
    return passages_of(
        page.opened, page.asked, page.answer, row, field_values, telling.passages, telling.utf16, telling.fields
    )


def _passage(
    opened: OpenCollection, asked: Asked, blended: BlendedList | None, row: Placed, record: dict[str, Any] | None
) -> Passage | None:
    """The passage by which a record counts in the first space that has one for it."""
    if blended is None or asked.meaning is None or record is None:
        return None
    for one, number in zip(asked.meaning.spaces, blended.passages((row.slab, row.record_id)), strict=True):
        if number >= 0:
            table = one.space.table(opened, row.slab)
            found = one.space.covered.passage(record, table.places[number].tolist())
            if found is not None:
                return Passage(one.space.name, *found)
    return None


def source_scores(asked: Asked, row: Placed, blended: BlendedList | None, parts: list[float]) -> list[float]:
    """What readings, signals and lifts add to a row's score, one after the other; together they are the score.

    parts: what the readings add.
    """
    if blended is not None:
        place = (row.slab, row.record_id)
        return [blended.score(place)] if blended.formula_is_used else blended.parts(place)
    adjustments = asked.adjustments[row.slab]
    signals = [(signal, float(values[row.record_id])) for signal, values in adjustments.signals]
    amounts = [0.0] * len(signals)
    total = sum(parts)
    for number in signal_order([signal for signal, _ in signals]):
        before, total = total, with_signal(total, *signals[number])
        amounts[number] = total - before
    lifted = total
    for record_id, by in adjustments.lifts:
        lifted *= by if record_id == row.record_id else 1.0
    return [*parts, *amounts, *([lifted - total] if asked.ruled.lifts else [])]


@dataclass(frozen=True, slots=True, kw_only=True)
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
    blended: BlendedRow | None


def why_record(opened: OpenCollection, ranker: Ranker, question: Question, key: str) -> WhyRecord:
    """Why a record has its score and its place. Raises NotFound where there is no such record."""
    placed = opened.find(key)
    if placed is None:
        raise NotFound(f'The collection "{opened.collection.name}" has no record with the key "{key[:200]}".')
    asked = ask(opened, ranker, question)
    return why_in(opened, asked, candidates(opened, asked, asked.filters), placed)


def why_in(opened: OpenCollection, asked: Asked, listed: Candidates, placed: Placed) -> WhyRecord:
    """Why a record has its score and its place in a list that is there already."""
    answer = why(asked.prepared[placed.slab], placed.record_id, asked.adjustments[placed.slab])
    place = (placed.slab, placed.record_id)
    pinned = any((one.slab, one.record_id) == place for one in asked.pinned)
    failed = [str(one) for one in asked.filters if not filter_passes(opened, placed, one)]
    return WhyRecord(
        why=answer,
        rank=rank_of(opened, asked, placed, listed),
        pinned=pinned,
        hidden=place in asked.hidden,
        failed_filters=failed,
        rules=asked.ranker.rules,
        applied=asked.ruled.applied,
        asked=asked,
        placed=placed,
        blended=None if listed.blended is None else listed.blended.row(place),
    )


def rank_of(opened: OpenCollection, asked: Asked, placed: Placed, listed: Candidates) -> int | None:
    """A record's rank in the whole list, one per group aside; None where it is not in it."""
    found = listed.by_slab
    place = (placed.slab, placed.record_id)
    pins = [(one.slab, one.record_id) for one in asked.pinned]
    pins = [pin for pin in pins if all(filter_passes(opened, Placed(*pin, 0.0), one) for one in asked.filters)]
    if place in pins:
        return pins.index(place) + 1
    if listed.blended is not None:
        places = [one for one in listed.blended.places if one not in pins]
        return len(pins) + places.index(place) + 1 if place in places else None
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
    return bool(passing_records(wanted, opened.column(placed.slab, wanted.field))[placed.record_id])
