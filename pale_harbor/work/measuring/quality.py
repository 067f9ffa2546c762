"""Quality over time: every kept version of every ranker on the judgments of today, and the checks that were made."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.comparing.comparison import STILL
from pale_harbor.core.measures import Measure
from pale_harbor.core.text.errors import ChainError
from pale_harbor.errors import BadInput, NotFound, Unavailable
from pale_harbor.store.measuring.checks import checks_of
from pale_harbor.store.ranking.rankers import SavedRanker, all_rankers
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.measuring import Figures, How, figures_seen
from pale_harbor.work.measuring.set_sheet import seen_lists
from pale_harbor.work.ranking.asking import today_here
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.workbench import RankerChoice, Workbench

# Of all versions the newest so many.
MOST_VERSIONS: Final = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionQuality:
    """A kept version on the judgments of today.

    mean: None where it cannot be asked any more, for the reason that `problem` gives. gained, lost: queries against the
    version before it of that name, None for the first one.
    """

    ranker: str
    version: int
    kept_at: str
    note: str
    mean: float | None
    gained: int | None
    lost: int | None
    problem: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckTold:
    """A check of guard rules, with what it found of each."""

    checked_at: str
    ranker: str
    against: str | None
    holds: bool
    rules: list[dict[str, Any]]


@dataclass(frozen=True, slots=True, kw_only=True)
class QualityTold:
    """Versions, the oldest first, and checks, the newest first. older: versions beyond those that are told."""

    measure: str
    queries: int
    versions: list[VersionQuality]
    checks: list[CheckTold]
    older: int


def quality_over_time(
    bench: Workbench, collection_name: str, set_name: str, measure: Measure, how: How | None = None
) -> QualityTold:
    """Every kept version, measured on a set's open queries. No look at them is counted: all of these were kept.

    Raises NotFound.
    """
    way = how or How()

    def work(opened: OpenCollection) -> QualityTold:
        judged = judged_in(bench, opened, set_name)
        with bench.pool.connection() as connection:
            kept = sorted(all_rankers(connection, opened.collection.id), key=lambda one: one.id)
            checks = checks_of(connection, judged.judged_set.id)
        newest = kept[-MOST_VERSIONS:]
        spaces = tuple(sorted(one.space.identity for one in opened.spaces().values()))
        # What the figures of a version follow from, beside the version itself.
        of = (opened.state, judged.judged_set.id, judged.judged_set.revision, spaces, today_here(), measure.name, way)
        return QualityTold(
            measure=measure.name,
            queries=len(judged.queries),
            versions=_told(newest, [_figures(bench, opened, judged, one, measure, way, of) for one in newest], measure),
            checks=[
                CheckTold(
                    checked_at=one.checked_at.isoformat(),
                    ranker=one.ranker,
                    against=one.against,
                    holds=one.holds,
                    rules=one.rules,
                )
                for one in checks
            ],
            older=len(kept) - len(newest),
        )

    return bench.with_collection(collection_name, work)


def _figures(
    bench: Workbench,
    opened: OpenCollection,
    judged: Judged,
    kept: SavedRanker,
    measure: Measure,
    how: How,
    of: Hashable,
) -> Figures | str:
    """What a version comes to, or why it cannot be asked any more. of: what the figures follow from."""
    check_wanted()

    def make() -> Figures:
        ranker = bench.choose(opened.collection, RankerChoice(kept.name, kept.version)).ranker
        (seen,) = seen_lists(opened, [ranker], judged, [measure], how.rules, expecting=False)
        return figures_seen(seen, judged, [measure], how)

    try:
        return bench.memory.figures.get_or_make(("quality", kept.id, of), make)
    except (BadInput, NotFound, ChainError, Unavailable) as error:
        return str(error)


def _told(kept: Sequence[SavedRanker], found: Sequence[Figures | str], measure: Measure) -> list[VersionQuality]:
    before: dict[str, Figures] = {}
    told: list[VersionQuality] = []
    for one, figures in zip(kept, found, strict=True):
        gained = lost = None
        if not isinstance(figures, str):
            former = before.get(one.name)
            if former is not None:
                gained, lost = _moved(former, figures, measure)
            before[one.name] = figures
        told.append(
            VersionQuality(
                ranker=one.name,
                version=one.version,
                kept_at=one.created_at.isoformat(),
                note=one.note,
                mean=None if isinstance(figures, str) else figures.measured.means.get(measure.name),
                gained=gained,
                lost=lost,
                problem=figures if isinstance(figures, str) else None,
            )
        )
    return told


def _moved(before: Figures, after: Figures, measure: Measure) -> tuple[int, int]:
    deltas = [
        values[measure.name] - before.measured.per_query[query][measure.name]
        for query, values in after.measured.per_query.items()
        if query in before.measured.per_query
    ]
    return sum(delta >= STILL for delta in deltas), sum(delta <= -STILL for delta in deltas)
