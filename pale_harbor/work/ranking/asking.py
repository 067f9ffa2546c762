"""Asks a collection: a query through rules, plan and postings to every matched record, and to a list's beginning."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import partial
from typing import Final

import numpy as np

from pale_harbor.core.arrays import Mask
from pale_harbor.core.fields import Filter, day_of
from pale_harbor.core.query import InField, ParsedQuery, Quoted, parse_query
from pale_harbor.core.ranking import (
    Adjustments,
    FieldOrder,
    LookedFor,
    Need,
    Placed,
    RankedList,
    Ranker,
    RuledQuery,
    Scored,
    apply_rules,
    best,
    in_force,
    join,
    looked_for,
    permitted_records,
    plan_of,
)
from pale_harbor.core.ranking.groups import best_of_groups, group_sizes
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Asked, Question, allowed_records, filter_records, score_records
from pale_harbor.work.ranking.corrected import DidYouMean
from pale_harbor.work.ranking.correcting import did_you_mean
from pale_harbor.work.ranking.feeding_back import feed_back
from pale_harbor.work.ranking.meaning import BlendedList, meaning_of
from pale_harbor.work.ranking.mending import mended_text
from pale_harbor.work.spaces.open_space import OpenSpace

_ALL_WORDS: Final = Need(((1, None),))


def today_here() -> float:
    """The day that it is, counted as fields of dates are: when rules end. Everywhere the same."""
    return day_of(datetime.now(tz=UTC).date().isoformat(), last=False)


@dataclass(frozen=True, slots=True, eq=False)
class Candidates:
    """Every record of a list by slab, with its score. blended: how words and meaning came together, and in which order
    the records stand; None where words are alone."""

    by_slab: list[Scored]
    blended: BlendedList | None = None


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Answer:
    """A list's beginning. records: all that matched; groups: rows of the whole list, where it shows one per group.

    by_slab: every record that matched, filters applied. others: for each row how many more its group has.
    """

    rows: list[Placed]
    records: int
    groups: int
    by_slab: list[Scored]
    others: list[int]
    blended: BlendedList | None = None


def ask(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    today: float | None = None,
    spaces: Mapping[str, OpenSpace] | None = None,
) -> Asked:
    """The question looked up, or what it may have meant where its words find nothing and the ranker takes corrections.

    today: on which rules are in force; rules without an end are in force always. spaces: as `opened.spaces` gives them,
    for who asks many questions; None: as they are now.
    """
    asked = _ask_as_said(opened, ranker, question, today, spaces)
    takes = ranker.corrections is not None and ranker.corrections.is_taken
    if not takes or question.is_typed or question.as_said or _finds_by_words(opened, asked):
        return asked
    meant = correction_of(opened, ranker, question)
    if meant is None:
        return asked
    other = _ask_as_said(opened, ranker, replace(question, text=meant.query), today, spaces)
    return replace(other, corrected=replace(meant, taken=True))


def correction_of(opened: OpenCollection, ranker: Ranker, question: Question) -> DidYouMean | None:
    """What a query may have meant, None where there is nothing to say."""
    return did_you_mean(opened, ranker, question, partial(records_with_all_words, opened, ranker))


def records_with_all_words(opened: OpenCollection, ranker: Ranker, text: str) -> int:
    """How many records hold every word of a text as it stands: without slack, beginnings, spaces and rules."""
    plain = Ranker(readings=ranker.readings, combine=ranker.combine, need=_ALL_WORDS, filters=ranker.filters)
    asked = _ask_as_said(opened, plain, Question(text))
    found = filter_records(opened, score_records(opened, asked), asked.filters)
    return sum(own.record_ids.size for own in found)


def _finds_by_words(opened: OpenCollection, asked: Asked) -> bool:
    return not asked.plan.leaves or any(own.record_ids.size for own in score_records(opened, asked))


def _ask_as_said(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    today: float | None = None,
    spaces: Mapping[str, OpenSpace] | None = None,
) -> Asked:
    ranker = replace(ranker, rules=in_force(ranker.rules, today_here() if today is None else today))
    rules, parsed, wanted = _read(opened, question, ranker)
    plan = plan_of(wanted, ranker, rules.weights)
    prepared = opened.prepare(plan, question.language)
    if not plan.leaves and (question.filters or rules.filters or question.sort):
        # Nothing is asked but a filter: everything that passes it.
        prepared = [replace(own, everything=True) for own in prepared]
    signals = [(signal, opened.signal_values(signal)) for signal in ranker.signals if signal.weight]
    lifts: list[list[tuple[int, float]]] = [[] for _ in opened.slabs]
    for key, by in rules.lifts:
        placed = opened.find(key)
        if placed is not None:
            lifts[placed.slab].append((placed.record_id, by))
    adjustments = [
        Adjustments([(signal, values[slab]) for signal, values in signals], own) for slab, own in enumerate(lifts)
    ]
    hidden = frozenset(_place(placed) for key in rules.hidden if (placed := opened.find(key)) is not None)
    pinned = [placed for key in rules.pinned if (placed := opened.find(key)) is not None]
    pinned = [placed for placed in pinned if _place(placed) not in hidden]
    meaning = meaning_of(opened, ranker, question.text, parsed, spaces, lambda: mended_text(opened, parsed, prepared))
    asked = Asked(
        question=question,
        ranker=ranker,
        ruled=rules,
        parsed=parsed,
        plan=plan,
        prepared=prepared,
        adjustments=adjustments,
        pinned=pinned,
        hidden=hidden,
        meaning=meaning,
    )
    return asked if ranker.feedback is None else feed_back(opened, asked)


def _read(opened: OpenCollection, question: Question, ranker: Ranker) -> tuple[RuledQuery, ParsedQuery, LookedFor]:
    """What rules and the visitor's signs make of a query: once, whatever the weights."""
    text, rules, typing = question.text, ranker.rules, ranker.typing
    name = (text, rules, opened.field_names, typing, question.is_typed)
    known = opened.memory.questions.get(name)
    if known is not None:
        return known
    done = apply_rules(text, rules)
    parsed = _with_rules(parse_query(done.text, opened.field_names), done)
    read = done, parsed, looked_for(parsed, typing, question.is_typed)
    # A pattern that took too long may be quicker the next time.
    if not done.slow:
        opened.memory.questions.put(name, read)
    return read


