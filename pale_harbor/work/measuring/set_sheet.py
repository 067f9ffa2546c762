"""The score sheets of a judged set: once made, a turned knob is measured on every query without a posting.

What the sheets cannot give is searched for, query by query: whichever way a list came, its digits are the same.
"""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.blend import Blend, Listed
from pale_harbor.core.measures import (
    JudgedList,
    Measure,
    MeasureRules,
    Ties,
    TypedKeys,
    judged_list,
    stretches,
    with_ties,
)
from pale_harbor.core.measures.judged_list import UNJUDGED
from pale_harbor.core.ranking import CombineHow, Placed, Ranker, in_force
from pale_harbor.core.ranking.pooling import pool_terms
from pale_harbor.core.sheets.on_demand import OnDemand
from pale_harbor.core.sheets.query_sheet import (
    Candidates,
    QuerySheet,
    candidates_of,
    found_by_words,
    pieces_of,
)
from pale_harbor.core.sheets.readings import NotOnSheet, columns_of, numbers_of
from pale_harbor.core.sheets.together import alike
from pale_harbor.core.sheets.weighing import SheetList, lists_of, sheet_name
from pale_harbor.core.vectors import similarity_of_records
from pale_harbor.errors import Unavailable
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.store.measuring.runs import RunList
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.measuring.lists import (
    RUN_DEPTH,
    ask_spaces_ahead,
    asked_to_measure,
    depth_of,
    missing_fields_said,
    run_list,
)
from pale_harbor.work.measuring.typed_lists import typed_to_measure
from pale_harbor.work.ranking.asking import listable_records, space_masks, today_here
from pale_harbor.work.ranking.meaning import Meaning, SpaceAsked, space_lists, word_similarities
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.spaces.open_space import OpenSpace


@dataclass(frozen=True, slots=True, eq=False)
class SetSheet:
    """The sheets of a set's queries by query id; None for a query that is searched for."""

    sheets: Mapping[str, QuerySheet | None]

    @property
    def size_bytes(self) -> int:
        """What they take up in memory."""
        return 1_000 + sum(one.size_bytes for one in self.sheets.values() if one is not None)


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """One query's list as it is measured. ranked: the list itself where an expectation asks for it."""

    judged: JudgedList
    matched: int
    notes: Sequence[str]
    ranked: RunList | None


def seen_lists(
    opened: OpenCollection,
    rankers: Sequence[Ranker],
    judged: Judged,
    measures: Sequence[Measure],
    rules: MeasureRules,
    expecting: bool = True,
) -> list[dict[str, Seen]]:
    """By ranker and query what is measured. expecting: whether the lists of expectations are wanted too.

    Rankers of one sheet are weighed together. Raises Unavailable where a space could not be asked.
    """
    top = depth_of(measures, rules)
    # Sheets outlive the day on which a rule ends.
    rankers = [replace(one, rules=in_force(one.rules, today_here())) for one in rankers]
    expected = {one.query_id for one in judged.expectations} if expecting else set[str]()
    found: list[dict[str, Seen]] = [{} for _ in rankers]
    by_name: dict[object, list[int]] = {}
    for i, ranker in enumerate(rankers):
        by_name.setdefault(sheet_name(ranker), []).append(i)
    for name, own in by_name.items():
        sheets: Mapping[str, QuerySheet | None] = {}
        if name is not None:
            # A space that cannot be asked is no hindrance to a ranker that asks for words alone.
            with suppress(Unavailable):
                sheets = _sheets(opened, rankers[own[0]], judged, name).sheets
        spaces = None
        together = alike([rankers[i] for i in own])
        for query in judged.queries:
            check_wanted()
            sheet = sheets.get(query.query_id)
            deep = RUN_DEPTH if query.query_id in expected else top
            try:
                lists = None if sheet is None else lists_of(sheet, together, deep)
            except NotOnSheet:
                lists = None
            if sheet is not None and lists is not None:
                wanted = query.query_id in expected
                before, seen = None, None
                for i, one in zip(own, lists, strict=True):
                    # A knob's next place mostly leaves a list as it was: it is seen once.
                    if (
                        before is None
                        or seen is None
                        or wanted
                        or rules.ties is not Ties.BY_KEY
                        or not _is_same(one, before)
                    ):
                        before, seen = one, _seen(opened, sheet, one, query, rules, wanted)
                    found[i][query.query_id] = seen
                continue
            grades = judged.grades.get(query.query_id, {})
            for i in own:
                spaces = spaces or ask_spaces_ahead(opened, rankers[i], judged.queries)
                ranked = run_list(opened, rankers[i], query, spaces)
                keys = with_ties(ranked.record_keys, ranked.scores, grades, rules.ties)
                found[i][query.query_id] = Seen(judged_list(keys, grades), ranked.matched, ranked.notes, ranked)
    return [
        _with_typed(own, typed_to_measure(opened, ranker, judged, measures, rules), judged)
        for own, ranker in zip(found, rankers, strict=True)
    ]


