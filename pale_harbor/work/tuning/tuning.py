"""Tunings: begun, done as jobs, stopped with what they have, taken up after a crash, and told."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final, TypeVar

import numpy as np
from pydantic import ValidationError

from pale_harbor.core.comparing.verdict import Outcome
from pale_harbor.core.guard.rule import GuardRule
from pale_harbor.core.measures import Measure
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.core.tuning.dials import Setting, standing
from pale_harbor.core.tuning.finding import Search, mean_of, tune
from pale_harbor.core.tuning.folds import folds_of
from pale_harbor.core.tuning.rails import Rail, rail
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import RankerPlan, TuningPlan
from pale_harbor.formats.tuning_report import REPORT, TuningReport, outcome_said
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.judging.judged_sets import JudgedSet, set_with_id
from pale_harbor.store.running.jobs import Job, add_job, forget_job, job_with_id, jobs_of, keep_newest, want_cancel
from pale_harbor.store.tuning.trials import (
    Trial,
    add_trials,
    forget_trials,
    note_details,
    stop_wanted,
    trials_of,
    want_stop,
)
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.tuning.dials import dials_of
from pale_harbor.work.tuning.reporting import changes_of, report_of
from pale_harbor.work.tuning.setting_values import SettingValues
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# Of the time, what the folds and the search on all queries may take; the rest is for what each knob does.
_SEARCHING: Final = 0.85
_SECONDS_BETWEEN_LOOKS: Final = 0.3
_KEPT: Final = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class TuningTold:
    """A tuning as it stands. found: while it runs, how good the best so far is, after how many settings.

    is_current: whether records and judgments are those that it is of. best: on all queries, with what it turns;
    problem: why it ended without a report; said: of the report, in a line; kept: the version that was kept of it.
    """

    id: int
    judged_set: str
    is_current: bool
    state: str
    phase: str
    tried: int
    plan: TuningPlan
    found: list[tuple[int, float]]
    best: list[str]
    problem: str | None
    report: TuningReport | None
    said: str
    kept: str | None
    begun_at: str


def begin(bench: Workbench, collection_name: str, set_name: str, plan: TuningPlan, *, by_server: bool) -> int:
    """Notes that a ranker is to be tuned; returns the job's id. What cannot be tuned is said at once.

    Raises NotFound, BadInput.
    """

    def check(opened: OpenCollection) -> tuple[int, int, TuningPlan]:
        chosen = bench.choose(opened.collection, choice_of(plan))
        judged = judged_in(bench, opened, set_name)
        prepared = _prepared(bench, opened, plan, chosen, judged, lambda _trials: None)
        if not prepared.queries:
            raise BadInput(f'No open query of "{set_name}" is judged yet: there is nothing to tune by.')
        folds_of(_groups(judged, prepared.queries), plan.folds, plan.seed)
        everything = np.ones(len(prepared.queries), np.bool_)
        here = standing(prepared.dials)
        # A rail that cannot be asked is told before anything is tried.
        if any(isinstance(one, GuardRule) for one in prepared.rails):
            prepared([here])
            _check_tags(prepared.rails, judged)
            prepared.fits(here, everything)
        return opened.collection.id, judged.judged_set.id, in_full(plan, chosen)

    collection_id, set_id, whole = bench.with_collection(collection_name, check)
    with bench.pool.connection() as connection:
        keep_newest(connection, "tuning", collection_id, _KEPT - 1)
        details = {"plan": whole.model_dump(mode="json")}
        return add_job(connection, "tuning", collection_id, by_server=by_server, set_id=set_id, details=details)


Plan = TypeVar("Plan", TuningPlan, RankerPlan)


def in_full(plan: Plan, chosen: ChosenRanker) -> Plan:
    """The plan with the kept version that it means, whatever is kept of that name later."""
    if chosen.saved is None:
        return plan
    return plan.model_copy(update={"ranker": chosen.saved.name, "version": chosen.saved.version})


def made_of(judged_set: JudgedSet, collection: Collection) -> list[int | str]:
    """The revisions that figures are of: where these are others now, so may the figures be."""
    return [judged_set.revision, collection.revision, collection.fingerprint]


def tune_now(bench: Workbench, collection_name: str, set_name: str, plan: TuningPlan) -> TuningReport:
    """Tunes here and now. Raises NotFound, BadInput, Unavailable."""
    job_id = begin(bench, collection_name, set_name, plan, by_server=False)
    do_job(bench.pool, job_id, tunings_done(bench))
    report = told(bench, collection_name, job_id).report
    assert report is not None
    return report


def all_told(bench: Workbench, collection_name: str) -> list[TuningTold]:
    """A collection's tunings, the newest first, without their reports. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        jobs = jobs_of(connection, "tuning", collection.id)
        sets = {one.set_id: set_with_id(connection, one.set_id)[0] for one in jobs if one.set_id is not None}
    return [replace(_told(job, sets[job.set_id], collection), report=None) for job in jobs if job.set_id is not None]


