"""How several judges' grades of one record become the one that measures count."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


class Settling(StrEnum):
    """A judged set's rule: the median (the lower of two middle ones), the latest, or only what all agree on until
    somebody settles the rest by hand."""

    MEDIAN = "median"
    LATEST = "latest"
    BY_HAND = "by_hand"


@dataclass(frozen=True, slots=True)
class GivenGrade:
    """One judge's grade. at: when, in seconds since any moment that is the same for all."""

    judge: str
    grade: int
    at: float


def settled_grade(given: Sequence[GivenGrade], rule: Settling) -> int | None:
    """The grade that counts; None where there is none, or the rule leaves it to a person.

    >>> grades = [GivenGrade("Ada", 1, 10.0), GivenGrade("Bo", 3, 20.0)]
    >>> [settled_grade(grades, rule) for rule in Settling]
    [1, 3, None]
    """
    if not given:
        return None
    grades = sorted(one.grade for one in given)
    if rule is Settling.MEDIAN:
        return grades[(len(grades) - 1) // 2]
    if rule is Settling.LATEST:
        return max(given, key=lambda one: (one.at, one.judge)).grade
    return grades[0] if grades[0] == grades[-1] else None
