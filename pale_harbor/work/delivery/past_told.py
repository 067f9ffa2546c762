"""What is told of what visitors asked and did: queries, days, rewritings, what clicks say of records and of rankers."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from itertools import groupby
from random import Random
from typing import Final

from pale_harbor.core.traffic.anytime import Sureness, sureness
from pale_harbor.core.traffic.clicks import Appeal, Visit, appeals, suggested_grade
from pale_harbor.core.traffic.interleaving import Interleaved, Team, preferred
from pale_harbor.core.traffic.rewriting import Asked, Rewriting, rewritings
from pale_harbor.core.traffic.sampling import drawn_sample
from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery import past_told as store
from pale_harbor.store.delivery.past_told import PastAsked, PastDay, PastOrder, ShownList
from pale_harbor.store.delivery.publications import Publication, published_now
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import Workbench

MOST_DAYS: Final = 3_650
MOST_QUERIES: Final = 1_000
# From which goodness on each grade is suggested: the chance that a visitor who reads the record clicks it and is
# satisfied. Half of them for exactly it.
GRADES_FROM: Final = {1: 0.05, 2: 0.2, 3: 0.45}
# What was read less often says nothing.
_LEAST_READ: Final = 5.0
_TEAMS: Final[dict[str, Team | None]] = {"l": "live", "c": "candidate", "-": None}
# Of the chance that something is claimed between equals, however often it is looked at.
SURE: Final = 0.95


@dataclass(frozen=True, slots=True, kw_only=True)
class PastTold:
    """queries: those that were asked for, in order; days: all of them, for the same time."""

    since: datetime
    queries: list[PastAsked]
    days: list[PastDay]


@dataclass(frozen=True, slots=True, kw_only=True)
class SuggestedGrade:
    """What clicks say of a record for a query. query: as `said_alike` tells it; title: of the record, empty where there
    is none any more; grade: suggested; low, high: the grades that are as believable, by what is not known of it."""

    query: str
    key: str
    title: str = ""
    grade: int
    low: int
    high: int
    appeal: Appeal


@dataclass(frozen=True, slots=True, kw_only=True)
class CandidateTold:
    """How a candidate fares against what is live, in lists that hold rows of both. wins: of the candidate's, by session
    and query; verdict: in a sentence; ends: whether it says enough to stop."""

    candidate: Publication
    wins: int
    losses: int
    ties: int
    sureness: Sureness
    verdict: str
    ends: bool


def past_told(bench: Workbench, collection: str, order: PastOrder, days: int, count: int) -> PastTold:
    """Queries of so many days, those first that the order is about."""
    now = datetime.now(tz=UTC)
    since = now - timedelta(days=days)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        return PastTold(
            since=since,
            queries=store.past_asked(connection, own.id, since, now - timedelta(days=days / 2), order, count),
            days=store.past_days(connection, own.id, since),
        )


def all_asked(bench: Workbench, collection: str, days: int) -> list[PastAsked]:
    """Every query of so many days, the most frequent first."""
    now = datetime.now(tz=UTC)
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        return store.past_asked(connection, own.id, _since(days), now, "frequent", 2**31 - 1)


def rewritings_told(bench: Workbench, collection: str, days: int) -> list[Rewriting]:
    """What visitors typed next where the first words found them nothing that they wanted, most often first."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        asked = store.session_queries(connection, own.id, _since(days))
        sessions = (
            [Asked(one.query, one.at_s, one.well) for one in some]
            for _, some in groupby(asked, key=lambda one: one.session)
        )
        return rewritings(sessions)[:MOST_QUERIES]


