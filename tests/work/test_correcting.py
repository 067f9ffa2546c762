"""Corrections of a collection: when one is told, when it is taken, and what it does."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.measures import measure
from pale_harbor.core.simulating.slips import SlipKind
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.measuring.corrections import SURE, CorrectionsMeasured, measure_corrections
from pale_harbor.work.measuring.measuring import measure_ranker
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.past_queries import load_past_queries
from pale_harbor.work.ranking.searching import Found, find
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS = [
    *({"id": f"a{i}", "title": "Lighthouse lamp", "notes": "lighthouse keeper, his lamp"} for i in range(6)),
    *({"id": f"b{i}", "title": "Sextant", "notes": "a sextant of brass"} for i in range(6)),
    {"id": "c", "title": "Light for a house", "notes": "SM-1904"},
    {"id": "d", "title": "Størmer", "notes": "harpoons"},
    *({"id": f"e{i}", "title": "Tide board", "notes": "the board of the tide"} for i in range(4)),
]
READING = {"field": "title", "chain": "words > lower > accents > stem(en)"}
NOTES = {"field": "notes", "chain": "words > lower > accents > stem(en)"}
Search = Callable[..., Found]
RECALL = measure("recall@10")


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    return bench


@pytest.fixture
def search(coast: Workbench) -> Search:
    def asked(query: str, parts: dict[str, Any] | None = None, as_said: bool = False, **corrections: Any) -> Found:
        document = ranker_document({"readings": [READING, NOTES], "corrections": corrections} | (parts or {}))

        def work(opened: Any) -> Found:
            chosen = coast.choose(opened.collection, RankerChoice(document=document))
            return find(opened, chosen.ranker, Question(query, as_said=as_said), 10)

        return coast.with_collection("coast", work)

    return asked


def told(found: Found) -> str | None:
    return None if found.did_you_mean is None else found.did_you_mean.query


def test_a_slip_is_told_with_what_the_other_query_would_find(search: Search):
    found = search("sextent")
    assert found.matched == 0
    meant = found.did_you_mean
    assert meant is not None
    assert (meant.query, meant.found, meant.finds, meant.taken) == ("sextant", 0, 6, False)
    (change,) = meant.changes
    assert (change.start, change.end, change.said, change.meant) == (0, 7, "sextent", "sextant")


def test_without_the_part_nothing_is_told(search: Search):
    assert search("sextent", {"corrections": None}).did_you_mean is None


@pytest.mark.parametrize(
    "query",
    [
        "lighthouse lamps",  # an inflection that no record holds
        "harpoon",
        "stormer",  # without its accent
        "sm-1904",
        "1905",
        '"sextent"',
        "title:sextent",
        "sext*",
        "-sextent lamp",
        "zzyzx",
        "",
        "?",
    ],
)
def test_what_is_right_or_none_of_its_business_stays(search: Search, query: str):
    assert told(search(query)) is None


def test_the_rest_of_the_query_stays_as_it_was_typed(search: Search):
    assert told(search('Sextent  "Lamp" -brass')) == 'sextant  "Lamp" -brass'


@pytest.mark.parametrize(("more", "is_told"), [(6.0, True), (6.5, False)])
def test_words_that_records_hold_are_joined_only_for_clearly_more(search: Search, more: float, is_told: bool):
    # One record holds both words, six the joined one.
    found = search("light house", more=more)
    assert (told(found) == "lighthouse") is is_told


@pytest.mark.parametrize(("more", "meant"), [(6.0, "lighthouse lamp"), (6.5, "light house lamp")])
def test_beside_a_slip_held_words_are_joined_for_clearly_more_than_without(
    search: Search, coast: Workbench, tmp_path: Path, more: float, meant: str
):
    # With the slip mended one record holds all words as they were typed, and six the joined one.
    load_rows(coast.pool, tmp_path, [{"id": "c", "title": "Light for a house, a lamp", "notes": None}])
    assert told(search("light house lamq", more=more)) == meant


def test_words_run_together_are_parted(search: Search):
    assert told(search("tideboard")) == "tide board"


@pytest.mark.parametrize(("lamps", "is_told"), [(23, True), (24, False)])
def test_of_more_than_two_dozen_words_nothing_is_said(search: Search, lamps: int, is_told: bool):
    assert (told(search(" ".join(["lamp"] * lamps + ["sextent"]))) is not None) is is_told


def test_it_has_to_be_sure_enough(search: Search):
    sure = search("sextent", sure=0.0).did_you_mean
    assert sure is not None
    assert told(search("sextent", sure=min(1.0, sure.sure))) == "sextant"
    assert told(search("sextent", sure=min(1.0, sure.sure + 1e-6))) is None
    assert told(search("lampf", letters=5)) == "lamp"
    assert told(search("lampf", letters=6)) is None


def test_it_is_taken_only_where_nothing_is_found_and_the_ranker_says_so(search: Search):
    never = search("sextent", take="never")
    assert never.results == []
    taken = search("sextent", take="nothing")
    assert taken.did_you_mean is not None
    assert taken.did_you_mean.taken
    assert taken.did_you_mean.said == "sextent"
    assert [one.key for one in taken.results] == [f"b{i}" for i in range(6)]
    # Something was found: it is told, and not taken.
    some = search("lamp sextent", take="nothing")
    assert some.matched == 6
    assert told(some) == "lamp sextant"
    assert some.did_you_mean is not None
    assert not some.did_you_mean.taken
    # With every word needed nothing was found.
    every = search("lamp sextent", {"need": "all"}, take="nothing")
    assert every.did_you_mean is not None
    assert every.did_you_mean.taken
    # Whoever asks for it has the query as it was typed.
    said = search("sextent", take="nothing", as_said=True)
    assert (said.matched, told(said)) == (0, "sextant")


def test_what_visitors_asked_says_what_is_meant(search: Search, coast: Workbench, tmp_path: Path):
    # Two words are as near, and one of them stands in more records.
    assert told(search("boord", sure=0.0)) == "board"
    load_past_queries(coast, "coast", "lord\t500", "asked")
    assert told(search("boord", sure=0.0)) == "board"
    load_rows(coast.pool, tmp_path, [{"id": "f", "title": "Bord", "notes": None}])
    assert told(search("boord", sure=0.0)) == "board"
    load_past_queries(coast, "coast", "bord\t500", "asked")
    assert told(search("boord", sure=0.0)) == "bord"


def test_records_that_went_teach_no_words(search: Search, coast: Workbench, tmp_path: Path):
    assert told(search("harpons")) == "harpoons"
    load_rows(coast.pool, tmp_path, [{"id": "d", "title": "Størmer", "notes": None}])
    assert told(search("harpons")) is None


@pytest.fixture
def judged(coast: Workbench, tmp_path: Path) -> Workbench:
    (tmp_path / "queries").write_text("q1\tsextent\nq2\tlighthouse lamp\nq3\ttide board\nq4\tgone\n")
    (tmp_path / "grades").write_text("q1 0 b0 3\nq2 0 a0 3\nq3 0 e0 2\n")
    load_judged_set(coast, "coast", "visitors", tmp_path / "queries", tmp_path / "grades")
    return coast


def measured(bench: Workbench, set_name: str | None, **corrections: Any) -> CorrectionsMeasured:
    document = ranker_document({"readings": [READING, NOTES], "corrections": corrections})
    return measure_corrections(bench, "coast", set_name, RankerChoice(document=document), 20)


def test_a_judged_set_is_measured_without_and_with_corrections(judged: Workbench):
    told_of = measured(judged, "visitors")
    (one,) = told_of.queries
    assert (one.query_id, one.correction, one.value, one.is_told, one.right) == ("q1", "sextant", 0.0, True, False)
    assert one.corrected > 0
    assert told_of.compared is not None
    # The query without a judgment is left out.
    assert told_of.compared.queries == 3
    assert told_of.compared.gain == pytest.approx(one.corrected / 3)
    assert told_of.right_changed == 0
    assert [step.sure for step in told_of.steps] == list(SURE)
    assert told_of.steps[0].mean == pytest.approx(told_of.compared.second)
    assert told_of.steps[0].told == 1
    assert [step.mended for step in told_of.steps] == sorted((s.mended for s in told_of.steps), reverse=True)


def test_a_correction_that_is_not_sure_enough_counts_for_nothing(judged: Workbench):
    told_of = measured(judged, "visitors", sure=1.0)
    assert told_of.compared is not None
    assert told_of.compared.gain == 0 or told_of.queries[0].sure == 1.0


def test_slips_are_made_up_without_a_set(judged: Workbench):
    told_of = measured(judged, None)
    assert told_of.compared is None
    assert told_of.queries == []
    assert sum(one.made for one in told_of.slips) == 20
    assert SlipKind.RIGHT not in {one.kind for one in told_of.slips}
    assert told_of.right_touched == 0 < told_of.right_made


def test_measuring_takes_corrections_as_a_search_does(judged: Workbench):
    def value(take: str) -> float:
        document = ranker_document({"readings": [READING, NOTES], "corrections": {"take": take}})
        choice = RankerChoice(document=document)
        return measure_ranker(judged, "coast", choice, "visitors", [RECALL]).figures.measured.per_query["q1"][
            RECALL.name
        ]

    assert value("never") == 0.0
    assert value("nothing") == 1.0


def test_measured_with_more_words_needed_a_correction_is_taken_as_it_is_searched(judged: Workbench, tmp_path: Path):
    (tmp_path / "more").write_text("q5\tlamp sextent\n")
    (tmp_path / "graded").write_text("q5 0 a0 3\n")
    load_rows(judged.pool, tmp_path, [{"id": "g", "title": "Sextant lamp", "notes": None}])
    load_judged_set(judged, "coast", "more", tmp_path / "more", tmp_path / "graded")

    def matched(need: str) -> tuple[int, float]:
        parts = {"readings": [READING, NOTES], "need": need, "corrections": {"take": "nothing"}}
        document = ranker_document(parts)
        choice = RankerChoice(document=document)
        measurement = measure_ranker(judged, "coast", choice, "more", [RECALL])

        def work(opened: Any) -> int:
            return find(opened, judged.choose(opened.collection, choice).ranker, Question("lamp sextent"), 10).matched

        return judged.with_collection("coast", work), measurement.figures.measured.per_query["q5"][RECALL.name]

    # One word is enough: the lamps are found, and nothing is corrected. Both are needed: the other query's only record.
    assert matched("any") == (7, 1.0)
    assert matched("all") == (1, 0.0)
