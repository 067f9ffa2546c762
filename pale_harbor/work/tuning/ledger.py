"""The ledger: for each part of a ranker what it earns on a judged set, and what it costs. Done as a job.

What leaving a part out takes is built, measured, and let go again.
"""

from dataclasses import dataclass
from typing import Any, Final

from pydantic import TypeAdapter, ValidationError

from pale_harbor.core.measures import weighted_mean
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text.errors import ChainError
from pale_harbor.core.tuning.earning import Earning, Earns, earning
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.judging.judged_sets import JudgedSet
from pale_harbor.store.running.jobs import Job
from pale_harbor.store.tuning.trials import note_details
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.tuning.costs import cost_of
from pale_harbor.work.tuning.list_entries import entries_of
from pale_harbor.work.tuning.ranker_parts import ListVersion, RankerPart, parts_of
from pale_harbor.work.tuning.set_jobs import (
    ByMeasure,
    begin_on_set,
    done_on_sets,
    end_on_set,
    plan_choice,
    told_on_sets,
)
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

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
    new_list: a version of a word list that is to be kept first, None where there is none; moved: the queries that it
    moves the most."""

    kind: str
    name: str
    earning: Earning
    index_bytes: int
    ms: float
    without: dict[str, Any]
    new_list: ListVersion | None
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
    plan: RankerPlan
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


def begin_ledger(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan, *, by_server: bool) -> int:
    """Notes that a ledger is to be made; returns the job's id. Raises NotFound, BadInput."""

    def parts(chosen: ChosenRanker) -> int:
        return len(list(parts_of(chosen.document, chosen.ranker)))

    return begin_on_set(bench, "ledger", collection_name, set_name, plan, in_all=parts, by_server=by_server)


def ledger_now(bench: Workbench, collection_name: str, set_name: str, plan: RankerPlan) -> LedgerTold:
    """Makes a ledger here and now. Raises NotFound, BadInput, Unavailable."""
    job_id = begin_ledger(bench, collection_name, set_name, plan, by_server=False)
    do_job(bench.pool, job_id, ledgers_done(bench))
    return next(one for one in ledgers_told(bench, collection_name) if one.id == job_id)


def ledgers_told(bench: Workbench, collection_name: str) -> list[LedgerTold]:
    """A collection's ledgers, the newest first. Raises NotFound."""
    return told_on_sets(bench, "ledger", collection_name, _told)


def end_ledger(bench: Workbench, collection_name: str, ledger_id: int) -> None:
    """Ends a ledger; what it has told so far stays. Raises NotFound."""
    end_on_set(bench, "ledger", collection_name, ledger_id)


def _told(job: Job, judged_set: JudgedSet, is_current: bool) -> LedgerTold:
    kept, problem = None, job.problem
    try:
        kept = _FORM.validate_python(job.details["ledger"]) if "ledger" in job.details else None
    except ValidationError:
        problem = "It is of another version of the program, which this one cannot read."
    return LedgerTold(
        id=job.id,
        judged_set=judged_set.name,
        is_current=is_current,
        state=job.state,
        done=job.done,
        in_all=job.in_all,
        plan=RankerPlan.model_validate(job.details["plan"]),
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


def ledgers_done(bench: Workbench) -> Doing:
    """How ledgers are made. The doing raises Cancelled where nobody wants it any more."""

    def make(opened: OpenCollection, judged: Judged, plan: RankerPlan, job_id: int, progress: Progress) -> None:
        _make(bench, opened, judged, plan, job_id, progress)

    return done_on_sets(bench, make)


def _make(
    bench: Workbench, opened: OpenCollection, judged: Judged, plan: RankerPlan, job_id: int, progress: Progress
) -> None:
    choice = plan_choice(plan)
    chosen = bench.choose(opened.collection, choice)
    parts = [*parts_of(chosen.document, chosen.ranker), *entries_of(bench, opened, chosen)]
    progress.begin("what each part earns", len(parts))
    one = ByMeasure(opened, judged, plan)
    whole = one.values(chosen.ranker)
    cost = cost_of(opened, chosen.ranker, judged.queries)
    mean = weighted_mean(whole, one.weights)
    lines: list[LedgerLine] = []
    needed: list[str] = []
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
                    new_list=part.new_list,
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
        if part.lists:
            draft = RankerChoice(choice.name, choice.version, document)
            return bench.ranker_with_lists(opened.collection, draft, part.lists)
        (ranker,) = bench.rankers_like(opened.collection, choice, [document])
    except (BadInput, ChainError):
        return None
    return ranker


def _moved(judged: Judged, without: dict[str, float], whole: dict[str, float]) -> list[MovedQuery]:
    texts = {one.query_id: one.query for one in judged.queries}
    moved = [query for query in whole if whole[query] != without[query]]
    moved.sort(key=lambda query: -abs(whole[query] - without[query]))
    return [MovedQuery(texts.get(query, query), without[query], whole[query]) for query in moved[:_MOVED]]
