"""Queries typed letter by letter: one that is played, and a judged set."""

from pathlib import Path

import pytest

from pale_harbor.core.guard.rule import guard_rule
from pale_harbor.core.measures import Measured, measure
from pale_harbor.core.measures.letters import (
    as_typed,
    found_by_letter,
    keystrokes_until_found,
    letters_until_found,
)
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import TunedKnob, TuningPlan, WeighedMeasure
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.measuring.compared import RankerSide
from pale_harbor.work.measuring.comparing import head_to_head
from pale_harbor.work.measuring.guarding import guarded
from pale_harbor.work.measuring.judged import judged_in
from pale_harbor.work.measuring.letters import SetTyped, letters_by_query, type_set
from pale_harbor.work.measuring.measuring import How, measure_ranker
from pale_harbor.work.measuring.outside import bring_run
from pale_harbor.work.measuring.turning import Turn, turns_on_set
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.letter_by_letter import MOST_LETTERS, LettersPlayed, play
from pale_harbor.work.tuning.tuning import tune_now
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS = [
    {"id": "a", "title": "Fog bell", "place": "quay"},
    {"id": "b", "title": "Fog horn", "place": "rock"},
    {"id": "c", "title": "Fob", "place": "quay"},
    {"id": "d", "title": "Lamp", "place": "quay"},
]
READING = {"field": "title", "chain": "words > lower", "b": 0}
WHOLE = ranker_document({"readings": [READING]})
TYPED = ranker_document({"readings": [READING], "typing": {}})


def test_what_is_typed_grows_by_what_a_person_calls_a_letter():
    assert as_typed("né👩‍🚒") == ["n", "né", "né👩‍🚒"]
    assert as_typed("") == []


def test_found_is_the_first_letter_with_it_among_so_many():
    assert letters_until_found([None, 11, 10, 11], 10) == 3
    assert letters_until_found([None, 11], 10) == 3
    assert letters_until_found([1], 1) == 1


def test_keystrokes_are_letters_and_steps_down_whichever_way_is_the_shortest():
    # Two letters and five steps down, or four letters and one: five.
    assert keystrokes_until_found([None, 5, 3, 1], 10) == 5
    assert keystrokes_until_found([None, 11], 10) == 2 + 10 + 1


def test_success_by_letter_counts_who_is_found_at_all():
    assert found_by_letter([1, 3, 3], [2, 2, 4]) == [1 / 3, 1 / 3, 2 / 3, 2 / 3]
    assert found_by_letter([], []) == []


def test_rules_may_be_about_letters(coast: Workbench):
    def held(text: str, against: RankerSide | None = None) -> bool:
        side = RankerSide(RankerChoice("own", 1))
        return guarded(coast, "coast", "visitors", side, against, [guard_rule(text)], How()).holds

    typed = coast.with_collection("coast", lambda opened: _letters(coast, opened))
    assert held(f"letters <= {typed}")
    assert not held(f"letters < {typed}")
    coast.put_ranker("coast", "whole", WHOLE)
    whole = RankerSide(RankerChoice("whole", 1))
    assert held("letters may not rise", whole)
    own, rules = RankerSide(RankerChoice("own", 1)), [guard_rule("letters may not rise")]
    assert not guarded(coast, "coast", "visitors", whole, own, rules, How()).holds
    with pytest.raises(BadInput, match="say with which ranker"):
        held("letters may not rise")


def _letters(bench: Workbench, opened: OpenCollection) -> float:
    ranker = bench.choose(opened.collection, RankerChoice("own", 1)).ranker
    own = letters_by_query(opened, ranker, judged_in(bench, opened, "visitors"), 10)
    return sum(own.values()) / len(own)


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    bench.put_ranker("coast", "own", TYPED)
    (tmp_path / "queries").write_text("q1\tfog b\nq2\tlamp\nq3\tnothing\nq4\thorn\n")
    (tmp_path / "grades").write_text("q1 0 a 3\nq1 0 b 0\nq2 0 d 3\nq3 0 a 0\nq4 0 a 3\n")
    load_judged_set(bench, "coast", "visitors", tmp_path / "queries", tmp_path / "grades", locked_share=0)
    return bench


