"""One judgment of two rankers: of what the open queries say after so many looks, and of what the locked ones said."""

from dataclasses import dataclass
from enum import StrEnum

from pale_harbor.core.comparing.comparison import Comparison
from pale_harbor.core.comparing.detectable import ALPHA
from pale_harbor.core.comparing.significance import chance_of_one


class Outcome(StrEnum):
    """What the second ranker is beside the first."""

    BETTER = "better"
    WORSE = "worse"
    LUCK = "within luck"
    DISAGREE = "open and locked queries disagree"
    NOTHING = "nothing judged"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """What some queries say. p_value: of the randomisation test; tries: how many differences were looked at on these
    queries; by_luck: how likely luck alone shows such a p-value in one of so many."""

    queries: int
    first: float
    second: float
    p_value: float
    tries: int
    by_luck: float
    outcome: Outcome


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """outcome: of both together; open, locked: None where they were not looked at, or not opened for these two."""

    outcome: Outcome
    open: Tried | None
    locked: Tried | None


def tried(*, queries: int, first: float, second: float, p_value: float, tries: int) -> Tried:
    """What queries say: more than luck only where luck would seldom show it in one of all the tries.

    >>> tried(queries=50, first=0.5, second=0.6, p_value=0.03, tries=1).outcome.value
    'better'
    >>> tried(queries=50, first=0.5, second=0.6, p_value=0.03, tries=2).outcome.value
    'within luck'
    """
    by_luck = chance_of_one(p_value, tries)
    beyond = Outcome.BETTER if second > first else Outcome.WORSE
    outcome = Outcome.NOTHING if not queries else Outcome.LUCK if by_luck >= ALPHA else beyond
    return Tried(
        queries=queries, first=first, second=second, p_value=p_value, tries=tries, by_luck=by_luck, outcome=outcome
    )


def tried_in(found: Comparison, tries: int) -> Tried:
    """What a comparison says, one of so many on its queries."""
    return tried(
        queries=found.queries, first=found.first, second=found.second, p_value=found.randomisation, tries=tries
    )


def verdict(opened: Tried | None, locked: Tried | None) -> Verdict:
    """The judgment. Where one part cannot tell, the other one's word stands; where they contradict, nobody's does."""
    said = {one.outcome for one in (opened, locked) if one is not None}
    decided = said & {Outcome.BETTER, Outcome.WORSE}
    if len(decided) == 2:
        outcome = Outcome.DISAGREE
    elif decided:
        (outcome,) = decided
    else:
        outcome = Outcome.LUCK if Outcome.LUCK in said else Outcome.NOTHING
    return Verdict(outcome=outcome, open=opened, locked=locked)
