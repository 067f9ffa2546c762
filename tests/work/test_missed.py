"""What a ranker misses of a judged set: every good record that is not high enough, with its reason."""

from pathlib import Path

import pytest

from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.measuring.missed import MissedOfQuery, missed_by
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.near_words import WordAround, words_around
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS = [
    {"id": "a", "title": "Fog bell of the harbor", "place": "quay"},
    {"id": "b", "title": "Fog horn", "place": "quay"},
    {"id": "c", "title": "Bell buoy", "place": "sound"},
    {"id": "d", "title": "Lamp", "place": "rock"},
    {"id": "e", "title": "Fog bell", "place": "sound"},
]
HOLDS = "It holds 1 of 2 words of the query"
READING = {"field": "title", "chain": "words > lower", "weight": 1}


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    bench.put_ranker("coast", "own", ranker_document({"readings": [READING], "need": "all"}))
    (tmp_path / "queries").write_text("q1\tfog bell\nq2\tlamp\nq3\tnothing\n")
    (tmp_path / "grades").write_text(
        "q1 0 a 3\nq1 0 b 1\nq1 0 c 2\nq1 0 e 3\nq1 0 gone 1\nq1 0 d 0\nq2 0 d 3\nq3 0 a 0\n"
    )
    load_judged_set(bench, "coast", "visitors", tmp_path / "queries", tmp_path / "grades")
    return bench


def missed(coast: Workbench, depth: int, *, need: str = "all", ids: list[str] | None = None) -> list[MissedOfQuery]:
    document = ranker_document({"readings": [READING], "need": need})
    return missed_by(coast, "coast", RankerChoice(document=document), "visitors", depth, ids).queries


def test_each_missed_record_has_its_reason_and_the_best_come_first(coast: Workbench):
    fog, lamp = missed(coast, 10)
    assert (fog.good, fog.found, fog.above, fog.recall) == (5, 2, 2, 0.4)
    assert [(one.key, one.title, one.grade, one.rank, one.reason) for one in fog.records] == [
        (
            "c",
            "Bell buoy",
            2,
            None,
            f"{HOLDS} (bell), and that is not enough. It lacks “fog”.",
        ),
        (
            "b",
            "Fog horn",
            1,
            None,
            f"{HOLDS} (fog), and that is not enough. It lacks “bell”.",
        ),
        ("gone", "gone", 1, None, "There is no such record any more."),
    ]
    assert (lamp.recall, lamp.records) == (1.0, [])


def test_what_is_found_below_the_depth_is_missed_too(coast: Workbench):
    first, second, third = (missed(coast, depth, need="any", ids=["q1"])[0] for depth in (1, 2, 3))
    assert [one.key for one in first.records] == ["a", "c", "b", "gone"]
    assert (first.records[0].rank, first.records[0].reason) == (2, "Outranked, though it holds every word.")
    assert (first.records[2].rank, first.records[2].reason) == (3, "Outranked. It lacks “bell”.")
    assert [one.key for one in second.records] == ["c", "b", "gone"]
    assert [(one.key, one.rank) for one in third.records] == [("c", 4), ("gone", None)]
    assert (first.above, second.above, third.above, first.found) == (1, 2, 3, 4)


def test_a_query_of_another_set_or_without_a_good_record_is_not_told(coast: Workbench):
    assert [one.query_id for one in missed(coast, 10)] == ["q1", "q2"]
    with pytest.raises(NotFound, match='"visitors" has no open query "q9"'):
        missed(coast, 10, ids=["q1", "q9"])


@pytest.mark.parametrize(("most", "fewest", "told"), [(9, 1, 3), (8, 1, 2), (6, 1, 2), (5, 1, 1), (0, 2, 2), (0, 5, 3)])
def test_reasons_are_shared_out_among_the_queries_and_the_others_counted(
    coast: Workbench, monkeypatch: pytest.MonkeyPatch, most: int, fewest: int, told: int
):
    monkeypatch.setattr("pale_harbor.work.measuring.missed.MOST_EXPLAINED", most)
    monkeypatch.setattr("pale_harbor.work.measuring.missed.FEWEST_EXPLAINED", fewest)
    (fog, _) = missed(coast, 10)
    assert [one.key for one in fog.records] == ["c", "b", "gone"][:told]
    assert fog.unexplained == 3 - told


def around(coast: Workbench, query: str, spelling: object, **reading: object) -> list[WordAround]:
    document = ranker_document({"readings": [READING | reading], "need": "any", "spelling": spelling})

    def work(opened: OpenCollection) -> list[WordAround]:
        return words_around(
            opened, coast.choose(opened.collection, RankerChoice(document=document)).ranker, Question(query)
        )

    return coast.with_collection("coast", work)


def test_the_terms_around_a_word_say_which_of_them_slack_takes(coast: Workbench):
    (word,) = around(coast, "bel", {"edits": 1, "when": "always", "worth": 0.5})
    assert (word.term, word.field, word.holding, word.more) == ("bel", "title", 0, 0)
    assert [(one.around.text, one.around.edits, one.around.holding, one.worth) for one in word.near] == [
        ("bell", 1, 3, 0.5),
    ]
    (word,) = around(coast, "bell", {"edits": 0, "similar": 0.9, "when": "always"})
    assert (word.holding, [(one.around.text, one.worth) for one in word.near]) == (3, [])
    (word,) = around(coast, "fogs", {"edits": 0, "similar": 0.58, "when": "always"})
    assert [(one.around.text, one.worth) for one in word.near] == [("fog", None)]
    (word,) = around(coast, "fogs", {"edits": 0, "similar": 0.57, "when": "always"})
    assert word.near[0].around.similarity == pytest.approx(4 / 7)
    assert [(one.around.text, one.worth is not None) for one in word.near] == [("fog", True)]


def test_without_slack_nothing_is_taken_and_what_is_near_is_told_all_the_same(coast: Workbench):
    (word,) = around(coast, "fogs", None)
    assert [(one.around.text, one.worth) for one in word.near] == [("fog", None)]
    assert around(coast, "fogs", {"edits": 1}, slack=False) == []
    assert around(coast, "fogs", {"edits": 1}, share=0.5) == []
