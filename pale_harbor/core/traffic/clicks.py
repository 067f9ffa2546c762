"""What clicks say of how good a record is for a query, allowing for where it stood.

Somebody reads a list from its first row down. A row that is read is clicked where it attracts them, and once it is
clicked it may satisfy them, which ends their search; if it does not, and after every row that they do not click, they
go on to the next one with a patience that is the same everywhere. So a row below the last click was perhaps never read,
and its not being clicked says the less of it the further down it stands.

    attractive(record) = P(clicked | read), satisfying(record) = P(ends the search | clicked)

and a record is as good as the chance that it attracts and then satisfies. All are found by expectation maximisation,
with a beta distribution before each. Source: O. Chapelle and Y. Zhang, "A dynamic Bayesian network click model for web
search ranking", 2009, sections 3 and 4 (attractive: a_u, satisfying: s_u, patience: gamma).
"""

from collections import Counter
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from math import sqrt
from typing import Final, Generic, TypeVar

K = TypeVar("K", bound=Hashable)
# Taken as seen before of each share, yes and no: one click of one visitor is not certainty.
_PRIOR: Final = 1.0
_PATIENT: Final = 0.9
_ROUNDS: Final = 100
_STILL: Final = 1e-6


@dataclass(frozen=True, slots=True)
class Visit(Generic[K]):
    """One list that somebody had before them, best first, and which of its rows they clicked, in any order.

    succeeded: the rows of which they said that they were what they wanted.
    """

    shown: tuple[K, ...]
    clicked: frozenset[K]
    succeeded: frozenset[K] = frozenset()


@dataclass(frozen=True, slots=True)
class Appeal:
    """attractive, satisfying: shares; good: their product; deviation: of it, one standard deviation of what is
    believed; read: how often the record was read, as far as can be told; clicked: how often it was clicked."""

    attractive: float
    satisfying: float
    good: float
    deviation: float
    read: float
    clicked: int


@dataclass(slots=True)
class Counts:
    """Of a record in a round, as expected: read, clicked, satisfied."""

    read: float = 0.0
    clicked: float = 0.0
    satisfied: float = 0.0

    @property
    def attractive(self) -> float:
        return (self.clicked + _PRIOR) / (self.read + 2 * _PRIOR)

    @property
    def satisfying(self) -> float:
        return (self.satisfied + _PRIOR) / (self.clicked + 2 * _PRIOR)


@dataclass(slots=True)
class _Round(Generic[K]):
    """What one look through all visits expects. gone_on, could: of steps from a row to the next one."""

    counts: dict[K, Counts] = field(default_factory=dict)
    gone_on: float = 0.0
    could: float = 0.0

    @property
    def patience(self) -> float:
        # Nearly known from other studies; a few lists do not say it.
        return (self.gone_on + 9 * _PRIOR) / (self.could + 10 * _PRIOR)


def appeals(visits: Iterable[Visit[K]]) -> dict[K, Appeal]:
    """How good each record that was shown for one query is, by what was clicked.

    >>> told = appeals([Visit(("a", "b", "c"), frozenset({"b"}))] * 40)
    >>> [key for key in told if told[key].good > 0.5], round(told["a"].attractive, 2)
    (['b'], 0.02)
    """
    alike = Counter(visits)
    known: _Round[K] = _Round({key: Counts() for visit in alike for key in visit.shown})
    for _ in range(_ROUNDS):
        before, known = known, _looked_through(alike, known)
        moved = max(
            (abs(own.attractive - before.counts[key].attractive) for key, own in known.counts.items()), default=0.0
        )
        if moved < _STILL:
            break
    return {key: _appeal(own) for key, own in known.counts.items()}


def _looked_through(alike: Mapping[Visit[K], int], before: _Round[K]) -> _Round[K]:
    """Expects what was read and who was satisfied, by what was believed before."""
    patience = before.patience if before.could else _PATIENT
    after: _Round[K] = _Round({key: Counts() for key in before.counts})
    for visit, times in alike.items():
        own = [before.counts[key] for key in visit.shown]
        clicks = [place for place, key in enumerate(visit.shown) if key in visit.clicked]
        reads, satisfied = expected(own, clicks[-1] if clicks else None, patience)
        for place, key in enumerate(visit.shown):
            counts = after.counts[key]
            counts.read += times * reads[place]
            if key in visit.clicked:
                counts.clicked += times
                # Whoever says so is believed; whoever read on after a click was not satisfied by it.
                said = key in visit.succeeded
                counts.satisfied += times * (1.0 if said else satisfied if place == clicks[-1] else 0.0)
        for place in range(len(reads) - 1):
            ended = satisfied if clicks and place == clicks[-1] else 0.0
            after.gone_on += times * reads[place + 1]
            after.could += times * reads[place] * (1 - ended)
    return after


def expected(own: Sequence[Counts], last: int | None, patience: float) -> tuple[list[float], float]:
    """How likely each row of a list was read, and its last click satisfied, given that nothing below it was clicked."""
    count = len(own)
    # How likely nothing is clicked from a row on, once it is read.
    silent = [1.0] * (count + 1)
    for place in range(count - 1, -1, -1):
        silent[place] = (1 - own[place].attractive) * (1 - patience + patience * silent[place + 1])
    reads = [1.0] * count
    satisfied, at = 0.0, 0
    if last is not None:
        ends = own[last].satisfying
        goes_on = (1 - ends) * patience * silent[last + 1] if last + 1 < count else 0.0
        stops = (1 - ends) * (1 - patience if last + 1 < count else 1.0)
        all_of = ends + goes_on + stops
        satisfied, at = ends / all_of, last + 1
        if at < count:
            reads[at] = goes_on / all_of
    for place in range(at, count - 1):
        further = patience * silent[place + 1]
        reads[place + 1] = reads[place] * further / (further + 1 - patience)
    return reads, satisfied


def _appeal(of: Counts) -> Appeal:
    attractive, spread = _beta(of.clicked, of.read - of.clicked)
    satisfying, other = _beta(of.satisfied, of.clicked - of.satisfied)
    # Of a product of two that do not depend on each other.
    variance = spread * other + spread * satisfying**2 + other * attractive**2
    return Appeal(attractive, satisfying, attractive * satisfying, sqrt(variance), of.read, round(of.clicked))


def _beta(yes: float, no: float) -> tuple[float, float]:
    """The mean and the variance of a share that was seen so often, and so often not."""
    first, second = yes + _PRIOR, no + _PRIOR
    total = first + second
    return first / total, first * second / (total**2 * (total + 1))


def suggested_grade(of: Appeal, bounds: Mapping[int, float]) -> int:
    """The highest grade whose bound the record comes to. bounds: from which goodness on each grade is suggested.

    >>> suggested_grade(Appeal(0.5, 0.5, 0.25, 0.1, 9, 3), {1: 0.05, 2: 0.25, 3: 0.5})
    2
    """
    return max((grade for grade, least in bounds.items() if of.good >= least), default=0)