def played(coast: Workbench, query: str, wanted: str | None, first: int = 10) -> LettersPlayed:
    def work(opened: OpenCollection) -> LettersPlayed:
        ranker = coast.choose(opened.collection, RankerChoice(document=TYPED)).ranker
        return play(opened, ranker, Question(query), wanted, first)

    return coast.with_collection("coast", work)


def test_a_query_is_played_letter_by_letter(coast: Workbench):
    told = played(coast, "fog b", "a")
    # By one letter and by two three words begin so.
    assert [(one.typed, one.records, one.rank) for one in told.letters] == [
        ("f", 3, 1),
        ("fo", 3, 1),
        ("fog", 2, 1),
        ("fog ", 2, 1),
        ("fog b", 2, 1),
    ]
    assert (told.letters[-1].keys, told.is_cut) == (["a", "b"], False)
    assert [one.keys for one in played(coast, "fo", None, first=1).letters] == [["a"], ["a"]]
    assert {one.rank for one in played(coast, "fog", None).letters} == {None}


def test_of_a_long_query_the_first_letters_are_played(coast: Workbench):
    told = played(coast, "x" * (MOST_LETTERS + 1), None)
    assert (len(told.letters), told.is_cut) == (MOST_LETTERS, True)
    assert played(coast, "x" * MOST_LETTERS, None).is_cut is False


def typed(coast: Workbench, first: int = 10, against: bool = True) -> SetTyped:
    whole = RankerChoice(document=WHOLE) if against else None
    return type_set(coast, "coast", "visitors", RankerChoice(document=TYPED), whole, first)


def test_a_judged_set_is_typed_by_two_rankers(coast: Workbench):
    told = typed(coast)
    rows = [(one.query_id, one.of, one.letters, one.keystrokes, one.best, one.before) for one in told.queries]
    # Of horn no relevant record is found; that of b, which nobody judged, may be one.
    assert rows == [("q1", 5, 1, 2, 1, 3), ("q2", 4, 1, 2, 1, 4), ("q4", 4, 5, 15, 1, 5)]
    assert (told.letters, told.keystrokes, told.best) == (7 / 3, 19 / 3, 1)
    assert told.found == pytest.approx(2 / 3)
    assert told.by_letter == pytest.approx([2 / 3] * 5)
    assert told.before_by_letter == pytest.approx([0, 0, 1 / 3, 2 / 3, 2 / 3])
    assert told.compared is not None
    assert (told.compared.first, told.compared.second, told.compared.gain) == (4, 7 / 3, 7 / 3 - 4)
    assert told.notes == ["1 query has nothing relevant: left out here."]


def test_alone_it_is_compared_with_nothing_and_tells_how_far_it_is(coast: Workbench):
    heard: list[tuple[int, int]] = []
    told = type_set(
        coast, "coast", "visitors", RankerChoice("own"), None, 1, lambda done, in_all: heard.append((done, in_all))
    )
    assert (told.compared, told.before_by_letter, {one.before for one in told.queries}) == (None, None, {None})
    assert heard == [(0, 3), (1, 3), (2, 3), (3, 3)]


def test_a_set_with_nothing_to_find_is_refused(coast: Workbench, tmp_path: Path):
    (tmp_path / "queries").write_text("q1\tfog\n")
    load_judged_set(coast, "coast", "empty", tmp_path / "queries", None, locked_share=0)
    with pytest.raises(BadInput, match="No query"):
        type_set(coast, "coast", "empty", RankerChoice("own"), None, 10)


