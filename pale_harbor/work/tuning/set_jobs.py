"""Jobs that tell of one ranker on one judged set: begun, listed, ended, done here and now."""

from collections.abc import Callable
from typing import Final, TypeVar

from pale_harbor.core.measures import measure as measure_named
from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.judging.judged_sets import JudgedSet, set_with_id
from pale_harbor.store.running.jobs import Job, JobKind, add_job, jobs_of, keep_newest, want_cancel
from pale_harbor.store.tuning.trials import note_details
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.measuring.set_sheet import seen_lists
from pale_harbor.work.measuring.turning import Values, counted_queries, values_seen
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.running.worker import Doing, Progress
from pale_harbor.work.tuning.tuning import in_full, made_of
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

T = TypeVar("T")

# Of one kind and one collection so many are kept.
_KEPT: Final = 10


def plan_choice(plan: RankerPlan) -> RankerChoice:
    """The ranker that a plan is about."""
    return RankerChoice(plan.ranker, plan.version, plan.document)


def begin_on_set(
    bench: Workbench,
    kind: JobKind,
    collection_name: str,
    set_name: str,
    plan: RankerPlan,
    *,
    in_all: Callable[[ChosenRanker], int],
    by_server: bool,
) -> int:
    """Notes that a job is to be done; returns its id. in_all: how many steps it has. Raises NotFound, BadInput."""

    def check(opened: OpenCollection) -> tuple[int, int, int, RankerPlan]:
        chosen = bench.choose(opened.collection, plan_choice(plan))
        measure_named(plan.measure)
        judged = judged_in(bench, opened, set_name)
        if not counted_queries(judged, How(plan.rules, plan.weighted)):
            raise BadInput(f'No open query of "{set_name}" is judged yet: nothing can be told of this ranker.')
        return opened.collection.id, judged.judged_set.id, in_all(chosen), in_full(plan, chosen)

    collection_id, set_id, steps, whole = bench.with_collection(collection_name, check)
    with bench.pool.connection() as connection:
        keep_newest(connection, kind, collection_id, _KEPT - 1)
        details = {"plan": whole.model_dump(mode="json")}
        return add_job(
            connection, kind, collection_id, by_server=by_server, set_id=set_id, in_all=steps, details=details
        )


def told_on_sets(
    bench: Workbench, kind: JobKind, collection_name: str, told: Callable[[Job, JudgedSet, bool], T]
) -> list[T]:
    """What a collection's jobs of a kind tell, the newest first. told: of a job, its set, and whether records and
    judgments still are those that it is of. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        found: list[T] = []
        for job in jobs_of(connection, kind, collection.id):
            if job.set_id is not None:
                judged_set = set_with_id(connection, job.set_id)[0]
                found.append(told(job, judged_set, _is_current(job, judged_set, collection)))
    return found


def _is_current(job: Job, judged_set: JudgedSet, collection: Collection) -> bool:
    return job.details.get("of") in (None, made_of(judged_set, collection))


def end_on_set(bench: Workbench, kind: JobKind, collection_name: str, number: int) -> None:
    """Ends a job; what it has told so far stays. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        if not any(job.id == number for job in jobs_of(connection, kind, collection.id)):
            raise NotFound(f'"{collection_name}" has no {kind} {number}.')
        want_cancel(connection, number)


Making = Callable[[OpenCollection, Judged, RankerPlan, int, Progress], None]


def done_on_sets(bench: Workbench, make: Making) -> Doing:
    """How such jobs are done. The doing raises Cancelled where nobody wants it any more."""

    def doing(job: Job, progress: Progress) -> None:
        with bench.pool.connection() as connection:
            if job.set_id is None:
                raise Cancelled("The judged set was dropped.")
            kept, collection_name = set_with_id(connection, job.set_id)
        plan = RankerPlan.model_validate(job.details["plan"])

        def work(opened: OpenCollection) -> None:
            judged = judged_in(bench, opened, kept.name)
            with bench.pool.connection() as connection:
                note_details(connection, job.id, {"of": made_of(judged.judged_set, opened.collection)})
            make(opened, judged, plan, job.id, progress)

        with wanted_while(progress.is_wanted):
            bench.with_collection(collection_name, work)

    return doing


class ByMeasure:
    """Measures rankers on a set's open queries by a plan's measure and rules."""

    def __init__(self, opened: OpenCollection, judged: Judged, plan: RankerPlan) -> None:
        self._opened, self._judged = opened, judged
        self._measure, self._how = measure_named(plan.measure), How(plan.rules, plan.weighted)
        self._known = Values()
        self.weights = judged.weights if plan.weighted else None

    def values(self, ranker: Ranker) -> dict[str, float]:
        """By query what the measure gives."""
        seen = seen_lists(self._opened, [ranker], self._judged, [self._measure], self._how.rules, expecting=False)
        (found,) = values_seen(seen, self._judged, self._measure, self._how, self._known)
        return {query: value for query, (value, _) in found.items()}
