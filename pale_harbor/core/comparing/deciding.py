"""Which unjudged records matter most to a comparison: those whose grade would move the difference furthest."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.measures import HIGHEST_GRADE, Measure, MeasureRules, judged_list, value_of

# How far down lists are looked through where a measure is of the whole list.
LOOKED_THROUGH: Final = 20


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


def deciding(
    measure: Measure,
    rules: MeasureRules,
    first: Mapping[str, Sequence[str]],
    second: Mapping[str, Sequence[str]],
    grades: Mapping[str, Mapping[str, int]],
    weights: Mapping[str, float] | None = None,
    nothing_to_find: Collection[str] = (),
) -> Deciding:
    """The unjudged records of two rankers' lists by what they could do to the gain.

    Each is tried by itself, the others off topic: where several lie in one list their swings add up only nearly.
    nothing_to_find: queries that count in the gain, but for which no judgment is wanted.
    """
    depth = measure.depth or LOOKED_THROUGH
    total = float(len(grades)) if weights is None else sum(weights.get(query, 0.0) for query in grades)
    found: list[Open] = []
    gain = 0.0
    for query in sorted(grades):
        weight = (1.0 if weights is None else weights.get(query, 0.0)) / (total or 1.0)
        # What a measure of the first k does not look at need not be looked up.
        lists = [list(side.get(query, ()))[: measure.depth] for side in (first, second)]
        own = dict(grades[query])
        gain += weight * _gain(measure, rules, lists, own)
        for key in dict.fromkeys([*lists[0][:depth], *lists[1][:depth]]):
            if key in own or query in nothing_to_find:
                continue
            best, off = (_gain(measure, rules, lists, own | {key: grade}) for grade in (HIGHEST_GRADE, 0))
            swing = weight * (best - off)
            if swing:
                ranks = [keys.index(key) + 1 if key in keys[:depth] else 0 for keys in lists]
                found.append(Open(query, key, swing, (ranks[0], ranks[1])))
    found.sort(key=lambda one: (-abs(one.swing), one.query, one.record))
    left = sum(abs(one.swing) for one in found)
    enough = 0
    while enough < len(found) and left >= abs(gain):
        left -= abs(found[enough].swing)
        enough += 1
    return Deciding(found, enough)


def _gain(measure: Measure, rules: MeasureRules, lists: Sequence[Sequence[str]], grades: Mapping[str, int]) -> float:
    first, second = (value_of(measure, judged_list(keys, grades), rules) for keys in lists)
    return second - first