def suggested_grades(bench: Workbench, collection: str, days: int, query: str | None = None) -> list[SuggestedGrade]:
    """What clicks say of records, query by query, the best first; of one query alone where it is named."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        lists = store.lists_shown(connection, own.id, _since(days), query)
        found = [
            one
            for said, some in groupby(lists, key=lambda one: one.query)
            for one in _suggested(said, (_visit(own) for own in some))
        ]
        titles = titles_of(connection, own, {one.key for one in found})
        return [replace(one, title=titles.get(one.key, "")) for one in found]


def _suggested(query: str, visits: Iterable[Visit[str]]) -> Iterator[SuggestedGrade]:
    found = [(key, own) for key, own in appeals(visits).items() if own.read >= _LEAST_READ and own.clicked]
    for key, own in sorted(found, key=lambda one: (-one[1].good, one[0])):
        yield SuggestedGrade(
            query=query,
            key=key,
            grade=suggested_grade(own, GRADES_FROM),
            low=_grade_at(own, -own.deviation),
            high=_grade_at(own, own.deviation),
            appeal=own,
        )


def _grade_at(own: Appeal, moved: float) -> int:
    good = min(1.0, max(0.0, own.good + moved))
    return max((grade for grade, least in GRADES_FROM.items() if good >= least), default=0)


def _visit(shown: ShownList) -> Visit[str]:
    succeeded = frozenset(shown.succeeded) & frozenset(shown.shown)
    # Whoever says that it was what they wanted has looked at it.
    return Visit(tuple(shown.shown), frozenset(shown.clicked) & frozenset(shown.shown) | succeeded, succeeded)


def candidate_told(bench: Workbench, collection: str) -> CandidateTold | None:
    """How the candidate fares by now, None where there is none. Raises BadInput where its lists are its own."""
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        candidate = published_now(connection, own.id).get("candidate")
        if candidate is None or candidate.ranker is None or candidate.version is None:
            return None
        if not candidate.mixed:
            raise BadInput(
                "This candidate's lists are its own, so no visitor chooses between two. Offer it mixed with what is "
                "live to hear which of the two they prefer."
            )
        lists = store.mixed_lists(connection, own.id, candidate.at, (candidate.ranker, candidate.version))
        wins, losses, ties = outcomes(lists)
    told = sureness(wins, losses, SURE)
    decided = told.evidence >= 1 / (1 - SURE)
    return CandidateTold(
        candidate=candidate,
        wins=wins,
        losses=losses,
        ties=ties,
        sureness=told,
        verdict=_verdict(wins, losses, told, decided=decided),
        ends=decided,
    )


def outcomes(lists: Iterable[ShownList]) -> tuple[int, int, int]:
    """Wins and losses of the candidate, and ties: each session decides once on each query, by all that it clicked of
    that query's lists."""
    wins = losses = ties = 0
    for _, some in groupby(lists, key=lambda one: (one.session, one.query)):
        keys: list[str] = []
        teams: list[Team | None] = []
        clicked: set[str] = set()
        for one in some:
            keys += one.shown
            teams.extend(_TEAMS[letter] for letter in one.teams or "")
            clicked |= set(one.clicked)
        # The same list twice is no second row.
        rows = dict(zip(keys, teams, strict=True))
        match preferred(Interleaved(list(rows), list(rows.values())), clicked):
            case "candidate":
                wins += 1
            case "live":
                losses += 1
            case "tie":
                ties += 1
    return wins, losses, ties


def _verdict(wins: int, losses: int, told: Sureness, *, decided: bool) -> str:
    if wins + losses == 0:
        return "No visitor has preferred one to the other yet."
    share = f"{wins} of {wins + losses} preferred the candidate ({told.low:.0%} to {told.high:.0%})"
    if not decided:
        return f"{share}: not enough to tell them apart. Let it go on, or leave it at that."
    better = "The candidate is preferred" if wins > losses else "What is live is preferred"
    return f"{better}: {share}. That holds however often this was looked at."


@dataclass(frozen=True, slots=True, kw_only=True)
class SampledQuery:
    """A query of a sample. weight: how often asked it stands for; stratum: head, middle or tail."""

    query: str
    asked: int
    weight: float
    stratum: str


def sampled_queries(bench: Workbench, collection: str, days: int, count: int, seed: int) -> list[SampledQuery]:
    """A sample of what was asked, from head to tail. Raises BadInput where nothing was."""
    asked = all_asked(bench, collection, days)
    if not asked:
        raise BadInput(f"Nothing was asked in the last {days} days that is kept.")
    drawn = drawn_sample([one.asked for one in asked], count, Random(seed))
    return [
        SampledQuery(query=asked[one.place].query, asked=asked[one.place].asked, weight=one.weight, stratum=one.stratum)
        for one in drawn
    ]


def _since(days: int) -> datetime:
    return datetime.now(tz=UTC) - timedelta(days=days)
