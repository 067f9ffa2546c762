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
class TypedLists:
    """The grades of a query's lists after each letter that is typed, int64 (list length,) each.

    letters: how many there are to type. The lists may end early: once a relevant record stands first, no letter more
    finds one sooner.
    """

    lists: tuple[NDArray[np.int64], ...]
    letters: int


@dataclass(frozen=True, slots=True, eq=False)
class JudgedList:
    """Grades in list order, and all grades that the query has.

    grades: int64 (list length,), UNJUDGED where a record was not judged;
    all_grades: int64 (judged records,), in no order, those missing from the list included;
    typed: the lists on the way to this one, None where nobody typed.
    """

    grades: NDArray[np.int64]
    all_grades: NDArray[np.int64]
    typed: TypedLists | None = None

    @property
    def name(self) -> bytes:
        """Tells lists of one query apart: those that measure alike have one."""
        on_the_way = () if self.typed is None else self.typed.lists
        return b"|".join(grades.tobytes() for grades in (self.grades, *on_the_way))

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
        return _unjudged_share(self.grades[:depth])

    def unjudged_on_the_way(self, depth: int) -> float:
        """The same among the first `depth` of every list that was typed to; 0 where there is none."""
        lists = () if self.typed is None else self.typed.lists
        return _unjudged_share(np.concatenate([np.empty(0, np.int64), *(grades[:depth] for grades in lists)]))


def _unjudged_share(grades: NDArray[np.int64]) -> float:
    return float((grades == UNJUDGED).mean()) if grades.size else 0.0


@dataclass(frozen=True, slots=True)
class TypedKeys:
    """The record keys of a query's lists after each letter; see `TypedLists`."""

    lists: tuple[tuple[str, ...], ...]
    letters: int


def judged_list(record_keys: Sequence[str], grades: Mapping[str, int], typed: TypedKeys | None = None) -> JudgedList:
    """The list of one query, its records by key, best first. A grade below 0 counts as 0.

    typed: the lists on the way to it.
    """
    judged = grades
    if min(grades.values(), default=0) < 0:
        judged = {key: max(grade, 0) for key, grade in grades.items()}

    def graded(keys: Sequence[str]) -> NDArray[np.int64]:
        return np.array([judged.get(key, UNJUDGED) for key in keys], np.int64)

    return JudgedList(
        graded(record_keys),
        np.array(list(judged.values()), np.int64),
        None if typed is None else TypedLists(tuple(graded(keys) for keys in typed.lists), typed.letters),
    )


def in_list_order(scored: Mapping[str, float]) -> list[str]:
    """Record keys by score, greatest first; equal scores by key, in code point order."""
    return sorted(scored, key=lambda key: (-scored[key], key))
