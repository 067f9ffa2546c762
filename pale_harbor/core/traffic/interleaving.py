"""Two rankings in one list, so that whoever clicks says which of them they prefer: team-draft interleaving.

Source: F. Radlinski, M. Kurup, T. Joachims, "How does clickthrough data reflect retrieval quality?", 2008.
"""

from collections.abc import Callable, Collection, Hashable, Sequence
from dataclasses import dataclass
from typing import Generic, Literal, TypeVar

K = TypeVar("K", bound=Hashable)
Team = Literal["live", "candidate"]
Outcome = Literal["live", "candidate", "tie"]


@dataclass(frozen=True, slots=True)
class Interleaved(Generic[K]):
    """keys: of the list, best first. teams: whose each is, None for what neither was credited with."""

    keys: list[K]
    teams: list[Team | None]


def team_draft(live: Sequence[K], candidate: Sequence[K], depth: int, coin: Callable[[], bool]) -> Interleaved[K]:
    """The first `depth` rows of both rankings in one list: in each round a coin says who chooses first, and each adds
    the best of its rows that is not there yet.

    Once one ranking has nothing to add, the rest of the other follows without a team, as in the paper's listing, where
    the drafting ends there: it could not have been chosen against anything. coin: true where the live one goes first.
    Neither ranking may hold a key twice.

    >>> heads = iter([True, False])
    >>> team_draft(["a", "b", "c"], ["b", "d", "a"], 4, lambda: next(heads))
    Interleaved(keys=['a', 'b', 'd', 'c'], teams=['live', 'candidate', 'candidate', None])
    """
    keys: list[K] = []
    teams: list[Team | None] = []
    there: set[K] = set()
    # Of each the next row that may not be there yet.
    at = {"live": 0, "candidate": 0}
    rankings: dict[Team, Sequence[K]] = {"live": live, "candidate": candidate}
    counts: dict[Team, int] = {"live": 0, "candidate": 0}

    def skip(team: Team) -> bool:
        """Whether it has a row to add, after those that are there."""
        ranking = rankings[team]
        while at[team] < len(ranking) and ranking[at[team]] in there:
            at[team] += 1
        return at[team] < len(ranking)

    while len(keys) < depth and all([skip("live"), skip("candidate")]):
        if counts["live"] == counts["candidate"]:
            team: Team = "live" if coin() else "candidate"
        else:
            team = "live" if counts["live"] < counts["candidate"] else "candidate"
        key = rankings[team][at[team]]
        keys.append(key)
        teams.append(team)
        there.add(key)
        counts[team] += 1
    for team in ("live", "candidate"):
        rest = [key for key in rankings[team] if key not in there][: depth - len(keys)]
        keys += rest
        teams += [None] * len(rest)
        there.update(rest)
    return Interleaved(keys, teams)


def preferred(interleaved: Interleaved[K], clicked: Collection[K]) -> Outcome:
    """Whose rows were clicked more often: each row counts once.

    >>> preferred(Interleaved(["a", "b"], ["live", "candidate"]), {"b"})
    'candidate'
    """
    chosen = set(clicked)
    counts: dict[Team, int] = {"live": 0, "candidate": 0}
    for key, team in zip(interleaved.keys, interleaved.teams, strict=True):
        if team is not None and key in chosen:
            counts[team] += 1
    if counts["live"] == counts["candidate"]:
        return "tie"
    return "live" if counts["live"] > counts["candidate"] else "candidate"
