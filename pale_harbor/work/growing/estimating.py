"""A collection as it would be at 10, 100 and 1,000 times its records: an estimate, and each figure says what it is of.

Bytes follow from the collection's own postings and from Heaps' law fitted to its own words. Times are measured on it as
it is, and on collections ten and a hundred times as large that are made up of its own records, so that every posting
list is as many times as long; further ones follow by a straight line. Measures are taken on subsamples, and their
trend is continued.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from time import perf_counter
from typing import Any, Final, Literal

import numpy as np
from pydantic import TypeAdapter, ValidationError

from pale_harbor.core.growing import ReadingGrowth, Trend, bytes_at, reading_growth, trend_of
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import NotFound
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery
from pale_harbor.store.records.records import sample_of_keys
from pale_harbor.store.running.jobs import Job
from pale_harbor.store.tuning.trials import note_details
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.growing.grown import grown_collection, part_of_collection, with_living
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_lists, asked_to_measure
from pale_harbor.work.measuring.measuring import How, figures_of
from pale_harbor.work.ranking.asking import answer
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.tuning.set_jobs import begin_on_set, done_on_sets, end_on_set, plan_choice, told_on_sets
from pale_harbor.work.workbench import Workbench

TIMES: Final = (1, 10, 100, 1_000)
_MOST_QUERIES: Final = 60
_ROUNDS: Final = 3
_ROWS: Final = 10
# Collections so many times as large are made up, where they take up no more than so much.
_MOST_BYTES: Final = 800_000_000
_MADE_UP: Final = (10, 100)
_BUILT: Final = 40_000
# Shares of the records that are measured on, each by so many draws.
_SUBSAMPLES: Final = ((1 / 8, 4), (1 / 4, 3), (1 / 2, 2), (1.0, 1))
_STEPS: Final = 4 + sum(draws for _, draws in _SUBSAMPLES)

# measured: of the collection as it is; made up: of a collection that large, made of its records; continued: by a line
# through the two before.
TimesAre = Literal["measured", "made up", "continued"]


@dataclass(frozen=True, slots=True)
class Times:
    """Of a query's parts, in milliseconds: looking its words up, ranking what holds them, and both with what else there
    is. p50: half of the queries take no longer; p95: nineteen of twenty."""

    looking_up_p50: float
    looking_up_p95: float
    ranking_p50: float
    ranking_p95: float
    all_p50: float
    all_p95: float


_FIGURES: Final = tuple(Times.__dataclass_fields__)


@dataclass(frozen=True, slots=True, kw_only=True)
class AtSize:
    """The collection at so many times its records. index_bytes: of what the ranker reads; vector_bytes: of its spaces;
    build_s: to build all of it anew; terms: of all its readings; value: of the measure, with the bounds within which it
    lies nineteen times of twenty."""

    times: int
    records: int
    terms: int
    index_bytes: int
    vector_bytes: int
    build_s: float
    times_ms: Times
    times_are: TimesAre
    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Subsample:
    """What was measured on a part of the records. share: of all; values: of the measure, a draw each."""

    share: float
    records: int
    values: list[float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """sizes: by how many times; subsamples: that the trend is of; by_doubling: how much a doubling changes the measure;
    beta: of Heaps' law, by reading; made_up: how many times as large the made-up collections were;
    queries: how many were timed; has_spaces: whether times hold what meaning costs."""

    sizes: list[AtSize]
    subsamples: list[Subsample]
    by_doubling: float
    beta: dict[str, float]
    made_up: list[int]
    queries: int
    has_spaces: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class GrowthTold:
    """A growth estimate as it stands. is_current: whether records and judgments are those that it is of."""

    id: int
    judged_set: str
    is_current: bool
    state: str
    done: int
    in_all: int
    phase: str
    plan: RankerPlan
    estimate: Estimate | None
    problem: str | None
    begun_at: str


_FORM: Final[TypeAdapter[Estimate]] = TypeAdapter(Estimate)


def begin_growth(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan, *, by_server: bool) -> int:
    """Notes that growth is to be estimated; returns the job's id. Raises NotFound, BadInput."""
    return begin_on_set(
        bench, "growing", collection_name, set_name, plan, in_all=lambda _chosen: _STEPS, by_server=by_server
    )


