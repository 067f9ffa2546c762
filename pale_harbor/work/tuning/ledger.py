"""The ledger: for each part of a ranker what it earns on a judged set, and what it costs. Done as a job.

What leaving a part out takes is built, measured, and let go again.
"""

from dataclasses import dataclass
from typing import Any, Final

from pydantic import TypeAdapter, ValidationError

from pale_harbor.core.measures import Measure, weighted_mean
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text.errors import ChainError
from pale_harbor.core.tuning.earning import Earning, Earns, earning
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.tuning_plan import LedgerPlan
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.judging.judged_sets import JudgedSet, set_with_id
from pale_harbor.store.running.jobs import Job, add_job, jobs_of, keep_newest, want_cancel
from pale_harbor.store.tuning.trials import note_details
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.measuring.set_sheet import seen_lists
from pale_harbor.work.measuring.turning import Values, counted_queries, values_seen
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.tuning.costs import cost_of
from pale_harbor.work.tuning.ranker_parts import RankerPart, parts_of
from pale_harbor.work.tuning.tuning import in_full, made_of
from pale_harbor.work.workbench import RankerChoice, Workbench

_KEPT: Final = 10
_MOVED: Final = 8
_ORDER: Final = list(Earns)


@dataclass(frozen=True, slots=True)
class MovedQuery:
    """A query that a part moves, with its value without the part and with it."""

    query: str
    without: float
    value: float


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """A part. index_bytes, ms: what it costs in index files, and of a query's time; without: the document without it;
    moved: the queries that it moves the most."""

    kind: str
    name: str
    earning: Earning
    index_bytes: int
    ms: float
    without: dict[str, Any]
    moved: list[MovedQuery]


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerTold:
    """A ledger as it stands: lines so far, what wants a decision first. is_current: whether records and judgments are
    those that it is of; needed: parts that cannot be left out alone."""

    id: int
    judged_set: str
    is_current: bool
    state: str
    done: int
    in_all: int
    plan: LedgerPlan
    mean: float | None
    index_bytes: int
    ms: float
    lines: list[LedgerLine]
    needed: list[str]
    problem: str | None
    begun_at: str


@dataclass(frozen=True, slots=True)
class _Kept:
    mean: float
    index_bytes: int
    ms: float
    lines: list[LedgerLine]
    needed: list[str]


_FORM: Final[TypeAdapter[_Kept]] = TypeAdapter(_Kept)


def begin_ledger(bench: Workbench, collection_name: str, set_name: str, plan: LedgerPlan, *, by_server: bool) -> int:
    """Notes that a ledger is to be made; returns the job's id. Raises NotFound, BadInput."""

    def check(opened: OpenCollection) -> tuple[int, int, int, LedgerPlan]:
        chosen = bench.choose(opened.collection, _choice(plan))
        measure_named(plan.measure)
        judged = judged_in(bench, opened, set_name)
        if not counted_queries(judged, How(plan.rules, plan.weighted)):
            raise BadInput(f'No open query of "{set_name}" is judged yet: nothing can be told of what parts earn.')
        parts = len(list(parts_of(chosen.document, chosen.ranker)))
        return opened.collection.id, judged.judged_set.id, parts, in_full(plan, chosen)

    collection_id, set_id, parts, whole = bench.with_collection(collection_name, check)
    with bench.pool.connection() as connection:
        keep_newest(connection, "ledger", collection_id, _KEPT - 1)
        details = {"plan": whole.model_dump(mode="json")}
        return add_job(
            connection, "ledger", collection_id, by_server=by_server, set_id=set_id, in_all=parts, details=details
        )


def ledger_now(bench: Workbench, collection_name: str, set_name: str, plan: LedgerPlan) -> LedgerTold:
    """Makes a ledger here and now. Raises NotFound, BadInput, Unavailable."""
    job_id = begin_ledger(bench, collection_name, set_name, plan, by_server=False)
    do_job(bench.pool, job_id, ledgers_done(bench))
    return next(one for one in ledgers_told(bench, collection_name) if one.id == job_id)


def ledgers_told(bench: Workbench, collection_name: str) -> list[LedgerTold]:
    """A collection's ledgers, the newest first. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        return [
            _told(job, set_with_id(connection, job.set_id)[0], collection)
            for job in jobs_of(connection, "ledger", collection.id)
            if job.set_id is not None
        ]


def end_ledger(bench: Workbench, collection_name: str, ledger_id: int) -> None:
    """Ends a ledger; what it has told so far stays. Raises NotFound."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        if not any(job.id == ledger_id for job in jobs_of(connection, "ledger", collection.id)):
            raise NotFound(f'"{collection_name}" has no ledger {ledger_id}.')
        want_cancel(connection, ledger_id)


