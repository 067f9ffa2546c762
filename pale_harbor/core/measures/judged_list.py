"""One query's ranked list seen through its grades: what every measure is computed from."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

UNJUDGED: Final = -1
RELEVANT_FROM: Final = 1
HIGHEST_GRADE: Final = 3


@dataclass(frozen=True, slots=True, eq=False)
class JudgedList:
    """Grades in list order, and all grades that the query has.

    grades: int64 (list length,), UNJUDGED where a record was not judged;
    all_grades: int64 (judged records,), in no order, those missing from the list included.
    """

    grades: NDArray[np.int64]
    all_grades: NDArray[np.int64]

    @property
    def gains(self) -> NDArray[np.int64]:
        """The grades with 0 for unjudged. Shape (records,)."""
        return np.maximum(self.grades, 0)

    @property
    def relevant(self) -> NDArray[np.bool_]:
        """Which rows are relevant: bool (rows,)."""
        return self.grades >= RELEVANT_FROM

    @property
    def relevant_count(self) -> int:
        """R: judged relevant records, found or not."""
        return int(np.count_nonzero(self.all_grades >= RELEVANT_FROM))

    def unjudged_share(self, depth: int | None) -> float:
        """The share of unjudged records among the first `depth`, or of all; 0 for an empty list."""
        first = self.grades[:depth]
        return float((first == UNJUDGED).mean()) if first.size else 0.0


def judged_list(record_keys: Sequence[str], grades: Mapping[str, int]) -> JudgedList:
    """The list of one query, its records by key, best first. A grade below 0 counts as 0."""
    judged = grades
    if min(grades.values(), default=0) < 0:
        judged = {key: max(grade, 0) for key, grade in grades.items()}
    return JudgedList(
        np.array([judged.get(key, UNJUDGED) for key in record_keys], np.int64),
        np.array(list(judged.values()), np.int64),
    )


def in_list_order(scored: Mapping[str, float]) -> list[str]:
    """Record keys by score, greatest first; equal scores by key, in code point order."""
    return sorted(scored, key=lambda key: (-scored[key], key))