def _with_typed(seen: dict[str, Seen], typed: Mapping[str, TypedKeys], judged: Judged) -> dict[str, Seen]:
    def on_the_way(query: str, own: JudgedList) -> JudgedList:
        return replace(own, typed=judged_list((), judged.grades.get(query, {}), typed[query]).typed)

    return {
        query: replace(own, judged=on_the_way(query, own.judged)) if query in typed else own
        for query, own in seen.items()
    }


def _is_same(one: SheetList, other: SheetList) -> bool:
    """Whether both are measured alike where equals stand by their keys."""
    is_like = one.matched == other.matched and one.notes == other.notes
    return is_like and one.numbers.tobytes() == other.numbers.tobytes()


def _seen(
    opened: OpenCollection, sheet: QuerySheet, one: SheetList, query: SetQuery, rules: MeasureRules, expected: bool
) -> Seen:
    grades = sheet.grades[one.numbers]
    if rules.ties is not Ties.BY_KEY:
        way = -1 if rules.ties is Ties.BEST_FIRST else 1
        grades = grades[np.lexsort((np.arange(grades.size), way * np.maximum(grades, 0), stretches(one.scores)))]
    ranked = None
    if expected:
        keys = opened.keys_at(sheet.slabs[one.numbers].tolist(), sheet.record_ids[one.numbers].tolist())
        ranked = RunList(query.query_id, keys, one.scores.tolist(), one.matched, list(one.notes))
    return Seen(JudgedList(grades, sheet.all_grades), one.matched, one.notes, ranked)


def _sheets(opened: OpenCollection, ranker: Ranker, judged: Judged, name: object) -> SetSheet:
    kept = judged.judged_set
    asks = ranker.spaces or ranker.second_stage is not None
    states = tuple(sorted(one.space.identity for one in opened.spaces().values())) if asks else ()
    of = (kept.id, kept.revision, len(judged.queries), judged.queries[0].query_id if judged.queries else "")

    def make() -> SetSheet:
        spaces = ask_spaces_ahead(opened, ranker, judged.queries)
        return SetSheet(
            {
                query.query_id: _made(opened, ranker, query, judged.grades.get(query.query_id, {}), spaces)
                for query in judged.queries
            }
        )

    return opened.memory.sheets.get_or_make((opened.state, (name, of, states)), make)


def _made(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    graded: Mapping[str, int],
    spaces: Mapping[str, OpenSpace] | None,
) -> QuerySheet | None:
    """A query's sheet; None where its list has to be searched for: with pins, or where nothing is asked but filters."""
    check_wanted()
    asked = asked_to_measure(opened, _asking_spaces(ranker), query, spaces)
    if asked.pinned or not asked.plan.leaves:
        return None
    queries = opened.looked_up(asked.plan, query.language).dressed(asked.plan)
    allowed = [listable_records(opened, asked, slab, asked.filters) for slab in range(len(opened.slabs))]
    found = [found_by_words(own, mask) for own, mask in zip(queries, allowed, strict=True)]
    near: list[list[Placed]] = []
    if asked.meaning is not None:
        masks = space_masks(opened, asked, asked.filters)
        near = space_lists(opened, asked.meaning, masks, ranker.equals_by)
    candidates = candidates_of(
        found,
        [(row.slab, row.record_id) for rows in near for row in rows],
        lambda slabs, ids: _order(opened, ranker, slabs, ids),
    )
    count = candidates.record_ids.size
    is_pooled = ranker.combine.how is CombineHow.POOLED
    if is_pooled:
        queries = [replace(own, pool=terms) for own, terms in zip(queries, pool_terms(queries), strict=True)]
    pieces, bits = pieces_of(queries, candidates)
    numbers = tuple(numbers_of(one) for one in asked.plan.readings)
    lifts = [
        (number, by)
        for slab, own in enumerate(asked.adjustments)
        for record_id, by in own.lifts
        if (number := candidates.number_of(slab, record_id)) is not None
    ]
    return QuerySheet(
        plan=asked.plan,
        rule_weights=asked.ruled.weights,
        slabs=candidates.slabs,
        record_ids=candidates.record_ids,
        bits=bits,
        by_words=candidates.by_words,
        pieces=pieces,
        is_pooled=is_pooled,
        columns=np.zeros((0, count)) if is_pooled else columns_of(pieces, count, list(enumerate(numbers))),
        numbers=numbers,
        signals=_signals(opened, ranker, candidates),
        lifted=np.array([number for number, _ in lifts], np.int64),
        lifts=np.array([by for _, by in lifts], np.float64),
        lists=tuple(_listed(candidates, rows) for rows in near),
        has_vector=tuple(one.vector is not None for one in asked.meaning.spaces) if asked.meaning else (),
        alike=_alike(opened, asked.meaning, candidates),
        has_stage=asked.meaning is not None and asked.meaning.second_stage is not None,
        second_look=_second_look(opened, asked.meaning, candidates),
        groups=_groups(opened, ranker.one_per, candidates),
        demand=queries[0].demand if queries else None,
        everything=any(own.everything for own in queries),
        kind=None if asked.meaning is None else asked.meaning.kind,
        grades=_grades(opened, candidates, graded),
        all_grades=judged_list((), graded).all_grades,
        notes=tuple(missing_fields_said(opened, asked)),
        space_notes=() if asked.meaning is None else asked.meaning.space_notes,
        stage_notes=() if asked.meaning is None else asked.meaning.stage_notes,
    )