def growth_now(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan) -> GrowthTold:
    """Estimates growth here and now. Raises NotFound, BadInput, Unavailable."""
    job_id = begin_growth(bench, collection_name, set_name, plan, by_server=False)
    do_job(bench.pool, job_id, growths_done(bench))
    return next(one for one in growths_told(bench, collection_name) if one.id == job_id)


def growths_told(bench: Workbench, collection_name: str) -> list[GrowthTold]:
    """A collection's estimates, the newest first. Raises NotFound."""
    return told_on_sets(bench, "growing", collection_name, _told)


def end_growth(bench: Workbench, collection_name: str, number: int) -> None:
    """Ends an estimate. Raises NotFound."""
    end_on_set(bench, "growing", collection_name, number)


def _told(job: Job, judged_set: JudgedSet, is_current: bool) -> GrowthTold:
    estimate, problem = None, job.problem
    try:
        estimate = _FORM.validate_python(job.details["estimate"]) if "estimate" in job.details else None
    except ValidationError:
        problem = "It is of another version of the program, which this one cannot read."
    return GrowthTold(
        id=job.id,
        judged_set=judged_set.name,
        is_current=is_current,
        state=job.state,
        done=job.done,
        in_all=job.in_all,
        phase=job.phase,
        plan=RankerPlan.model_validate(job.details["plan"]),
        estimate=estimate,
        problem=problem,
        begun_at=job.created_at.isoformat(),
    )


def growths_done(bench: Workbench) -> Doing:
    """How growth is estimated. The doing raises Cancelled where nobody wants it any more."""

    def make(opened: OpenCollection, judged: Judged, plan: RankerPlan, job_id: int, progress: Progress) -> None:
        ranker = bench.choose(opened.collection, plan_choice(plan)).ranker
        found = estimated(opened, judged, ranker, plan, progress)
        with bench.pool.connection() as connection:
            note_details(connection, job_id, {"estimate": _FORM.dump_python(found, mode="json")})

    return done_on_sets(bench, make)


