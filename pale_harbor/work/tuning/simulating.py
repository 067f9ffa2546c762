"""A first ranker tuned without judgments: queries made up from the records, kept as a judged set, and tuned on."""

from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.simulating.known_items import known_item_queries
from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import FileJudgment, JudgedQuery
from pale_harbor.formats.tuning_plan import TunedKnob, TuningPlan, WeighedMeasure
from pale_harbor.store.collections.collections import START_RANKER, collection_named, name_and_revision
from pale_harbor.store.judging.judged_sets import sets_of
from pale_harbor.store.records.records import sample_of_records
from pale_harbor.store.running.jobs import Job, JobState, jobs_of
from pale_harbor.work.judging.made_up import MADE_UP, people_in
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.worker import Doing, Progress
from pale_harbor.work.tuning.dials import usual_places
from pale_harbor.work.tuning.tuning import begin
from pale_harbor.work.workbench import RankerChoice, Workbench

SIMULATED: Final = "simulated"
# Known items are drawn from so many records at most.
_SAMPLE: Final = 5_000
_GOOD: Final = 3
SECONDS: Final = 40.0
_MOST_KNOBS: Final = 40
# What is tried for spelling slack: none, and two ways to give it.
_SLACK: Final[tuple[Any, ...]] = (None, {"edits": "by_length"}, {"edits": "by_length", "when": "always", "worth": 0.3})


@dataclass(frozen=True, slots=True)
class Simulated:
    """Queries that were made up. judged_set: that holds them."""

    judged_set: str
    queries: int
    records: int


def simulate_queries(
    bench: Workbench, collection_name: str, count: int = 200, seed: int = 0, set_name: str = SIMULATED
) -> Simulated:
    """Puts known-item queries made up from a collection's records in place of a judged set.

    Words come from the fields that the ranker of the collection reads. Raises NotFound, and BadInput where the records
    have no words that tell one from another, or the set holds what people judged.
    """
    fields = _fields_read(bench, collection_name)
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        sample = sample_of_records(connection, collection.id, _SAMPLE, seed)
    _check_is_made_up(bench, collection_name, set_name)
    texts = [{field: texts_of(one.field_values.get(field)) for field in fields} for one in sample]
    found = known_item_queries(texts, count, seed=seed)
    if not found:
        raise BadInput(f'No query can be made up: no word tells the records of "{collection_name}" apart.')
    queries = [
        JudgedQuery(
            query_id=f"made-up-{number}",
            query=one.text,
            need=f"The one record {sample[one.record].key}, remembered. Made up from its words.",
            tags=(one.typed.value,),
        )
        for number, one in enumerate(found, start=1)
    ]
    judgments = [
        FileJudgment(query_id=query.query_id, record=sample[one.record].key, grade=_GOOD, judge=MADE_UP)
        for query, one in zip(queries, found, strict=True)
    ]
    put_judged_set(bench, collection_name, set_name, queries, judgments, locked_share=0)
    return Simulated(set_name, len(found), len({one.record for one in found}))


def first_plan(bench: Workbench, collection_name: str, seconds: float = SECONDS) -> TuningPlan:
    """How the ranker that records came with is tuned on made-up queries: its weights, its b and spelling slack, by
    reciprocal rank. It is kept as a new version where the gain holds on queries that were held out.

    Raises NotFound, BadInput where the collection has no such ranker.
    """
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
    whole = bench.choose(collection, RankerChoice(START_RANKER)).document.whole
    turned = [
        TunedKnob(path=list(path), values=values)
        for path, values in usual_places(whole)
        if path[0] == "readings" and path[-1] in ("weight", "b")
    ]
    slack = [one for one in (whole["spelling"], *_SLACK) if one is not None or whole["spelling"] is None]
    return TuningPlan(
        ranker=START_RANKER,
        measures=[WeighedMeasure(measure="rr")],
        knobs=[TunedKnob(path=["spelling"], values=slack), *turned][:_MOST_KNOBS],
        folds=3,
        seconds=seconds,
        keep=START_RANKER,
    )


def begin_first_tuning(bench: Workbench, collection_name: str, *, by_server: bool) -> int:
    """Makes queries up and notes that the first ranker is to be tuned on them; returns the job's id.

    Raises NotFound, BadInput.
    """
    plan = first_plan(bench, collection_name)
    made = simulate_queries(bench, collection_name)
    return begin(bench, collection_name, made.judged_set, plan, by_server=by_server)


@dataclass(frozen=True, slots=True)
class FirstTuningTold:
    """How the first tuning that an import asked for stands. tuning: its number, once queries were made up; problem: why
    there is none."""

    of_import: int
    state: JobState
    problem: str | None
    tuning: int | None


def first_tunings_begun(bench: Workbench) -> Doing:
    """How a server begins the tunings that imports asked for, once their records are in."""

    def doing(job: Job, _progress: Progress) -> dict[str, Any]:
        assert job.collection_id is not None
        with bench.pool.connection() as connection:
            name, _ = name_and_revision(connection, job.collection_id)
        return {"tuning": begin_first_tuning(bench, name, by_server=True)}

    return doing


def first_tunings_told(bench: Workbench, collection_name: str) -> list[FirstTuningTold]:
    """The first tunings that imports into a collection asked for, the newest first. Raises NotFound."""
    with bench.pool.connection() as connection:
        jobs = jobs_of(connection, "simulating", collection_named(connection, collection_name).id)
    return [
        FirstTuningTold(job.details["import"], job.state, job.problem, (job.report or {}).get("tuning")) for job in jobs
    ]


def _fields_read(bench: Workbench, collection_name: str) -> list[str]:
    """The fields whose words are typed: those that the collection's ranker reads."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
    whole = bench.choose(collection, RankerChoice()).document.whole
    return list(dict.fromkeys(one["field"] for one in whole["readings"] if one["weight"] > 0))


def _check_is_made_up(bench: Workbench, collection_name: str, set_name: str) -> None:
    """What people said is never replaced by what was made up."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        kept = next((one for one in sets_of(connection, collection.id) if one.name == set_name), None)
    people = [] if kept is None else people_in(bench, kept.id)
    if people:
        raise BadInput(
            f'"{set_name}" has judgments of people ({", ".join(people) or "unnamed"}): name another set for queries '
            "that are made up."
        )
