"""What ails a judged query: why its good records are missed, in one reason out of a few."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


class Ails(StrEnum):
    """Why a query comes out badly; of equal weight the first one counts."""

    SHUT_OUT = "shut out"
    UNKNOWN = "unknown words"
    LACKS = "other words"
    TOO_FEW = "too few words"
    FAR = "in no list"
    OUTRANKED = "outranked"
    UNJUDGED = "unjudged above"


@dataclass(frozen=True, slots=True)
class Ailment:
    """A reason. part: of the ranker, by which good records are outranked; empty for every other reason."""

    ails: Ails
    part: str = ""


@dataclass(frozen=True, slots=True)
class MissedGood:
    """A good record that is missed, and why. grade: 1 to 3."""

    ailment: Ailment
    grade: int


def ailment_of(missed: Sequence[MissedGood], unjudged: int, first: int) -> Ailment | None:
    """What ails a query: the reason that most of its missed good records have, each counting by its grade.

    first: records that stand first in the list; unjudged: of them. Where more than half are, nobody can tell yet how
    good it is. None where nothing is missed.

    >>> outranked = MissedGood(Ailment(Ails.OUTRANKED, "title"), 3)
    >>> ailment_of([outranked, MissedGood(Ailment(Ails.LACKS), 2)], unjudged=5, first=10)
    Ailment(ails=<Ails.OUTRANKED: 'outranked'>, part='title')
    """
    if not missed:
        return None
    if 2 * unjudged > first:
        return Ailment(Ails.UNJUDGED)
    weights: dict[Ailment, int] = {}
    for one in missed:
        weights[one.ailment] = weights.get(one.ailment, 0) + one.grade
    order = list(Ails)
    return min(weights, key=lambda one: (-weights[one], order.index(one.ails), one.part))


def why_missed(*, is_listed: bool, is_shut_out: bool, counted: int, held: int, unknown: int) -> Ails:
    """Why one good record is missed.

    is_listed: whether it is in the list, too far down; is_shut_out: whether a filter or a rule keeps it out; counted:
    words of the query that count; held: of them in the record; unknown: of the others in no record at all.
    """
    if is_shut_out:
        return Ails.SHUT_OUT
    if is_listed:
        return Ails.OUTRANKED
    if unknown > 0 and counted - held - unknown == 0:
        return Ails.UNKNOWN
    if held == 0:
        return Ails.LACKS
    return Ails.TOO_FEW if held < counted else Ails.FAR


def outranking_part(above: Sequence[float], good: Sequence[float], names: Sequence[str]) -> str:
    """The part of a score by which a worse record stands above a good one: the one that is farthest ahead, of equals
    the first. Empty where none is.

    above, good: what each part adds to their scores; names: of the parts.
    """
    ahead = [first - second for first, second in zip(above, good, strict=True)]
    best = max(range(len(ahead)), key=lambda i: (ahead[i], -i), default=None)
    return names[best] if best is not None and ahead[best] > 0 else ""