def estimated(opened: OpenCollection, judged: Judged, ranker: Ranker, plan: RankerPlan, progress: Progress) -> Estimate:
    """The estimate of a collection's growth. Raises NotFound where it has no records, Unavailable, Cancelled."""
    if opened.record_count == 0:
        raise NotFound(f'"{opened.collection.name}" has no records that could grow.')
    progress.begin("what it takes up", _STEPS)
    opened.make_ready(ranker)
    readings = _readings(opened, ranker)
    vectors = _vector_bytes(opened, ranker)
    progress.more(1)
    progress.begin("how long it is built", _STEPS)
    progress.more(1)
    build_s = _seconds_to_build(opened, ranker)
    progress.begin("how long it is searched", _STEPS)
    progress.more(2)
    queries = judged.queries[:: max(1, len(judged.queries) // _MOST_QUERIES)][:_MOST_QUERIES]
    now = _times(opened, ranker, queries)
    known = {1: now, **_grown_times(opened, ranker, readings, queries, now)}
    progress.begin("what is measured on parts of it", _STEPS)
    progress.more(4)
    subsamples = _subsamples(opened, judged, ranker, plan, progress)
    trend = trend_of(*_points(subsamples))
    sizes = [_at(times, opened.record_count, readings, vectors, build_s, known, trend, subsamples) for times in TIMES]
    return Estimate(
        sizes=sizes,
        subsamples=subsamples,
        by_doubling=trend.by_doubling,
        beta={name: round(one.terms.beta, 4) for name, one in readings.items()},
        made_up=sorted(known.keys() - {1}),
        queries=len(queries),
        has_spaces=bool(ranker.spaces),
    )


def _readings(opened: OpenCollection, ranker: Ranker) -> dict[str, ReadingGrowth]:
    found: dict[str, ReadingGrowth] = {}
    for one in ranker.readings:
        if one.weight > 0:
            indexes = opened.indexes(one.field, one.chain)
            parts = [(index, live.alive) for index, live in zip(indexes, opened.slabs, strict=True)]
            name = one.field if one.field not in found else f"{one.field} ({len(found) + 1})"
            found[name] = reading_growth(parts)
    return found


def _vector_bytes(opened: OpenCollection, ranker: Ranker) -> int:
    if not ranker.spaces:
        return 0
    known = opened.spaces()
    size = 0
    for use in ranker.spaces:
        space = known.get(use.space)
        if space is None or not space.is_filled:
            continue
        for slab in range(len(opened.slabs)):
            groups = None if use.near_enough is None else space.groups(opened, slab)
            size += space.table(opened, slab).vectors.nbytes + (0 if groups is None else groups.size_bytes)
    return size


def _seconds_to_build(opened: OpenCollection, ranker: Ranker) -> float:
    """How long all readings take to be built for every record: from two parts of them, of which one is twice the other,
    so that what does not grow is told apart."""
    with opened.records_as_opened() as connection:
        keys = sample_of_keys(connection, opened.collection.id, min(_BUILT, opened.record_count))
    half = keys[::2]
    parts = {len(half): _build(opened, ranker, half), len(keys): _build(opened, ranker, keys)}
    return seconds_to_build(parts, opened.record_count)


def seconds_to_build(parts: Mapping[int, float], records: int) -> float:
    """How long so many records take, of what two parts took: by a straight line through both, or, where the larger
    took no longer, as many times as long as it. parts: seconds, by how many records.

    >>> seconds_to_build({100: 2.0, 200: 3.0}, 1_000)
    11.0
    >>> seconds_to_build({100: 4.0, 200: 3.0}, 1_000)
    15.0
    """
    (half, small), (whole, large) = min(parts.items()), max(parts.items())
    a_record = max(0.0, large - small) / max(1, whole - half) or large / max(1, whole)
    return large + a_record * (records - whole)


def _build(opened: OpenCollection, ranker: Ranker, keys: list[str]) -> float:
    check_wanted()
    with part_of_collection(opened, keys) as part:
        began = perf_counter()
        for one in {(own.field, own.chain.identity): own for own in ranker.readings if own.weight > 0}.values():
            part.indexes(one.field, one.chain)
        return perf_counter() - began


def _times(opened: OpenCollection, ranker: Ranker, queries: Sequence[SetQuery]) -> Times:
    """Of the quickest of a few rounds: what else the machine did is none of the ranker's."""
    spaces = ask_spaces_ahead(opened, ranker, queries)
    rounds: list[tuple[list[float], list[float]]] = []
    for _ in range(_ROUNDS):
        fresh = opened.unremembering()
        looking, ranking = list[float](), list[float]()
        try:
            for query in queries:
                check_wanted()
                began = perf_counter()
                asked = asked_to_measure(fresh, ranker, query, spaces)
                there = perf_counter()
                answer(fresh, asked, _ROWS)
                looking.append(1_000 * (there - began))
                ranking.append(1_000 * (perf_counter() - there))
        finally:
            opened.memory.forget_state(fresh.state)
        rounds.append((looking, ranking))
    looking = np.min([one for one, _ in rounds], axis=0) if queries else np.zeros(1)
    ranking = np.min([other for _, other in rounds], axis=0) if queries else np.zeros(1)
    both = np.min([np.add(one, other) for one, other in rounds], axis=0) if queries else np.zeros(1)
    figures = [float(np.percentile(own, share)) for own in (looking, ranking, both) for share in (50, 95)]
    return Times(*figures)


def _grown_times(
    opened: OpenCollection,
    ranker: Ranker,
    readings: dict[str, ReadingGrowth],
    queries: Sequence[SetQuery],
    now: Times,
) -> dict[int, Times]:
    """What queries took on collections so many times as large, made up; meaning grows as vectors do."""
    wanted = times_made_up(sum(bytes_at(one, 1) for one in readings.values()))
    if not wanted or not queries:
        return {}
    words = replace(ranker, spaces=(), second_stage=None)
    with_words = now if not ranker.spaces else _times(opened, words, queries)
    # What meaning adds is a comparison with every vector.
    added = {name: max(0.0, getattr(now, name) - getattr(with_words, name)) for name in _FIGURES}
    found: dict[int, Times] = {}
    for times in wanted:
        with grown_collection(opened, words, times) as grown:
            try:
                own = _times(grown, words, queries)
            finally:
                opened.memory.forget_state(grown.state)
        # More records are never quicker: what says so is the machine.
        before = found[max(found)] if found else now
        figures = {name: getattr(own, name) + added[name] * times for name in _FIGURES}
        found[times] = Times(**{name: max(value, getattr(before, name)) for name, value in figures.items()})
    return found


def times_made_up(size: float) -> list[int]:
    """How many times as large collections are made up; as large as may be, where ten times is too much. size: of the
    indexes as they are, in bytes.

    >>> [times_made_up(megabytes * 1_000_000) for megabytes in (8, 9, 80, 81, 400, 401)]
    [[10, 100], [10], [10], [9], [2], []]
    """
    most = int(_MOST_BYTES // max(1.0, size))
    wanted = [times for times in _MADE_UP if times <= most]
    return wanted or [times for times in [most] if times > 1]


def _subsamples(
    opened: OpenCollection, judged: Judged, ranker: Ranker, plan: RankerPlan, progress: Progress
) -> list[Subsample]:
    found: list[Subsample] = []
    for share, draws in _SUBSAMPLES:
        values: list[float] = []
        records = 0
        for draw in range(draws):
            progress.more(1)
            rng = np.random.default_rng([draw, round(share * 1_000)])
            masks = [rng.random(live.slab.record_count) < share for live in opened.slabs]
            part = opened if share == 1.0 else with_living(opened, masks)
            records = part.record_count
            value = _measured_on(part, judged, ranker, plan)
            if part is not opened:
                opened.memory.forget_state(part.state)
            if value is not None:
                values.append(value)
        found.append(Subsample(share, records, values))
    return found


def _measured_on(part: OpenCollection, judged: Judged, ranker: Ranker, plan: RankerPlan) -> float | None:
    """The measure on what there is of the records: by the judgments of these alone; None where none is left."""
    grades = {
        query: {key: grade for key, grade in own.items() if part.find(key) is not None}
        for query, own in judged.grades.items()
    }
    grades = {query: own for query, own in grades.items() if any(own.values())}
    queries = [one for one in judged.queries if one.query_id in grades]
    if not queries:
        return None
    own = replace(judged, queries=queries, grades=grades, expectations=[])
    measure = measure_named(plan.measure)
    lists = asked_lists(part, ranker, queries)
    figures = figures_of(lists, own, [measure], How(plan.rules, plan.weighted))
    return figures.measured.means.get(measure.name)


def _points(subsamples: Sequence[Subsample]) -> tuple[list[float], list[float]]:
    points = [(float(one.records), value) for one in subsamples for value in one.values if one.records]
    return [size for size, _ in points] or [1.0], [value for _, value in points] or [0.0]


def _at(
    times: int,
    records: int,
    readings: dict[str, ReadingGrowth],
    vectors: int,
    build_s: float,
    known: Mapping[int, Times],
    trend: Trend,
    subsamples: Sequence[Subsample],
) -> AtSize:
    value, low, high = trend.at(float(records * times))
    if times == 1 and subsamples[-1].values:
        # Of all records it is known.
        value = low = high = subsamples[-1].values[0]
    return AtSize(
        times=times,
        records=records * times,
        terms=round(sum(one.terms_at(times) for one in readings.values())),
        index_bytes=round(sum(bytes_at(one, times) for one in readings.values())),
        vector_bytes=vectors * times,
        build_s=build_s * times,
        times_ms=estimate_times(times, known),
        times_are="measured" if times == 1 else "made up" if times in known else "continued",
        value=value,
        low=low,
        high=high,
    )


def estimate_times(times: int, known: Mapping[int, Times]) -> Times:
    """What was measured; else by a straight line through the two points next to it.

    As many times as long where there is one point alone.
    """
    if times in known:
        return known[times]
    sizes = sorted(known)
    if len(sizes) == 1:
        return Times(**{name: getattr(known[sizes[0]], name) * times / sizes[0] for name in _FIGURES})
    last = next((i for i, size in enumerate(sizes) if size > times), len(sizes) - 1)
    first, second = sizes[max(0, last - 1)], sizes[max(1, last)]
    figures: dict[str, Any] = {}
    for name in _FIGURES:
        here, there = getattr(known[first], name), getattr(known[second], name)
        slope = max(0.0, there - here) / (second - first)
        figures[name] = there + slope * (times - second)
    return Times(**figures)