def test_a_record_is_looked_for_among_the_first_hundred(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": f"f{i:03}", "title": "Fog"} for i in range(101)])
    ranks = [played(bench, "fo", key).letters[-1].rank for key in ("f000", "f099", "f100")]
    assert ranks == [1, 100, None]


LETTERS = TunedKnob(path=["typing", "letters"], values=[1, 3, 6])
SAVED = [measure("letters_saved@10"), measure("keystrokes_saved@10")]
# Of five, four and four letters: one each, but horn, which is never found; and q3 has nothing relevant.
TYPED_VALUES = {"q1": 1.0, "q2": 1.0, "q3": 0.0, "q4": 0.0}
# Of whole words: fog with its third letter, lamp with its last.
WHOLE_VALUES = {"q1": 3 / 5, "q2": 1 / 4, "q3": 0.0, "q4": 0.0}


def letters_of(found: Measured) -> dict[str, float]:
    return {query: values["letters_saved@10"] for query, values in found.per_query.items()}


def test_letters_saved_are_measured_of_a_draft_and_of_a_kept_ranker_alike(coast: Workbench):
    how = How(bands=True)
    draft = measure_ranker(coast, "coast", RankerChoice(document=TYPED), "visitors", SAVED, how).figures
    kept = measure_ranker(coast, "coast", RankerChoice("own", 1), "visitors", SAVED, how).figures
    assert letters_of(draft.measured) == letters_of(kept.measured) == TYPED_VALUES
    assert draft.measured.means == kept.measured.means
    # keystrokes of fog b: one letter, one step.
    assert kept.measured.per_query["q1"]["keystrokes_saved@10"] == pytest.approx((5 + 10 + 1 - 2) / (5 + 10 - 1))
    assert draft.bands == kept.bands
    # Nobody judged b for horn, nor anything for nothing, which finds nothing while it is typed.
    assert kept.bands["letters_saved@10"].best > kept.measured.means["letters_saved@10"]


def test_letters_saved_compare_rankers_with_a_verdict_and_say_what_would_decide(coast: Workbench):
    sides = RankerSide(RankerChoice(document=WHOLE)), RankerSide(RankerChoice("own", 1))
    told = head_to_head(coast, "coast", "visitors", *sides, SAVED[0], How())
    assert {row.query_id: row.first for row in told.queries} == pytest.approx(WHOLE_VALUES)
    assert {row.query_id: row.second for row in told.queries} == TYPED_VALUES
    # b would be found for horn with the first letter; by whole words only with the last.
    assert [(one.query, one.record) for one in told.open] == [("q4", "b")]
    assert told.open[0].swing == pytest.approx((1 - 1 / 4) / 4)


def test_knobs_of_typing_have_curves_by_letters_saved(coast: Workbench):
    turns = [Turn(("typing", "letters"), 3), Turn(("typing", "letters"), 6), Turn(("typing", "worth"), 0.5)]
    told = turns_on_set(coast, "coast", RankerChoice(document=TYPED), "visitors", SAVED[0], turns, How())
    assert told.standing.mean == pytest.approx(2 / 4)
    # With three letters: fog with its third of five, lamp with its third of four.
    assert [one.mean for one in told.turned] == pytest.approx([(3 / 5 + 2 / 4) / 4, (3 / 5 + 1 / 4) / 4, 2 / 4])
    by_ndcg = turns_on_set(coast, "coast", RankerChoice(document=TYPED), "visitors", measure("ndcg@10"), turns, How())
    assert len({one.mean for one in by_ndcg.turned}) == 1


def test_a_ranker_is_tuned_by_letters_saved(coast: Workbench):
    document = ranker_document({"readings": [READING], "typing": {"letters": 6}})
    coast.put_ranker("coast", "late", document)
    plan = TuningPlan(ranker="late", measures=[WeighedMeasure(measure="letters_saved@10")], knobs=[LETTERS], folds=2)
    report = tune_now(coast, "coast", "visitors", plan)
    assert report.offered.document["typing"]["letters"] < 4


def test_a_ranker_from_outside_cannot_be_typed_to(coast: Workbench):
    bring_run(coast, "coast", "box", "visitors", "q1 Q0 a 1 1.0 box\n", "run.txt")
    sides = RankerSide(outside="box"), RankerSide(RankerChoice("own", 1))
    with pytest.raises(BadInput, match="typing to a ranker of ours"):
        head_to_head(coast, "coast", "visitors", *sides, SAVED[0], How())


def test_what_was_typed_is_remembered_until_a_judgment_changes(coast: Workbench, tmp_path: Path):
    def asked() -> int:
        measure_ranker(coast, "coast", RankerChoice(document=TYPED), "visitors", SAVED[:1])
        return next(one.made for one in coast.memory.state() if one.name == "typed")

    first = asked()
    assert (first, asked()) == (4, 4)
    (tmp_path / "grades").write_text("q4 0 b 3\n")
    load_judged_set(coast, "coast", "visitors", tmp_path / "queries", tmp_path / "grades", locked_share=0)
    assert asked() == 8
    figures = measure_ranker(coast, "coast", RankerChoice(document=TYPED), "visitors", SAVED[:1]).figures
    assert letters_of(figures.measured)["q4"] == 1
