"""A first ranker without judgments: made-up queries as a judged set, and a tuning that keeps only what holds."""

from pathlib import Path
from typing import Any

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.formats.tuning_plan import TunedKnob, TuningPlan, WeighedMeasure
from pale_harbor.store.judging.judged_sets import queries_of, set_named
from pale_harbor.store.judging.judgments import judgments_of
from pale_harbor.work.imports.importing import begin_import, run_import
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.measuring.turning import with_value
from pale_harbor.work.running.worker import JobRunner, do_job
from pale_harbor.work.tuning import tuning
from pale_harbor.work.tuning.simulating import (
    begin_first_tuning,
    first_plan,
    first_tunings_begun,
    first_tunings_told,
    simulate_queries,
)
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import file_of, load_rows

SHIPS = [
    "petrel",
    "tern",
    "gannet",
    "plover",
    "dunlin",
    "curlew",
    "avocet",
    "knot",
    "fulmar",
    "skua",
    "whimbrel",
    "teal",
]
# The noise says the name of another ship, over and over: a ranker does well not to read it.
ROWS: list[dict[str, Any]] = [
    {
        "id": f"s{i}",
        "title": f"The {ship} of Saltmere",
        "text": f"A sloop that was called {ship} when she was built, number {i} of the yard.",
        "noise": f"{SHIPS[(i + 1) % 12]} " * 6,
    }
    for i, ship in enumerate(SHIPS)
]


@pytest.fixture
def quay(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS, "quay")
    return bench


def test_made_up_queries_are_a_judged_set_of_their_own(quay: Workbench):
    made = simulate_queries(quay, "quay", 30)
    assert (made.judged_set, made.queries) == ("simulated", 30)
    assert 0 < made.records <= 12
    with quay.pool.connection() as connection:
        kept = set_named(connection, quay.with_collection("quay", lambda opened: opened.collection.id), "simulated")
        queries = queries_of(connection, kept.id)
        said = judgments_of(connection, kept.id)
    assert not any(one.locked for one in queries)
    assert {one.judge for one in said} == {"made up"}
    assert {one.grade for one in said} == {3}
    assert all(tuple(one.tags) in (("as written",), ("misspelled",), ("cut short",)) for one in queries)
    assert all(one.record_key in query.need for one in said for query in queries if query.query_id == one.query_id)
    # Asked for again they are the same, and stand in place of the former.
    assert simulate_queries(quay, "quay", 30) == made


def test_what_people_judged_is_never_replaced(quay: Workbench):
    queries = queries_in('{"query_id": "a", "query": "petrel"}\n', "the queries")
    put_judged_set(quay, "quay", "people", queries, judgments_in("a 0 s0 3\n", "the grades"), locked_share=0)
    with pytest.raises(BadInput, match="judgments of people"):
        simulate_queries(quay, "quay", set_name="people")


def test_an_import_that_asks_for_it_is_followed_by_a_tuning_of_the_first_ranker(bench: Workbench, tmp_path: Path):
    def load(name: str, rows: list[dict[str, Any]]) -> int:
        source = FileSource(Source(file_of(tmp_path, rows, f"{name}.jsonl")))
        job = begin_import(bench.pool, name, source, ImportPlan(key="id"), by_server=True, tune_start=True)
        run_import(bench.pool, job, source)
        return job

    runner = JobRunner(bench.pool, {"simulating": first_tunings_begun(bench)})
    ships, lamp = load("ships", ROWS), load("lamp", [{"id": "1", "title": "Lamp"}])
    assert [(one.of_import, one.state) for one in first_tunings_told(bench, "ships")] == [(ships, "waiting")]
    assert len(runner.look()) == 2
    runner.finish()
    (told,) = first_tunings_told(bench, "ships")
    (begun,) = tuning.all_told(bench, "ships")
    assert (told.state, told.problem, told.tuning) == ("done", None, begun.id)
    assert (begun.judged_set, begun.plan.ranker, begun.plan.keep) == ("simulated", "start", "start")
    # What cannot be tuned says why.
    (told,) = first_tunings_told(bench, "lamp")
    assert (told.of_import, told.state, told.tuning) == (lamp, "failed", None)
    assert "no word tells the records" in (told.problem or "")


def test_records_that_nothing_tells_apart_are_refused(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "1", "title": "Lamp"}], "one")
    with pytest.raises(BadInput, match="no word tells the records"):
        simulate_queries(bench, "one")


def test_the_plan_turns_weights_b_and_slack_of_start_by_reciprocal_rank(quay: Workbench):
    plan = first_plan(quay, "quay")
    assert plan.ranker == plan.keep == "start"
    assert [one.measure for one in plan.measures] == ["rr"]
    assert plan.knobs is not None
    assert plan.knobs[0].path == ["spelling"]
    assert plan.knobs[0].values is not None
    assert plan.knobs[0].values[0] is None
    assert {one.path[-1] for one in plan.knobs[1:]} == {"weight", "b"}


def test_what_holds_on_queries_held_out_is_kept_as_a_version(quay: Workbench):
    """Read as heavily as the title, the noise puts another ship first; without it everything is found."""
    whole = quay.choose(_collection(quay), RankerChoice("start")).document.whole
    number = next(i for i, one in enumerate(whole["readings"]) if one["field"] == "noise")
    # Words are taken from fields that are read.
    quay.put_ranker("quay", "start", ranker_document(with_value(whole, ("readings", number, "weight"), 0)))
    simulate_queries(quay, "quay", 60)
    quay.put_ranker("quay", "start", ranker_document(with_value(whole, ("readings", number, "weight"), 9)))
    plan = TuningPlan(
        ranker="start",
        measures=[WeighedMeasure(measure="rr")],
        knobs=[TunedKnob(path=["readings", number, "weight"], values=[0.1, 9.0])],
        folds=3,
        keep="start",
    )
    told = _tuned(quay, tuning.begin(quay, "quay", "simulated", plan, by_server=False))
    assert told.report is not None
    assert told.report.said.startswith("The gain holds")
    assert told.kept == "start:4"
    kept = quay.choose(_collection(quay), RankerChoice("start"))
    assert kept.ranker.readings[number].weight == 0.1
    assert kept.saved is not None
    assert "The gain holds" in kept.saved.note
    # What does not hold is not kept: from here nothing is to be gained.
    again = _tuned(quay, tuning.begin(quay, "quay", "simulated", plan, by_server=False))
    assert again.kept is None
    assert quay.choose(_collection(quay), RankerChoice("start")).saved == kept.saved


def test_it_is_begun_in_one_step(quay: Workbench):
    told = _tuned(quay, begin_first_tuning(quay, "quay", by_server=False))
    assert told.judged_set == "simulated"
    assert told.state == "done"


def _tuned(quay: Workbench, number: int) -> tuning.TuningTold:
    do_job(quay.pool, number, tuning.tunings_done(quay))
    return tuning.told(quay, "quay", number)


def _collection(quay: Workbench) -> Any:
    return quay.with_collection("quay", lambda opened: opened.collection)
