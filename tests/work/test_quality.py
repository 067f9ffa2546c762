"""Quality over time: every kept version by the judgments of today, and the checks that were made."""

from pathlib import Path

import pytest

from pale_harbor.core.guard.rule import guard_rule
from pale_harbor.core.measures import measure
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.measuring import checks
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.measuring import quality
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.measuring.guarding import guarded
from pale_harbor.work.measuring.measuring import How, measure_ranker
from pale_harbor.work.measuring.quality import QualityTold, quality_over_time
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

RR = measure("rr")
ROWS = [
    {"id": "a", "title": "Fog bell", "text": "lamp"},
    {"id": "b", "title": "Lamp", "text": "fog bell bell"},
    {"id": "c", "title": "Bell lamp of the quay", "text": "quay"},
]
QUERIES = """{"query_id": "q1", "query": "bell"}
{"query_id": "q2", "query": "lamp"}
{"query_id": "q3", "query": "quay"}
"""
GRADES = "q1 0 b 3\nq2 0 b 3\nq3 0 c 3\n"


def reading(field: str) -> dict[str, str]:
    return {"field": field, "chain": "words > lower"}


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    put_judged_set(
        bench, "coast", "own", queries_in(QUERIES, "queries"), judgments_in(GRADES, "grades"), locked_share=0
    )
    bench.put_ranker("coast", "one", ranker_document({"readings": [reading("text")]}), "texts first")
    bench.put_ranker("coast", "other", ranker_document({"readings": [reading("title")]}))
    bench.put_ranker("coast", "one", ranker_document({"readings": [reading("title")]}), "titles are better")
    return bench


def told(coast: Workbench) -> QualityTold:
    return quality_over_time(coast, "coast", "own", RR)


def test_versions_stand_in_the_order_in_which_they_were_kept_each_against_the_one_before(coast: Workbench):
    own = [one for one in told(coast).versions if one.ranker != "start"]
    assert [(one.ranker, one.version, one.note) for one in own] == [
        ("one", 1, "texts first"),
        ("other", 1, ""),
        ("one", 2, "titles are better"),
    ]
    # By texts: the bell is found first, the lamp not at all; by titles the other way round. The quay is found by both.
    assert [(one.gained, one.lost) for one in own] == [(None, None), (None, None), (1, 1)]
    for one in own:
        again = measure_ranker(coast, "coast", RankerChoice(one.ranker, one.version), "own", [RR])
        assert one.mean == again.measured.means["rr"]


def test_judgments_of_today_count_for_old_versions_too(coast: Workbench):
    before = {(one.ranker, one.version): one.mean for one in told(coast).versions}
    more = judgments_in(GRADES + "q1 0 c 3\nq2 0 a 3\n", "grades")
    put_judged_set(coast, "coast", "own", queries_in(QUERIES, "queries"), more, locked_share=0)
    after = {(one.ranker, one.version): one.mean for one in told(coast).versions}
    assert after["one", 1] != before["one", 1]


def test_a_version_that_cannot_be_asked_any_more_says_why_and_is_passed_over(coast: Workbench, tmp_path: Path):
    gone = ranker_document({"readings": [reading("title")], "filters": [{"field": "title", "one_of": ["Lamp"]}]})
    coast.put_ranker("coast", "one", gone)
    with coast.pool.connection() as connection:
        connection.execute("update rankers set document = %s where name = 'one' and version = 3", ['{"readings": []}'])
    coast.put_ranker("coast", "one", ranker_document({"readings": [reading("text")]}))
    own = [one for one in told(coast).versions if one.ranker == "one"]
    assert own[2].mean is None
    assert own[2].problem
    # The fourth is held against the second.
    assert (own[3].gained, own[3].lost) == (1, 1)


def test_only_the_newest_versions_are_told_and_the_others_counted(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    everything = told(coast)
    monkeypatch.setattr(quality, "MOST_VERSIONS", 2)
    newest = told(coast)
    assert newest.versions[-1].note == everything.versions[-1].note
    assert (len(newest.versions), newest.older) == (2, len(everything.versions) - 2)


def test_checks_are_kept_the_newest_first_and_the_oldest_go(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(checks, "MOST_KEPT", 2)
    for rule in ("rr >= 0", "rr > 1", "rr <= 1"):
        side = RankerSide(RankerChoice("one", 1))
        guarded(coast, "coast", "own", side, None, [guard_rule(rule)], How())
    kept = told(coast).checks
    assert [(one.ranker, one.against, one.holds) for one in kept] == [("one:1", None, True), ("one:1", None, False)]
    assert [one.rules[0]["text"] for one in kept] == ["rr <= 1", "rr > 1"]
    assert kept[0].rules[0]["found"]