def told(bench: Workbench, collection_name: str, tuning_id: int) -> TuningTold:
    """One of them, with its report. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        for job in jobs_of(connection, "tuning", collection.id):
            if job.id == tuning_id and job.set_id is not None:
                return _told(job, set_with_id(connection, job.set_id)[0], collection)
    raise NotFound(f'"{collection_name}" has no tuning {tuning_id}; perhaps it was forgotten.')


def stop(bench: Workbench, collection_name: str, tuning_id: int) -> TuningTold:
    """Ends a tuning with what it has found. Raises NotFound."""
    told(bench, collection_name, tuning_id)
    with bench.pool.connection() as connection:
        want_stop(connection, tuning_id)
    return told(bench, collection_name, tuning_id)


def forget(bench: Workbench, collection_name: str, tuning_id: int) -> None:
    """Ends a tuning and forgets it, or forgets one that ended. Raises NotFound."""
    own = told(bench, collection_name, tuning_id)
    with bench.pool.connection() as connection:
        if own.state in ("waiting", "running"):
            want_cancel(connection, tuning_id)
        else:
            forget_job(connection, tuning_id)


def _told(job: Job, kept: JudgedSet, collection: Collection) -> TuningTold:
    report, problem = None, job.problem
    if job.report is not None:
        try:
            report = REPORT.validate_python(job.report)
        except ValidationError:
            problem = "Its report is of another version of the program, which this one cannot read."
    found = job.details.get("found", {})
    return TuningTold(
        id=job.id,
        judged_set=kept.name,
        is_current=job.details.get("of") in (None, made_of(kept, collection)),
        state=job.state,
        phase=job.phase,
        tried=found.get("tried", 0),
        plan=TuningPlan.model_validate(job.details["plan"]),
        found=[(int(tried), float(mean)) for tried, mean in found.get("means", [])],
        best=found.get("best", []),
        problem=problem,
        report=report,
        said="" if report is None else outcome_said(report),
        kept=job.details.get("kept"),
        begun_at=job.created_at.isoformat(),
    )


def choice_of(plan: TuningPlan) -> RankerChoice:
    """The ranker that a plan tunes."""
    return RankerChoice(plan.ranker, plan.version, plan.document)


def tunings_done(bench: Workbench) -> Doing:
    """How tunings are done. The doing raises Cancelled where nobody wants it any more."""

    def doing(job: Job, progress: Progress) -> dict[str, Any]:
        with bench.pool.connection() as connection:
            if job.set_id is None:
                raise Cancelled("The judged set was dropped.")
            kept, collection_name = set_with_id(connection, job.set_id)
        plan = TuningPlan.model_validate(job.details["plan"])
        with wanted_while(progress.is_wanted):
            report = bench.with_collection(
                collection_name, lambda opened: _tuned(bench, opened, kept.name, plan, job.id, progress)
            )
        if plan.keep is not None and report.held_out is not None and report.held_out.outcome is Outcome.BETTER:
            note = f"Tuned from {report.ranker} on {report.judged_set}. {report.said}"
            document = ranker_document(report.offered.document)
            title = bench.put_ranker(collection_name, plan.keep, document, note, based_on=choice_of(plan)).title
            with bench.pool.connection() as connection:
                note_details(connection, job.id, {"kept": title})
        return REPORT.dump_python(report, mode="json")

    return doing


def _tuned(
    bench: Workbench, opened: OpenCollection, set_name: str, plan: TuningPlan, job_id: int, progress: Progress
) -> TuningReport:
    began = time.monotonic()
    chosen = bench.choose(opened.collection, choice_of(plan))
    judged = judged_in(bench, opened, set_name)
    keeping = _Keeping(bench, job_id, progress)
    values = _prepared(bench, opened, plan, chosen, judged, keeping.keep)
    keeping.values = values
    of = made_of(judged.judged_set, opened.collection)
    with bench.pool.connection() as connection:
        if job_with_id(connection, job_id).details.get("of", of) != of:
            # What was found out before it was cut off is of other records or judgments.
            forget_trials(connection, job_id)
        note_details(connection, job_id, {"of": of})
        values.remember(trials_of(connection, job_id))
        earlier = sum(
            one.id != job_id and one.state == "done" and one.set_id == judged.judged_set.id
            for one in jobs_of(connection, "tuning", opened.collection.id)
        )
    keeping.take_up()
    watch = _Watch(bench, job_id, progress, began, plan.seconds)
    folds = folds_of(_groups(judged, values.queries), plan.folds, plan.seed)
    search = Search(plan.way, plan.most, plan.seed, values.weights)
    values.has_time = watch.goes_on
    tuned = tune(values.dials, values, values.fits, folds, search, watch)
    values.has_time = watch.has_time
    progress.begin("what each knob does", 0)
    name = chosen.saved.title if chosen.saved else _draft_name(plan)
    return report_of(values, tuned, folds, plan, name, watch, began, earlier)


def _draft_name(plan: TuningPlan) -> str:
    return "a draft" if plan.ranker is None else f"a draft of {plan.ranker}"


def _prepared(
    bench: Workbench,
    opened: OpenCollection,
    plan: TuningPlan,
    chosen: ChosenRanker,
    judged: Judged,
    keep: Callable[[Sequence[Trial]], object],
) -> SettingValues:
    rails = [rail(text) for text in plan.rails]
    wanted: dict[Measure, float] = {}
    for one in plan.measures:
        own = measure_named(one.measure)
        wanted[own] = wanted.get(own, 0.0) + one.weight
    for one in rails:
        if isinstance(one, GuardRule) and one.measure is not None:
            wanted.setdefault(one.measure, 0.0)
    collection, choice = opened.collection, choice_of(plan)
    return SettingValues(
        *(opened, chosen.document, dials_of(chosen.document, plan.knobs), judged, wanted, rails),
        How(plan.rules, plan.weighted),
        lambda documents: bench.rankers_like(collection, choice, documents),
        keep,
    )


def _check_tags(rails: Sequence[Rail], judged: Judged) -> None:
    known = sorted({tag for one in judged.queries for tag in one.tags})
    for one in rails:
        if isinstance(one, GuardRule) and one.tag is not None and one.tag not in known:
            raise BadInput(
                f'"{one.text}": no open query has the tag "{one.tag}". There are: {", ".join(known) or "none"}.'
            )


def _groups(judged: Judged, queries: Sequence[str]) -> dict[str, str]:
    """What each query is a variant of: queries that want the same belong together, in whatever words they ask."""
    by_id = {one.query_id: one for one in judged.queries}
    return {query: (by_id[query].need or by_id[query].query).strip().casefold() for query in queries}


class _Keeping:
    """Keeps what settings come to as they come, and how good the best so far is."""

    values: SettingValues

    def __init__(self, bench: Workbench, job_id: int, progress: Progress) -> None:
        self._bench, self._job_id, self._progress = bench, job_id, progress
        self._means: list[tuple[int, float]] = []
        self._best: Setting | None = None
        self._next = 0.0

    def take_up(self) -> None:
        """Goes through what was measured before a tuning was cut off."""
        for number, setting in enumerate(self.values.rows, start=1):
            self._see(number, setting)

    def _see(self, number: int, setting: Setting) -> None:
        values = self.values
        mean = mean_of(values.objective(setting), values.weights)
        everything = np.ones(len(values.queries), np.bool_)
        if (self._best is None or mean > self._means[-1][1]) and values.fits(setting, everything):
            self._best = setting
            self._means.append((number, mean))

    def keep(self, trials: Sequence[Trial]) -> None:
        """Keeps settings that were just measured."""
        values = self.values
        known = len(values.rows)
        for number, one in enumerate(trials, start=known - len(trials) + 1):
            self._see(number, tuple(one.setting))
        with self._bench.pool.connection() as connection:
            add_trials(connection, self._job_id, known - len(trials), trials)
            if time.monotonic() >= self._next:
                self._next = time.monotonic() + _SECONDS_BETWEEN_LOOKS
                best = [] if self._best is None else [one.words for one in changes_of(values, self._best)]
                note_details(connection, self._job_id, {"found": {"tried": known, "means": self._means, "best": best}})
        self._progress.more(len(trials))


class _Watch:
    """Sees to it that a tuning ends in time, or when somebody stops it."""

    def __init__(self, bench: Workbench, job_id: int, progress: Progress, began: float, seconds: float) -> None:
        self._bench, self._job_id, self._progress = bench, job_id, progress
        self._began, self._seconds = began, seconds
        self._until = began
        self._looked, self._stopped = 0.0, False
        self.ended = ""

    def begins(self, part: int, parts: int) -> bool:
        self._progress.begin("on all queries" if part == 0 else f"without fold {part} of {parts - 1}", 0)
        self._until = self._began + _SEARCHING * self._seconds * (part + 1) / parts
        return not self._is_stopped()

    def goes_on(self) -> bool:
        if self._is_stopped():
            self.ended = "it was stopped"
            return False
        if time.monotonic() < self._until:
            return True
        self.ended = f"its {self._seconds:g} s were over"
        return False

    def has_time(self) -> bool:
        """For what is told at the end."""
        return not self._is_stopped() and time.monotonic() < self._began + self._seconds

    def _is_stopped(self) -> bool:
        now = time.monotonic()
        if not self._stopped and now >= self._looked + _SECONDS_BETWEEN_LOOKS:
            self._looked = now
            with self._bench.pool.connection() as connection:
                self._stopped = stop_wanted(connection, self._job_id)
        if self._stopped:
            self.ended = "it was stopped"
        return self._stopped
