"""Which unjudged records matter most to a comparison: those whose grade would move the difference furthest."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Final

import numpy as np

from pale_harbor.core.measures import (
    HIGHEST_GRADE,
    JudgedList,
    Measure,
    MeasureRules,
    TypedKeys,
    Unjudged,
    judged_list,
    value_of,
)
from pale_harbor.core.measures.measure import OF_TYPING

# How far down lists are looked through where a measure is of the whole list.
LOOKED_THROUGH: Final = 20
# Measures to which a record that is judged off topic is as one that nobody judged.
_GRADES_ALONE: Final = OF_TYPING.keys() | {
    *("ndcg", "ndcg_lin", "precision", "recall", "success", "rr", "err", "ap", "map", "rbp", "rprec")
}


@dataclass(frozen=True, slots=True)
class Open:
    """An unjudged record. swing: what its being exactly it, rather than off topic, adds to the mean gain.

    ranks: in the two lists, 0 where it is not among those looked through.
    """

    query: str
    record: str
    swing: float
    ranks: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Deciding:
    """open: unjudged records, those that matter most first. enough: after so many of them, all that stays unjudged
    could not, added up, turn the present gain around."""

    open: list[Open]
    enough: int


def deciding_records(
    measure: Measure,
    rules: MeasureRules,
    first: Mapping[str, Sequence[str]],
    second: Mapping[str, Sequence[str]],
    grades: Mapping[str, Mapping[str, int]],
    weights: Mapping[str, float] | None = None,
    nothing_to_find: Collection[str] = (),
    looked_through: int = LOOKED_THROUGH,
    typed: Sequence[Mapping[str, TypedKeys]] = ({}, {}),
) -> Deciding:
    """The unjudged records of two rankers' lists by what they could do to the gain.

    Each is tried by itself, the others off topic: where several lie in one list their swings add up only nearly.
    nothing_to_find: queries that count in the gain, but for which no judgment is wanted. looked_through: how far down
    lists where the measure is of the whole list; typed: of both, the lists on the way to the queries.
    """
    depth = measure.depth or looked_through
    # What a measure of the first k does not look at need not be looked up, unless it moves up as others are left out.
    looked_at = measure.depth if rules.unjudged is Unjudged.OFF_TOPIC else None
    # Where unjudged records count as off topic, judging one so changes nothing.
    zero_is_unjudged = rules.unjudged is Unjudged.OFF_TOPIC and measure.kind in _GRADES_ALONE
    total = float(len(grades)) if weights is None else sum(weights.get(query, 0.0) for query in grades)
    found: list[Open] = []
    gain = 0.0
    for query in sorted(grades):
        weight = (1.0 if weights is None else weights.get(query, 0.0)) / (total or 1.0)
        lists = [list(side.get(query, ()))[:looked_at] for side in (first, second)]
        own = grades[query]
        on_the_way = [side.get(query) for side in typed]
        judged = [judged_list(keys, own, way) for keys, way in zip(lists, on_the_way, strict=True)]
        present = _gain(measure, rules, judged)
        gain += weight * present
        if query in nothing_to_find:
            continue
        rank_of = [{key: rank for rank, key in enumerate(keys, start=1)} for keys in lists]
        on_lists = [keys[:depth] for way in on_the_way if way is not None for keys in way.lists]
        for key in dict.fromkeys(chain(lists[0][:depth], lists[1][:depth], *on_lists)):
            if key in own:
                continue
            ranks = [ranked.get(key, 0) for ranked in rank_of]
            best, off = (
                present
                if grade == 0 and zero_is_unjudged
                else _gain(
                    measure,
                    rules,
                    [_once_judged(*one, key, grade, graded=own) for one in zip(judged, ranks, on_the_way, strict=True)],
                )
                for grade in (HIGHEST_GRADE, 0)
            )
            swing = weight * (best - off)
            if swing:
                shown = [rank if rank <= depth else 0 for rank in ranks]
                found.append(Open(query, key, swing, (shown[0], shown[1])))
    found.sort(key=lambda one: (-abs(one.swing), one.query, one.record))
    left = sum(abs(one.swing) for one in found)
    enough = 0
    while enough < len(found) and left >= abs(gain):
        left -= abs(found[enough].swing)
        enough += 1
    return Deciding(found, enough)


def _gain(measure: Measure, rules: MeasureRules, judged: Sequence[JudgedList]) -> float:
    first, second = (value_of(measure, one, rules) for one in judged)
    return second - first


def _once_judged(
    judged: JudgedList, rank: int, typed: TypedKeys | None, key: str, grade: int, graded: Mapping[str, int]
) -> JudgedList:
    """The list once the record at a rank is judged; rank 0: one that the list does not hold."""
    grades = judged.grades
    if rank:
        grades = grades.copy()
        grades[rank - 1] = grade
    on_the_way = None if typed is None else judged_list((), {**graded, key: grade}, typed).typed
    return JudgedList(grades, np.append(judged.all_grades, grade), on_the_way)
