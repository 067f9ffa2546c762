"""A sample of what is asked, from the queries of every day to those asked once: each as likely as it is asked.

Queries are laid end to end, the most asked first, each as long as it is asked often, and cut into strata of equal
traffic: the head, the middle, the tail. Of each stratum as many are drawn, systematically with probability proportional
to size: at equal distances from a random start. What is longer than the distance is drawn for certain. Each drawn query
stands for its stratum's share of the traffic, so that a weighted mean over the sample estimates the mean over all that
is asked. Source: W. G. Cochran, "Sampling Techniques", 3rd edition, 1977, sections 9A.5 and 9A.10.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from random import Random
from typing import Final

STRATA: Final = ("head", "middle", "tail")


@dataclass(frozen=True, slots=True)
class Drawn:
    """A query by its place in what was drawn from. stratum: of which it is; weight: how often asked it stands for."""

    place: int
    stratum: str
    weight: float


def drawn_sample(asked: Sequence[int], count: int, random: Random) -> list[Drawn]:
    """So many of the queries, in order of place; all of them where there are no more.

    asked: how often each was asked, from 1 on, the most asked first. Raises ValueError where it is not so.

    >>> [(one.place, one.stratum, one.weight) for one in drawn_sample([30, 15, 15], 5, Random(1))]
    [(0, 'head', 30), (1, 'middle', 15), (2, 'tail', 15)]
    """
    if any(one < 1 for one in asked) or any(one < other for one, other in pairwise(asked)):
        raise ValueError("What is asked is counted from 1 on, the most asked first.")
    strata = strata_of(asked)
    if len(asked) <= count:
        return [Drawn(place, stratum, own) for place, (stratum, own) in enumerate(zip(strata, asked, strict=True))]
    places = {name: [place for place, own in enumerate(strata) if own == name] for name in STRATA}
    wanted = _shared_out(count, [len(places[name]) for name in STRATA])
    drawn = [
        one
        for name, most in zip(STRATA, wanted, strict=True)
        for one in _of_stratum(name, places[name], asked, most, random)
    ]
    return sorted(drawn, key=lambda one: one.place)


def strata_of(asked: Sequence[int]) -> list[str]:
    """The stratum of each query: the third of the traffic in which its middle lies.

    >>> strata_of([4, 4, 4]), strata_of([90, 5, 5])
    (['head', 'middle', 'tail'], ['middle', 'tail', 'tail'])
    """
    whole, before = sum(asked), 0
    found: list[str] = []
    for own in asked:
        middle = before + own / 2
        found.append(STRATA[min(len(STRATA) - 1, int(len(STRATA) * middle / whole))])
        before += own
    return found


def _shared_out(count: int, sizes: Sequence[int]) -> list[int]:
    """As many of each stratum as of every other; what one does not have, the next ones give."""
    wanted = [0] * len(sizes)
    while count > 0 and any(own < size for own, size in zip(wanted, sizes, strict=True)):
        for number, size in enumerate(sizes):
            if count > 0 and wanted[number] < size:
                wanted[number] += 1
                count -= 1
    return wanted


def _of_stratum(name: str, places: Sequence[int], asked: Sequence[int], most: int, random: Random) -> list[Drawn]:
    certain: list[int] = []
    left = list(places)
    # What is longer than the distance would be drawn twice: it is taken, and the distance found anew.
    while most > len(certain) and left:
        distance = sum(asked[place] for place in left) / (most - len(certain))
        longer = [place for place in left if asked[place] >= distance]
        if not longer:
            break
        certain += longer[: most - len(certain)]
        left = [place for place in left if place not in set(certain)]
    drawn = [Drawn(place, name, asked[place]) for place in certain]
    number = most - len(certain)
    if number <= 0 or not left:
        return drawn
    distance = sum(asked[place] for place in left) / number
    at, before = random.random() * distance, 0.0
    for place in left:
        behind = before + asked[place]
        if before <= at < behind:
            drawn.append(Drawn(place, name, distance))
            at += distance
        before = behind
    return drawn