def _told(job: Job, judged_set: JudgedSet, collection: Collection) -> LedgerTold:
    kept, problem = None, job.problem
    try:
        kept = _FORM.validate_python(job.details["ledger"]) if "ledger" in job.details else None
    except ValidationError:
        problem = "It is of another version of the program, which this one cannot read."
    return LedgerTold(
        id=job.id,
        judged_set=judged_set.name,
        is_current=job.details.get("of") in (None, made_of(judged_set, collection)),
        state=job.state,
        done=job.done,
        in_all=job.in_all,
        plan=LedgerPlan.model_validate(job.details["plan"]),
        mean=None if kept is None else kept.mean,
        index_bytes=0 if kept is None else kept.index_bytes,
        ms=0.0 if kept is None else kept.ms,
        lines=[] if kept is None else sorted(kept.lines, key=_first),
        needed=[] if kept is None else kept.needed,
        problem=problem,
        begun_at=job.created_at.isoformat(),
    )


def _first(line: LedgerLine) -> tuple[int, float]:
    """What harms the most first, then what earns nothing; what earns the most last but one: it needs no decision."""
    own = line.earning
    return _ORDER.index(own.earns), own.loses if own.earns in (Earns.HARMS, Earns.LUCK) else -own.loses


def _choice(plan: LedgerPlan) -> RankerChoice:
    return RankerChoice(plan.ranker, plan.version, plan.document)


def ledgers_done(bench: Workbench) -> Doing:
    """How ledgers are made. The doing raises Cancelled where nobody wants it any more."""

    def doing(job: Job, progress: Progress) -> None:
        with bench.pool.connection() as connection:
            if job.set_id is None:
                raise Cancelled("The judged set was dropped.")
            kept, collection_name = set_with_id(connection, job.set_id)
        plan = LedgerPlan.model_validate(job.details["plan"])
        with wanted_while(progress.is_wanted):
            bench.with_collection(
                collection_name, lambda opened: _make(bench, opened, kept.name, plan, job.id, progress)
            )

    return doing


def _make(
    bench: Workbench, opened: OpenCollection, set_name: str, plan: LedgerPlan, job_id: int, progress: Progress
) -> None:
    choice = _choice(plan)
    chosen = bench.choose(opened.collection, choice)
    judged = judged_in(bench, opened, set_name)
    parts = list(parts_of(chosen.document, chosen.ranker))
    progress.begin("what each part earns", len(parts))
    one = _Measuring(opened, judged, measure_named(plan.measure), How(plan.rules, plan.weighted))
    whole = one.values(chosen.ranker)
    cost = cost_of(opened, chosen.ranker, judged.queries)
    mean = weighted_mean(whole, one.weights)
    lines: list[LedgerLine] = []
    needed: list[str] = []
    with bench.pool.connection() as connection:
        note_details(connection, job_id, {"of": made_of(judged.judged_set, opened.collection)})
    for part in parts:
        ranker = _ranker_without(bench, opened, choice, part)
        if ranker is None:
            needed.append(f"{part.kind} {part.name}")
        else:
            built_before = opened.readings_on_disk()
            try:
                values, own = one.values(ranker), cost_of(opened, ranker, judged.queries)
                # Beside each other: what else the machine does changes from minute to minute.
                beside = cost_of(opened, chosen.ranker, judged.queries)
            finally:
                opened.let_go_of_readings(ranker, built_before)
            lines.append(
                LedgerLine(
                    kind=part.kind,
                    name=part.name,
                    earning=earning(values, whole, one.weights),
                    index_bytes=cost.index_bytes - own.index_bytes,
                    ms=beside.ms - own.ms,
                    without=part.without,
                    moved=_moved(judged, values, whole),
                )
            )
        with bench.pool.connection() as connection:
            kept = _FORM.dump_python(_Kept(mean, cost.index_bytes, cost.ms, lines, needed), mode="json")
            note_details(connection, job_id, {"ledger": kept})
        progress.more(1)
    progress.note()


def _ranker_without(bench: Workbench, opened: OpenCollection, choice: RankerChoice, part: RankerPart) -> Ranker | None:
    """The ranker without a part; None where there is none without it, as without a tokenizer."""
    try:
        document: RankerDocument = ranker_document(part.without)
        (ranker,) = bench.rankers_like(opened.collection, choice, [document])
    except (BadInput, ChainError):
        return None
    return ranker


class _Measuring:
    def __init__(self, opened: OpenCollection, judged: Judged, measure: Measure, how: How) -> None:
        self._opened, self._judged, self._measure, self._how = opened, judged, measure, how
        self._known = Values()
        self.weights = judged.weights if how.weighted else None

    def values(self, ranker: Ranker) -> dict[str, float]:
        """By query what the measure gives."""
        seen = seen_lists(self._opened, [ranker], self._judged, [self._measure], self._how.rules, expecting=False)
        (found,) = values_seen(seen, self._judged, self._measure, self._how, self._known)
        return {query: value for query, (value, _) in found.items()}


def _moved(judged: Judged, without: dict[str, float], whole: dict[str, float]) -> list[MovedQuery]:
    texts = {one.query_id: one.query for one in judged.queries}
    moved = [query for query in whole if whole[query] != without[query]]
    moved.sort(key=lambda query: -abs(whole[query] - without[query]))
    return [MovedQuery(texts.get(query, query), without[query], whole[query]) for query in moved[:_MOVED]]