def _with_rules(parsed: ParsedQuery, rules: RuledQuery) -> ParsedQuery:
    """The query with what rules look for in single fields."""
    end = len(parsed.text)
    added = tuple(InField(field, Quoted(words, end, end), end, end) for field, words in rules.looked_for)
    return replace(parsed, root=replace(parsed.root, nodes=(*parsed.root.nodes, *added)))


def candidates(opened: OpenCollection, asked: Asked, filters: Sequence[Filter]) -> Candidates:
    """The records of the list that pass some filters: those that match the words, or what a blend makes of them."""
    meaning = asked.meaning
    # A question of filters alone means nothing.
    if meaning is None or not asked.plan.leaves:
        return Candidates(filter_records(opened, score_records(opened, asked), filters))
    if not meaning.is_asked and meaning.second_stage is None and meaning.blend.asks_words:
        return Candidates(filter_records(opened, score_records(opened, asked), filters))
    words = filter_records(opened, score_records(opened, asked), filters)
    signals = [(signal.field, opened.signal_values(signal)) for signal in asked.ranker.signals]
    masks = space_masks(opened, asked, filters)
    found = BlendedList(opened, meaning, asked.ranker, asked.prepared, signals, words, masks)
    return Candidates(found.by_slab(), found)


def _may_be_found(opened: OpenCollection, asked: Asked, slab: int, filters: Sequence[Filter]) -> Mask | None:
    """Which records of a slab the lists of spaces may hold, None: all."""
    live, query = opened.slabs[slab], asked.prepared[slab]
    mask = listable_records(opened, asked, slab, filters)
    with live.slab.workspace() as workspace:
        by_signs = permitted_records(query, workspace)
    return by_signs if mask is None else mask if by_signs is None else mask & by_signs


def space_masks(opened: OpenCollection, asked: Asked, filters: Sequence[Filter]) -> list[Mask | None]:
    """By slab which records the lists of spaces may hold, None: all."""
    return [_may_be_found(opened, asked, slab, filters) for slab in range(len(opened.slabs))]


def listable_records(opened: OpenCollection, asked: Asked, slab: int, filters: Sequence[Filter]) -> Mask | None:
    """Which records of a slab may be listed, whatever is asked: those that live, pass the filters and are not hidden.

    None: all.
    """
    live = opened.slabs[slab]
    mask = allowed_records(opened, slab, filters)
    if live.alive is not None:
        mask = live.alive if mask is None else mask & live.alive
    hidden = [record_id for of_slab, record_id in asked.hidden if of_slab == slab]
    if hidden:
        mask = np.ones(live.slab.record_count, np.bool_) if mask is None else mask.copy()
        mask[hidden] = False
    return mask


