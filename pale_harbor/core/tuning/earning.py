"""What a part of a ranker earns: the quality that would be lost without it."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from pale_harbor.core.comparing.comparison import STILL, comparison


class Earns(StrEnum):
    """What is to be thought of a part, what wants a decision first."""

    HARMS = "harms"
    NOTHING = "earns nothing"
    LUCK = "within luck"
    EARNS = "earns"


@dataclass(frozen=True, slots=True)
class Earning:
    """loses: of the mean, without the part; low, high: of that, 95 %; saved, harmed: queries that the part makes better
    and worse."""

    earns: Earns
    loses: float
    low: float
    high: float
    saved: int
    harmed: int


def earning(
    without: Mapping[str, float], whole: Mapping[str, float], weights: Mapping[str, float] | None = None
) -> Earning:
    """What a part earns, by the values of queries without it and with it.

    It earns or harms where the interval of the difference is on one side of 0, and nothing where no query shows any.

    >>> earning({"a": 0.0, "b": 0.1}, {"a": 0.5, "b": 0.6}).earns.value
    'earns'
    """
    found = comparison(without, whole, weights)
    if all(abs(whole[query] - without[query]) < STILL for query in whole.keys() & without.keys()):
        earns = Earns.NOTHING
    elif found.queries < 2:
        # A single query tells nothing of luck.
        earns = Earns.LUCK
    elif found.interval.low > 0:
        earns = Earns.EARNS
    elif found.interval.high < 0:
        earns = Earns.HARMS
    else:
        earns = Earns.LUCK
    return Earning(earns, found.gain, found.interval.low, found.interval.high, found.gained, found.lost)
