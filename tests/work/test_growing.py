"""A collection as it would be with more records: what is told is made of what is there, and nothing of it stays."""

from pathlib import Path

import pytest

from pale_harbor.core.measures import measure
from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.growing.estimating import Times, begin_growth, estimate_times, growth_now, growths_told
from pale_harbor.work.growing.grown import grown_collection, with_living
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.measuring.measuring import How, measure_ranker
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import answer, ask
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS = [
    {"id": f"r{number:02d}", "title": f"{what} {number}", "asked": number % 7}
    for number, what in enumerate(["brass lamp", "oak chest", "lamp oil", "chart of the bay", "bell"] * 8)
]
QUERIES = "1\tlamp\n2\tchest\n3\tnothing like it\n"
GRADES = "1 0 r00 3\n1 0 r02 2\n1 0 r05 1\n2 0 r01 3\n2 0 r06 2\n"


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    put_judged_set(bench, "coast", "visitors", queries_in(QUERIES, "queries"), judgments_in(GRADES, "grades"))
    return bench


def test_every_figure_of_now_is_what_is_there(coast: Workbench):
    told = growth_now(coast, "coast", "visitors", RankerPlan())
    assert told.state == "done"
    assert told.estimate is not None
    now, *further = told.estimate.sizes
    assert (now.times, now.records) == (1, len(ROWS))
    assert [one.times for one in further] == [10, 100, 1_000]
    measured = measure_ranker(coast, "coast", RankerChoice(), "visitors", [measure("ndcg@10")], How())
    assert now.value == pytest.approx(measured.measured.means["ndcg@10"])
    assert [one.records for one in further] == [10 * len(ROWS), 100 * len(ROWS), 1_000 * len(ROWS)]
    assert now.index_bytes < further[0].index_bytes < further[1].index_bytes
    assert [len(one.values) for one in told.estimate.subsamples][-1] == 1
    assert told.estimate.subsamples[-1].records == len(ROWS)


def test_nothing_that_was_made_for_it_stays(coast: Workbench):
    growth_now(coast, "coast", "visitors", RankerPlan())
    left = [one.name for one in Path(coast.index_folder).glob("*/*") if "growing" in one.name]
    assert left == []


def test_a_made_up_collection_holds_every_record_as_often(coast: Workbench):
    def work(opened: OpenCollection) -> tuple[int, int, list[float], list[float]]:
        ranker = coast.choose(opened.collection, RankerChoice()).ranker
        with grown_collection(opened, ranker, 3) as grown:
            one = answer(opened, ask(opened, ranker, Question("lamp")), 100)
            three = answer(grown, ask(grown, ranker, Question("lamp")), 100)
        return one.records, three.records, [row.score for row in one.rows], [row.score for row in three.rows]

    once, thrice, scores, more = coast.with_collection("coast", work)
    assert thrice == 3 * once > 0
    # A word is as rare as before, so the order of scores is the same, each as often.
    assert len(more) == 3 * len(scores)
    assert len({round(score, 9) for score in more}) == len({round(score, 9) for score in scores})


def test_a_part_of_the_records_is_searched_as_if_there_were_no_others(coast: Workbench):
    def work(opened: OpenCollection) -> tuple[set[str], int]:
        ranker = coast.choose(opened.collection, RankerChoice()).ranker
        masks = [
            live.living_mask & [number % 2 == 0 for number in range(live.slab.record_count)] for live in opened.slabs
        ]
        part = with_living(opened, masks)
        found = answer(part, ask(part, ranker, Question("lamp")), 100)
        return set(part.keys_of(found.rows)), part.record_count

    keys, count = coast.with_collection("coast", work)
    assert count == len(ROWS) // 2
    assert keys == {row["id"] for row in ROWS[::2] if "lamp" in str(row["title"])}


def test_without_judgments_nothing_is_told(coast: Workbench):
    put_judged_set(coast, "coast", "bare", queries_in("1\tlamp\n", "queries"), [])
    with pytest.raises(BadInput, match="judged yet"):
        begin_growth(coast, "coast", "bare", RankerPlan(), by_server=False)


def test_an_estimate_is_kept_and_says_when_it_is_no_longer_of_now(coast: Workbench, tmp_path: Path):
    growth_now(coast, "coast", "visitors", RankerPlan())
    assert growths_told(coast, "coast")[0].is_current
    load_rows(coast.pool, tmp_path, [{"id": "r99", "title": "a new lamp", "asked": 1}])
    assert not growths_told(coast, "coast")[0].is_current


def of(value: float) -> Times:
    return Times(*[value] * 6)


def test_times_between_and_beyond_what_was_measured_lie_on_a_line():
    known = {1: of(1.0), 10: of(2.8), 100: of(20.8)}
    assert estimate_times(10, known).all_p50 == 2.8
    assert estimate_times(55, known).all_p50 == pytest.approx(11.8)
    assert estimate_times(1_000, known).all_p50 == pytest.approx(200.8)


def test_of_one_point_times_grow_as_records_do():
    assert estimate_times(10, {1: of(0.5)}).ranking_p95 == pytest.approx(5.0)


def test_times_never_fall():
    assert estimate_times(100, {1: of(3.0), 10: of(2.0)}).all_p95 == 2.0