def first_rows(opened: OpenCollection, asked: Asked, candidates: Candidates, top: int) -> Answer:
    """The first `top` rows of the list."""
    found, blended = candidates.by_slab, candidates.blended
    sort = (*asked.question.sort, *asked.ranker.equals_by)
    by_score = not asked.question.sort
    one_per = asked.ranker.one_per

    def group(slab: int, record_id: int) -> str | None:
        assert one_per is not None
        column = opened.column(slab, one_per)
        first, last = column.firsts[record_id], column.firsts[record_id + 1]
        return column.texts[column.codes[first]] if last > first else None

    enough = top + len(asked.pinned)
    if blended is not None and by_score:
        rows = blended.rows()
    else:
        rows = _first_by_slab(opened, found, sort, enough, one_per, by_score, group)
    rows = _with_pins(opened, asked, found, rows, by_score)
    if one_per is not None:
        rows = _one_per_group(rows, group)
    rows = [replace(row, score=_score_of(found, row)) if row.pinned or not by_score else row for row in rows[:top]]
    records = sum(own.record_ids.size for own in found)
    if one_per is None:
        return Answer(
            rows=rows, records=records, groups=records, by_slab=list(found), others=[0] * len(rows), blended=blended
        )
    sizes: dict[str, int] = {}
    alone = 0
    for slab, own in enumerate(found):
        column = opened.column(slab, one_per)
        codes = column.first_codes()
        alone += int(np.count_nonzero(codes[own.record_ids] < 0))
        counts = group_sizes(own, codes, len(column.texts))
        for code in np.flatnonzero(counts).tolist():
            sizes[column.texts[code]] = sizes.get(column.texts[code], 0) + int(counts[code])
    names = [group(row.slab, row.record_id) for row in rows]
    # A pinned record that does not match is none of those that were counted.
    own = [1 if _matches(found, row) else 0 for row in rows]
    others = [0 if name is None else sizes.get(name, 0) - one for name, one in zip(names, own, strict=True)]
    return Answer(
        rows=rows, records=records, groups=len(sizes) + alone, by_slab=list(found), others=others, blended=blended
    )


def _first_by_slab(
    opened: OpenCollection,
    found: Sequence[Scored],
    sort: tuple[FieldOrder, ...],
    top: int,
    one_per: str | None,
    by_score: bool,
    group: Callable[[int, int], str | None],
) -> list[Placed]:
    """The first rows of every slab's records, joined: by score and then by fields, or by fields alone."""
    lists: list[RankedList] = []
    for slab, own in enumerate(found):
        order = opened.order(slab, sort)
        ranked = own if by_score else Scored(own.record_ids, np.zeros(own.record_ids.size))
        if one_per is not None:
            ranked = best_of_groups(ranked, opened.column(slab, one_per).first_codes(), order)
        lists.append(best(ranked, top, order))
    merged = join(
        lists,
        top,
        lambda slab, record_id: opened.place(slab, record_id, sort),
        by_score,
        group if one_per is not None else None,
    )
    return merged.rows


def answer(opened: OpenCollection, asked: Asked, top: int) -> Answer:
    """The beginning of the question's list."""
    return first_rows(opened, asked, candidates(opened, asked, asked.filters), top)


def _with_pins(
    opened: OpenCollection, asked: Asked, found: Sequence[Scored], rows: list[Placed], by_score: bool
) -> list[Placed]:
    """Pinned records first, those that the filters let pass; a list sorted by a field has none."""
    if not asked.pinned or not by_score:
        return rows
    masks = [allowed_records(opened, slab, asked.filters) for slab in range(len(found))]
    pinned = [
        replace(placed, pinned=True)
        for placed in asked.pinned
        if (mask := masks[placed.slab]) is None or mask[placed.record_id]
    ]
    places = {_place(placed) for placed in pinned}
    return [*pinned, *(row for row in rows if _place(row) not in places)]


def _one_per_group(rows: Sequence[Placed], group: Callable[[int, int], str | None]) -> list[Placed]:
    """The first row of each group: a pinned one stands for the others too."""
    kept: list[Placed] = []
    seen: set[str] = set()
    for row in rows:
        name = group(row.slab, row.record_id)
        if name is None or name not in seen:
            kept.append(row)
        if name is not None:
            seen.add(name)
    return kept


def _matches(found: Sequence[Scored], row: Placed) -> bool:
    return bool((found[row.slab].record_ids == row.record_id).any())


def _score_of(found: Sequence[Scored], row: Placed) -> float:
    """A row's own score; 0 for a pinned record that does not match."""
    own = found[row.slab]
    at = np.flatnonzero(own.record_ids == row.record_id)
    return float(own.scores[at[0]]) if at.size else 0.0


def _place(placed: Placed) -> tuple[int, int]:
    return placed.slab, placed.record_id
