"""What a measure does where its definition leaves a choice: ties, unjudged records, queries without a relevant one.

Nothing is decided in silence: each choice is a rule with a default, named beside every figure.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.measures.judged_list import UNJUDGED, JudgedList, TypedLists


class Ties(StrEnum):
    """How records of equal score stand: by key, the worst graded first, or the best graded first."""

    BY_KEY = "by_key"
    WORST_FIRST = "worst_first"
    BEST_FIRST = "best_first"


class Unjudged(StrEnum):
    """An unjudged record counts as off topic, or is left out as if the list did not hold it.

    Lists without their unjudged records: T. Sakai, "Alternatives to Bpref", 2007.
    """

    OFF_TOPIC = "off_topic"
    LEFT_OUT = "left_out"


class WithoutRelevant(StrEnum):
    """A judged query without a relevant record counts 0, is left out, or counts 1 where its list is empty."""

    ZERO = "zero"
    LEFT_OUT = "left_out"
    EMPTY_IS_RIGHT = "empty_is_right"


@dataclass(frozen=True, slots=True)
class MeasureRules:
    """The choices that figures are made by."""

    ties: Ties = Ties.BY_KEY
    unjudged: Unjudged = Unjudged.OFF_TOPIC
    without_relevant: WithoutRelevant = WithoutRelevant.ZERO


USUAL_RULES: Final = MeasureRules()


def with_ties(keys: Sequence[str], scores: Sequence[float], grades: Mapping[str, int], ties: Ties) -> list[str]:
    """A ranked list with its stretches of equal score put in the rule's order, an unjudged record as grade 0.

    keys, scores: in the order of the list; what was put where it stands, by a pin or a second stage, may have any
    score. By key the list stays as it is: that is how lists are made.

    >>> with_ties(["a", "b", "c"], [2.0, 1.0, 1.0], {"c": 3}, Ties.BEST_FIRST)
    ['a', 'c', 'b']
    """
    if ties is Ties.BY_KEY:
        return list(keys)
    way = -1 if ties is Ties.BEST_FIRST else 1
    stretch = stretches(scores).tolist()
    order = sorted(range(len(keys)), key=lambda i: (stretch[i], way * max(0, grades.get(keys[i], 0)), i))
    return [keys[i] for i in order]


def stretches(scores: Sequence[float] | FloatArray) -> NDArray[np.int64]:
    """Which stretch of equal scores each row of a list is in, counted from 0: int64 (rows,).

    >>> stretches([2.0, 1.0, 1.0, 3.0]).tolist()
    [0, 1, 1, 2]
    """
    values = np.asarray(scores, np.float64)
    return np.concatenate([np.zeros(min(1, values.size), np.int64), np.cumsum(values[1:] != values[:-1])])


def without_unjudged(judged: JudgedList) -> JudgedList:
    """The list as if it held judged records only.

    >>> from pale_harbor.core.measures import judged_list
    >>> without_unjudged(judged_list(["x", "a"], {"a": 1})).grades.tolist()
    [1]
    """
    typed = judged.typed
    return JudgedList(
        _judged_only(judged.grades),
        judged.all_grades,
        None if typed is None else TypedLists(tuple(_judged_only(grades) for grades in typed.lists), typed.letters),
    )


def _judged_only(grades: NDArray[np.int64]) -> NDArray[np.int64]:
    return grades[grades != UNJUDGED]
