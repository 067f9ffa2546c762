"""How sure it is that one side wins more often than the other, looked at whenever one likes.

A test of a fixed size is looked at once; whoever looks every day and stops when it pleases finds differences between
equals. What is here holds at all moments at once: the chance that the interval ever leaves out the true share is at
most `1 - sure`, however often it is looked at (J. Ville, "Étude critique de la notion de collectif", 1939; H. Robbins,
"Statistical methods related to the law of the iterated logarithm", 1970: a mixture of likelihood ratios).
"""

from dataclasses import dataclass
from math import exp, inf, lgamma, log
from typing import Final

# Of the mixture, a beta distribution: how many wins and losses it takes as seen before. With 1 and 1 every share is as
# likely as every other; larger ones are sharper about shares near one half, which is where rankers that are worth a
# comparison are.
_PRIOR: Final = 10.0
_HALVINGS: Final = 60


@dataclass(frozen=True, slots=True)
class Sureness:
    """share: of wins, among what was decided, None where nothing was. low, high: of the true share. evidence: how many
    times likelier what was seen is where sides differ than where they are equal; by 1 / (1 - sure) it decides."""

    share: float | None
    low: float
    high: float
    evidence: float


def sureness(wins: int, losses: int, sure: float = 0.95) -> Sureness:
    """What wins and losses say of the share of wins, at this moment and at every earlier one. Raises ValueError where
    they are no counts.

    >>> [round(x, 3) for x in (sureness(60, 40).low, sureness(60, 40).high)]
    [0.455, 0.734]
    >>> sureness(0, 0)
    Sureness(share=None, low=0.0, high=1.0, evidence=1.0)
    """
    if wins < 0 or losses < 0 or not 0 < sure < 1:
        raise ValueError("Wins and losses are counts, and sure a share below 1.")
    decided = wins + losses
    if decided == 0:
        return Sureness(None, 0.0, 1.0, 1.0)
    bound, share = -log(1 - sure), wins / decided
    low = _edge(wins, losses, share, 0.0, bound)
    high = _edge(wins, losses, share, 1.0, bound)
    against_half = _log_ratio(wins, losses, 0.5)
    return Sureness(share, low, high, exp(min(against_half, 700.0)))


def _log_ratio(wins: int, losses: int, share: float) -> float:
    """The logarithm of how much likelier the mixture makes what was seen than one share does."""
    mixed = _log_beta(wins + _PRIOR, losses + _PRIOR) - _log_beta(_PRIOR, _PRIOR)
    seen = (wins * log(share) if wins else 0.0) + (losses * log(1 - share) if losses else 0.0)
    return mixed - seen


def _edge(wins: int, losses: int, inside: float, outside: float, bound: float) -> float:
    """Where, between a share within the interval and an end, the ratio comes to the bound: it grows towards the end."""

    def ratio(at: float) -> float:
        nothing = (at == 0.0 and wins > 0) or (at == 1.0 and losses > 0)
        if nothing:
            return inf
        if at in (0.0, 1.0):
            return _log_beta(wins + _PRIOR, losses + _PRIOR) - _log_beta(_PRIOR, _PRIOR)
        return _log_ratio(wins, losses, at)

    if ratio(outside) < bound:
        return outside
    for _ in range(_HALVINGS):
        middle = (inside + outside) / 2
        if ratio(middle) < bound:
            inside = middle
        else:
            outside = middle
    return outside


def _log_beta(first: float, second: float) -> float:
    return lgamma(first) + lgamma(second) - lgamma(first + second)