def _asking_spaces(ranker: Ranker) -> Ranker:
    """The same ranker with blends that look at meaning, so that a turn from words alone finds it there."""
    kinds = tuple(replace(kind, blend=Blend()) for kind in ranker.kinds)
    return replace(ranker, blend=Blend(), kinds=kinds)


def _order(opened: OpenCollection, ranker: Ranker, slabs: IntArray, ids: IntArray) -> IntArray:
    if len(opened.slabs) == 1:
        return opened.order(0, ranker.equals_by)[ids]
    by = ranker.equals_by
    places = [opened.place(slab, record_id, by) for slab, record_id in zip(slabs.tolist(), ids.tolist(), strict=True)]
    order = np.empty(ids.size, np.int64)
    order[sorted(range(ids.size), key=places.__getitem__)] = np.arange(ids.size)
    return order


def _listed(candidates: Candidates, rows: Sequence[Placed]) -> Listed:
    numbers = [candidates.number_of(row.slab, row.record_id) for row in rows]
    return Listed(np.array(numbers, np.int32), np.array([row.score for row in rows], np.float64))


def _signals(opened: OpenCollection, ranker: Ranker, candidates: Candidates) -> FloatArray:
    values = np.empty((len(ranker.signals), candidates.record_ids.size))
    for number, signal in enumerate(ranker.signals):
        for slab, own in enumerate(opened.signal_values(signal)):
            here = candidates.slabs == slab
            values[number, here] = own[candidates.record_ids[here]]
    return values


def _alike(opened: OpenCollection, meaning: Meaning | None, candidates: Candidates) -> tuple[OnDemand | None, ...]:
    """By space how alike candidates are to the query, wherever they stand in its list."""

    def by(asked: SpaceAsked, vector: NDArray[np.float32]) -> OnDemand:
        def work_out(numbers: IntArray) -> FloatArray:
            alike = np.empty(numbers.size)
            for slab in np.unique(candidates.slabs[numbers]).tolist():
                here = candidates.slabs[numbers] == slab
                ids = candidates.record_ids[numbers[here]].astype(np.int64)
                alike[here], _ = similarity_of_records(
                    asked.space.table(opened, slab), ids, vector, asked.space.similarity
                )
            return alike

        return OnDemand(candidates.record_ids.size, work_out)

    spaces = () if meaning is None else meaning.spaces
    return tuple(None if one.vector is None else by(one, one.vector) for one in spaces)


def _second_look(opened: OpenCollection, meaning: Meaning | None, candidates: Candidates) -> OnDemand | None:
    """How alike candidates are word by word; None where no second stage has a word to look for."""
    stage = None if meaning is None else meaning.second_stage
    wanted = None if meaning is None or stage is None else stage.word_vectors(meaning.text)
    if stage is None or wanted is None or not wanted[0]:
        return None

    def work_out(numbers: IntArray) -> FloatArray:
        places = zip(candidates.slabs[numbers].tolist(), candidates.record_ids[numbers].tolist(), strict=True)
        looked = word_similarities(opened, stage, wanted[1], list(places))
        return np.array([one.value for one, _ in looked], np.float64)

    return OnDemand(candidates.record_ids.size, work_out)


def _groups(opened: OpenCollection, one_per: str | None, candidates: Candidates) -> IntArray:
    """The group of each candidate: int64 (candidates,), −1 for none; empty where a list has no groups."""
    if one_per is None:
        return np.empty(0, np.int64)
    groups = np.full(candidates.record_ids.size, -1, np.int64)
    numbers: dict[str, int] = {}
    for slab in np.unique(candidates.slabs).tolist():
        column = opened.column(slab, one_per)
        # The last one is for records without a value.
        own = np.array([*(numbers.setdefault(text, len(numbers)) for text in column.texts), -1], np.int64)
        here = candidates.slabs == slab
        groups[here] = own[column.first_codes()[candidates.record_ids[here]]]
    return groups


def _grades(opened: OpenCollection, candidates: Candidates, graded: Mapping[str, int]) -> NDArray[np.int64]:
    grades = np.full(candidates.record_ids.size, UNJUDGED, np.int64)
    for key, grade in graded.items():
        placed = opened.find(key)
        number = None if placed is None else candidates.number_of(placed.slab, placed.record_id)
        if number is not None:
            grades[number] = max(grade, 0)
    return grades
