"""Tuning a ranker on a judged set: what it finds, what holds held out, rails, stops, and what a crash leaves."""

import json
import random
import re
from collections.abc import Generator
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.comparing.verdict import Outcome
from pale_harbor.core.measures import Ties
from pale_harbor.core.tuning.searching import Way
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import TunedKnob, TuningPlan, WeighedMeasure, tuned_knob
from pale_harbor.formats.tuning_report import TuningReport, outcome_said, tuning_page
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.store.running.jobs import job_with_id, note_progress, want_cancel
from pale_harbor.store.tuning.trials import trials_of
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.running.worker import do_job
from pale_harbor.work.tuning import tuning
from pale_harbor.work.tuning.dials import dials_of
from pale_harbor.work.tuning.setting_values import SettingValues
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

WORDS = [
    f"{first}{second}" for first in ("bo", "la", "ke", "mi", "tu") for second in ("ran", "vel", "sot", "dim", "gar")
]
NAMES = ["Petrel", "Tern", "Kittiwake", "Gannet"]


def lines(rows: list[dict[str, Any]]) -> str:
    return "".join(json.dumps(row) + "\n" for row in rows)


@pytest.fixture(scope="module")
def shore(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Generator[Workbench]:
    """Twenty-five queries whose records say it in the text, where titles mislead; and four names, told by titles."""
    make_database(cluster, "tuning")
    folder = tmp_path_factory.mktemp("tuning")
    records = [
        row
        for word in WORDS
        for row in (
            {"id": f"{word}-text", "title": "Ledger page", "text": f"About {word} and more of {word}"},
            {"id": f"{word}-title", "title": word, "text": "A label without its object"},
        )
    ] + [
        row
        for name in NAMES
        for row in (
            {"id": f"{name}-title", "title": name, "text": "A sloop of two masts"},
            {"id": f"{name}-text", "title": "Ledger page", "text": f"Towed by {name}, {name} again"},
        )
    ]
    queries = [{"query_id": word, "query": word} for word in WORDS]
    queries += [{"query_id": name, "query": name, "tags": ["name"]} for name in NAMES]
    grades = [f"{word} 0 {word}-text 3\n" for word in WORDS] + [f"{name} 0 {name}-title 3\n" for name in NAMES]
    with open_pool(cluster.address("tuning")) as pool:
        bench = Workbench(pool, folder / "indexes")
        load_rows(pool, folder, records, "shore")
        bench.put_ranker(
            "shore",
            "plain",
            ranker_document(
                {
                    "readings": [
                        {"field": "title", "chain": "words > lower", "weight": 3},
                        {"field": "text", "chain": "words > lower", "weight": 1},
                    ]
                }
            ),
        )
        put_judged_set(
            bench,
            "shore",
            "asked",
            queries_in(lines(queries), "the queries"),
            judgments_in("".join(grades), "the grades"),
            locked_share=0,
        )
        yield bench


def plan(*knobs: str, **more: Any) -> TuningPlan:
    return TuningPlan(ranker="plain", version=1, knobs=[tuned_knob(one) for one in knobs] or None, **more)


def nobody_says(*_how_it_ended: object) -> None:
    pass


WEIGHT = "readings.title.weight=0.5,1,3,6"


def tuned(bench: Workbench, *knobs: str, **more: Any) -> TuningReport:
    return tuning.tune_now(bench, "shore", "asked", plan(*knobs, **more))


def test_a_better_weight_is_found_and_holds_on_queries_held_out(shore: Workbench):
    report = tuned(shore, WEIGHT, "readings.title.b=0,0.75")
    # Of twenty-nine queries twenty-five have their record at rank 2, and get it to rank 1; the four names lose theirs.
    at_two = 0.6309297535714575
    assert report.before == pytest.approx((25 * at_two + 4) / 29)
    assert report.offered.mean == pytest.approx((25 + 4 * at_two) / 29)
    assert [(one.what, one.before, one.after) for one in report.offered.changes] == [("title weight", "3", "1")]
    assert report.offered.document["readings"][0]["weight"] == 1
    assert report.best is None
    held = report.held_out
    assert held is not None
    assert (held.outcome, held.queries, held.gained, held.lost) == (Outcome.BETTER, 29, 25, 4)
    assert (held.before, held.after) == pytest.approx((report.before, report.offered.mean))
    assert report.said.startswith("The gain holds: on 29 queries held out ndcg@10 goes from 0.682 to 0.949")
    assert [(one.queries, one.changes) for one in report.folds] == [(6, ["title weight 3 to 1"])] * 4 + [
        (5, ["title weight 3 to 1"])
    ]


def test_each_knob_is_told_around_the_finding_with_what_it_is_worth(shore: Workbench):
    report = tuned(shore, WEIGHT, "readings.title.b=0,0.75")
    weight, b = report.knobs
    assert (weight.name, weight.values, weight.standing, weight.chosen) == ("title weight", [0.5, 1, 3, 6], 2, 1)
    assert weight.loses == pytest.approx(report.offered.mean - report.before)
    assert weight.means[weight.standing] == pytest.approx(report.before)
    assert weight.as_good == [0, 1]
    assert (b.standing, b.chosen, b.loses, b.as_good) == (1, 1, 0.0, [0, 1])
    assert report.surface is not None
    assert report.surface.row_values == [0.5, 1, 3, 6]
    assert report.surface.means[1][1] == pytest.approx(report.offered.mean)
    page = tuning_page(report)
    assert "| title weight | 3 | 1 |" in page
    assert "| title b | 0.75 | unchanged | 0 to 0.75 |" in page


def test_the_surface_is_of_the_two_knobs_that_matter_most(shore: Workbench):
    report = tuned(shore, "readings.title.b=0,0.75", WEIGHT, "readings.text.weight=0.5,1,9")
    assert report.surface is not None
    assert (report.surface.rows, report.surface.columns) == (1, 2)
    assert [one.name for one in report.knobs] == ["title b", "title weight", "text weight"]


def test_a_rail_about_a_tag_keeps_names_from_losing(shore: Workbench):
    report = tuned(shore, WEIGHT, rails=["tag:name ndcg@10 may not drop"])
    assert report.offered.changes == []
    assert report.said.startswith("Leave it as it is")
    assert outcome_said(report) == "left as it is"
    assert [one.holds for one in report.rails] == [True]
    lenient = tuned(shore, WEIGHT, rails=["tag:name ndcg@10 may not drop more than 0.37"])
    assert [one.after for one in lenient.offered.changes] == ["1"]
    strict = tuned(shore, WEIGHT, rails=["each query ndcg@10 may not drop more than 0.369"])
    assert strict.offered.changes == []


def test_a_rail_about_size_leaves_out_a_chain_with_a_larger_index(shore: Workbench):
    chains = "readings.text.chain=words > lower | words > lower > prefixes(1, 9)"
    by_judged = {"measures": [WeighedMeasure(measure="rr")], "way": Way.GRID}
    within = tuned(shore, WEIGHT, chains, rails=["index at most 1x"], **by_judged)
    chain = within.knobs[1]
    assert (chain.name, chain.ordered) == ("text chain", False)
    assert chain.means[1] is None
    both = tuned(shore, WEIGHT, chains, rails=["index at most 9x", "time at most 60 s"], **by_judged)
    assert both.knobs[1].means[1] is not None


def test_measures_are_weighed_together(shore: Workbench):
    both = tuned(shore, WEIGHT, measures=[WeighedMeasure(measure="rr", weight=3), WeighedMeasure(measure="success@1")])
    assert both.measure == "3 × rr + success@1"
    # rr of rank 2 is a half, success@1 nothing.
    assert both.before == pytest.approx((25 * (3 * 0.5 + 0) + 4 * 4) / 4 / 29)


def test_without_knobs_the_usual_ones_are_tuned(shore: Workbench):
    report = tuned(shore, seconds=60)
    assert [one.name for one in report.knobs][:4] == ["title weight", "title b", "title k1", "text weight"]
    assert report.offered.mean > report.before


def test_every_way_to_search_finds_it(shore: Workbench):
    for way in Way:
        assert tuned(shore, WEIGHT, way=way, most=40).offered.mean > 0.9, way


def test_locked_queries_are_never_looked_at(shore: Workbench, monkeypatch: pytest.MonkeyPatch):
    put_judged_set(
        shore,
        "shore",
        "half-locked",
        queries_in(lines([{"query_id": word, "query": word} for word in WORDS]), "the queries"),
        judgments_in("".join(f"{word} 0 {word}-text 3\n" for word in WORDS), "the grades"),
        locked_share=0.4,
    )
    report = tuning.tune_now(shore, "shore", "half-locked", plan(WEIGHT))
    assert report.queries == 15


def test_variants_of_one_need_are_held_out_together(shore: Workbench):
    queries = [{"query_id": f"{word}{n}", "query": word, "need": f"What {word[:2]} is"} for word in WORDS for n in "ab"]
    put_judged_set(
        shore,
        "shore",
        "variants",
        queries_in(lines(queries), "the queries"),
        judgments_in("".join(f"{one['query_id']} 0 {one['query']}-text 3\n" for one in queries), "the grades"),
        locked_share=0,
    )
    report = tuning.tune_now(shore, "shore", "variants", plan(WEIGHT, folds=10))
    # Five needs, ten queries each: there are no more folds than needs.
    assert [one.queries for one in report.folds] == [10] * 5


@pytest.mark.parametrize(
    ("knobs", "says"),
    [
        (["readings.titel.weight=0..3"], r'nothing at "readings.titel.weight". Its readings: title, text.'),
        (["readings[7].weight=0..3"], r'nothing at "readings\[7\]"'),
        (["combine.how=sum,loudest"], "combine.how"),
        (["readings[0].b=0..2"], "less than or equal to 1"),
        ([WEIGHT, "readings[0].weight=0..3"], "is named twice"),
        (["readings[0].weight=3"], "nothing to tune"),
    ],
)
def test_what_cannot_be_tuned_is_said_before_anything_is_tried(shore: Workbench, knobs: list[str], says: str):
    with pytest.raises(BadInput) as refused:
        tuning.begin(shore, "shore", "asked", plan(*knobs), by_server=False)
    assert re.search(says, f"{refused.value} {refused.value.problems}")


def test_rails_that_cannot_be_asked_and_sets_without_grades_are_refused(shore: Workbench):
    with pytest.raises(BadInput, match='no open query has the tag "codes"'):
        tuning.begin(shore, "shore", "asked", plan(WEIGHT, rails=["tag:codes rr may not drop"]), by_server=False)
    with pytest.raises(BadInput, match="expectations"):
        tuning.begin(shore, "shore", "asked", plan(WEIGHT, rails=["may not drop"]), by_server=False)
    put_judged_set(shore, "shore", "bare", queries_in("1\tfog\n2\tbell\n", "the queries"), None, locked_share=0)
    with pytest.raises(BadInput, match='No open query of "bare" is judged yet'):
        tuning.begin(shore, "shore", "bare", plan(WEIGHT), by_server=False)
    with pytest.raises(NotFound):
        tuning.begin(shore, "shore", "nobody", plan(WEIGHT), by_server=False)


def test_a_tuning_that_was_cut_off_goes_on_from_what_it_had_found_out(
    shore: Workbench, monkeypatch: pytest.MonkeyPatch
):
    wanted = plan(WEIGHT, "readings.title.b=0,0.75")
    whole = tuning.tune_now(shore, "shore", "asked", wanted)
    job_id = tuning.begin(shore, "shore", "asked", wanted, by_server=True)
    measured: list[int] = []
    real = SettingValues._measure  # pyright: ignore[reportPrivateUsage]

    def cut_off(self: SettingValues, settings: Any) -> None:
        if measured:
            raise ConnectionResetError
        real(self, settings)
        measured.append(len(settings))

    monkeypatch.setattr(SettingValues, "_measure", cut_off)
    with monkeypatch.context() as context:
        # As if the process had died: nothing says how it ended.
        context.setattr("pale_harbor.work.running.worker._end", nobody_says)
        with pytest.raises(ConnectionResetError):
            do_job(shore.pool, job_id, tuning.tunings_done(shore))
    with shore.pool.connection() as connection:
        assert len(trials_of(connection, job_id)) == measured[0]
    counted: list[int] = []

    def count(self: SettingValues, settings: Any) -> None:
        counted.append(len(settings))
        real(self, settings)

    monkeypatch.setattr(SettingValues, "_measure", count)
    do_job(shore.pool, job_id, tuning.tunings_done(shore))
    again = tuning.told(shore, "shore", job_id).report
    assert again is not None
    assert sum(counted) == whole.tried - measured[0]
    assert (again.offered, again.folds, again.knobs) == (whole.offered, whole.folds, whole.knobs)
    # How good the best was before it was cut off is known too.
    told = tuning.told(shore, "shore", job_id)
    assert told.found[0] == (1, whole.before)
    assert told.found[-1][1] == pytest.approx(whole.offered.mean)


def test_what_was_found_out_on_other_judgments_is_not_taken_up(shore: Workbench, monkeypatch: pytest.MonkeyPatch):
    from pale_harbor.store.tuning.trials import Trial, add_trials, note_details

    job_id = tuning.begin(shore, "shore", "asked", plan(WEIGHT), by_server=False)
    with shore.pool.connection() as connection:
        add_trials(connection, job_id, 0, [Trial([0], [1.0], 0)])
        note_details(connection, job_id, {"of": [0, 0, ""]})
    do_job(shore.pool, job_id, tuning.tunings_done(shore))
    told = tuning.told(shore, "shore", job_id)
    assert told.report is not None
    assert told.report.tried == 4
    assert told.said == "held out 0.682 to 0.949, better"


def test_a_tuning_that_is_stopped_keeps_what_it_has(shore: Workbench):
    job_id = tuning.begin(shore, "shore", "asked", plan(WEIGHT), by_server=False)
    assert tuning.told(shore, "shore", job_id).state == "waiting"
    tuning.stop(shore, "shore", job_id)
    do_job(shore.pool, job_id, tuning.tunings_done(shore))
    report = tuning.told(shore, "shore", job_id).report
    assert report is not None
    assert report.ended == "it was stopped"
    assert report.held_out is None
    assert report.folds == []


def test_a_tuning_ends_when_its_time_is_over(shore: Workbench):
    report = tuned(shore, seconds=1, way=Way.RANDOM, most=20_000)
    assert report.ended == "its 1 s were over"
    assert report.held_out is not None


def test_a_tuning_that_nobody_wants_is_ended_and_one_that_ended_is_forgotten(shore: Workbench):
    job_id = tuning.begin(shore, "shore", "asked", plan(WEIGHT), by_server=False)
    with shore.pool.connection() as connection:
        note_progress(connection, job_id, "on all queries", 0, 0)
    tuning.forget(shore, "shore", job_id)
    with pytest.raises(Cancelled):
        do_job(shore.pool, job_id, tuning.tunings_done(shore))
    assert tuning.told(shore, "shore", job_id).state == "cancelled"
    tuning.forget(shore, "shore", job_id)
    with pytest.raises(NotFound, match="has no tuning"):
        tuning.told(shore, "shore", job_id)


def test_where_nothing_keeps_the_rails_that_is_said_and_nothing_is_offered(shore: Workbench):
    report = tuned(shore, WEIGHT, rails=["ndcg@10 >= 0.99"])
    assert report.offered.changes == []
    assert report.said.startswith("No setting that was tried keeps every guard rail")
    assert [one.holds for one in report.rails] == [False]
    within = tuned(shore, WEIGHT, rails=["ndcg@10 >= 0.94"])
    assert [one.after for one in within.offered.changes] == ["1"]


def test_a_gain_is_held_against_how_many_tunings_looked_for_one(shore: Workbench):
    put_judged_set(
        shore,
        "shore",
        "twice",
        queries_in(lines([{"query_id": word, "query": word} for word in WORDS]), "the queries"),
        judgments_in("".join(f"{word} 0 {word}-text 3\n" for word in WORDS), "the grades"),
        locked_share=0,
    )
    first, second = (tuning.tune_now(shore, "shore", "twice", plan(WEIGHT)).held_out for _ in range(2))
    assert first is not None
    assert second is not None
    assert (first.tries, second.tries) == (1, 2)
    assert first.by_luck == pytest.approx(first.p_value)
    assert second.by_luck == pytest.approx(1 - (1 - second.p_value) ** 2)


def test_a_tuning_of_other_judgments_or_rules_says_so(shore: Workbench):
    def judge(words: list[str]) -> None:
        put_judged_set(
            shore,
            "shore",
            "changing",
            queries_in(lines([{"query_id": word, "query": word} for word in WORDS]), "the queries"),
            judgments_in("".join(f"{word} 0 {word}-text {3 * (word in words)}\n" for word in WORDS), "the grades"),
            locked_share=0,
        )

    judge(WORDS[1:])
    # What nothing answers counts by the usual rule, and is left out by this one.
    usual = tuning.tune_now(shore, "shore", "changing", plan(WEIGHT))
    job_id = tuning.begin(
        shore, "shore", "changing", plan(WEIGHT, without_relevant="left_out", ties="worst_first"), by_server=False
    )
    do_job(shore.pool, job_id, tuning.tunings_done(shore))
    told = tuning.told(shore, "shore", job_id)
    assert told.is_current
    assert told.report is not None
    assert (told.report.queries, usual.queries) == (24, 25)
    assert told.plan.rules.ties is Ties.WORST_FIRST
    judge(WORDS)
    assert not tuning.told(shore, "shore", job_id).is_current


def test_the_default_ranker_is_tuned_by_the_name_that_it_has_now(shore: Workbench):
    job_id = tuning.begin(shore, "shore", "asked", TuningPlan(knobs=[tuned_knob(WEIGHT)]), by_server=False)
    told = tuning.told(shore, "shore", job_id)
    assert (told.plan.ranker, told.plan.version) == ("plain", 1)
    tuning.stop(shore, "shore", job_id)
    do_job(shore.pool, job_id, tuning.tunings_done(shore))


def test_a_search_of_single_settings_ends_amid_a_batch_when_time_is_over(shore: Workbench):
    # Fed back: no sheet gives such a list, so each setting is searched for.
    document = ranker_document(
        {
            "readings": [
                {"field": "title", "chain": "words > lower", "weight": 3},
                {"field": "text", "chain": "words > lower"},
            ],
            "feedback": {"records": 3},
        }
    )
    report = tuned(shore, "readings.title.weight=0..10/0.1", document=document, seconds=1)
    assert report.ended == "its 1 s were over"
    assert 1 < report.tried < 101


def test_only_the_last_thirty_tunings_are_kept(shore: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(tuning, "_KEPT", 3)
    made: list[int] = []
    for _ in range(5):
        made.append(tuning.begin(shore, "shore", "asked", plan(WEIGHT), by_server=False))
        with shore.pool.connection() as connection:
            want_cancel(connection, made[-1])
        with pytest.raises(Cancelled):
            do_job(shore.pool, made[-1], tuning.tunings_done(shore))
    assert [one.id for one in tuning.all_told(shore, "shore")] == made[:1:-1]
    with shore.pool.connection() as connection, pytest.raises(NotFound):
        job_with_id(connection, made[0])


def test_a_report_of_another_version_is_said_to_be_one(shore: Workbench):
    job_id = tuning.begin(shore, "shore", "asked", plan(WEIGHT), by_server=False)
    do_job(shore.pool, job_id, tuning.tunings_done(shore))
    with shore.pool.connection() as connection:
        connection.execute("""update jobs set report = '{"before": 1}' where id = %s""", [job_id])
    told = tuning.told(shore, "shore", job_id)
    assert told.report is None
    assert told.problem == "Its report is of another version of the program, which this one cannot read."


def test_the_usual_knobs_fit_the_ranker():
    def places(document: dict[str, Any]) -> list[str]:
        return [one.name for one in dials_of(ranker_document(document), None)]

    one = {"field": "title", "chain": "words"}
    assert places({"readings": [one]}) == ["readings[0].b", "readings[0].k1"]
    two = [one, {**one, "field": "text", "nearness": {}}, {**one, "field": "old", "weight": 0}]
    assert places({"readings": two}) == [
        *("readings[0].weight", "readings[0].b", "readings[0].k1"),
        *("readings[1].weight", "readings[1].b", "readings[1].k1", "readings[1].nearness.weight", "combine.how"),
    ]
    pooled = places({"readings": two[:1] * 1 + two[1:], "combine": {"how": "pooled"}})
    assert "combine.k1" in pooled
    assert "combine.how" not in pooled
    assert "readings[0].k1" not in pooled
    blended = {
        "readings": [one],
        "spaces": [{"space": "everyday"}, {"space": "house"}],
        "kinds": [{"name": "code", "when": {"pattern": "\\d"}, "blend": {"how": "fill_up"}}],
        "signals": [{"field": "asked", "shape": "log"}],
    }
    assert places(blended)[2:] == ["signals[0].weight", "spaces[0].weight", "spaces[1].weight", "blend.meaning"]


def test_ranges_end_where_they_say_and_have_a_hundred_and_one_values_at_most():
    assert tuned_knob("a.b=0..1").numbers == [n / 16 for n in range(17)]
    assert tuned_knob("a.b=0..1/0.4").numbers == [0.0, 0.4, 0.8, 1]
    assert len(tuned_knob("a.b=0..100/1").numbers) == 101
    with pytest.raises(BadInput, match="are 102 values: 101 at most"):
        _ = tuned_knob("a.b=0..101/1").numbers
    with pytest.raises(BadInput, match="is no knob"):
        tuned_knob("weight")
    with pytest.raises(BadInput, match="from the less to the more"):
        tuned_knob("a.b=3..3")
    with pytest.raises(ValueError, match="takes values, or a range"):
        TunedKnob(path=["a"])
    with pytest.raises(BadInput, match="102 values; 101 at most"):
        tuned_knob("a.b=" + ",".join(map(str, range(102))))


def test_a_reports_page_is_written_to_a_file(shore: Workbench, tmp_path: Path):
    page = tuning_page(tuned(shore, WEIGHT, rails=["rr >= 0"]))
    assert page.startswith("# plain:1 tuned on asked of shore")
    assert "- rr >= 0: kept" in page.replace("\\", "")


def test_on_shuffled_grades_no_gain_is_reported_in_nineteen_of_twenty_runs(shore: Workbench):
    """Which of a query's two records is good is drawn by lot: titles and texts are right equally often."""
    told: list[bool] = []
    for seed in range(20):
        lot = random.Random(seed)
        name = f"shuffled-{seed}"
        good = {word: lot.choice(["text", "title"]) for word in WORDS}
        put_judged_set(
            shore,
            "shore",
            name,
            queries_in(lines([{"query_id": word, "query": word} for word in WORDS]), "the queries"),
            judgments_in("".join(f"{word} 0 {word}-{field} 3\n" for word, field in good.items()), "the grades"),
            locked_share=0,
        )
        plan = TuningPlan(
            ranker="plain",
            knobs=[tuned_knob("readings.title.weight=0.2,1,3"), tuned_knob("readings.text.weight=0.2,1,3")],
            measures=[WeighedMeasure(measure="rr")],
            way=Way.GRID,
            seed=seed,
        )
        report = tuning.tune_now(shore, "shore", name, plan)
        told.append(report.held_out is not None and report.held_out.outcome is Outcome.BETTER)
    assert sum(told) <= 1
