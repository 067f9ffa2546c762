"""Decisions, each with an example by hand: just below a threshold, at it and just above; a tie; a constant."""

from typing import Any

import numpy as np
import pytest

from pale_harbor.core.comparing import intervals
from pale_harbor.core.index import build_index
from pale_harbor.core.measures import TypedKeys, judged_list, measure
from pale_harbor.core.measures.measure import OF_TYPING, WHOLE_LIST, WITH_DEPTH, UnknownMeasure, offered_measures
from pale_harbor.core.ranking import (
    Need,
    RankedList,
    Ranker,
    Reading,
    SlackWhen,
    Spelling,
    Workspace,
    join,
    prepare,
    search,
)
from pale_harbor.core.ranking.found import near
from pale_harbor.core.ranking.near_misses import FARTHEST, LEAST_SIMILAR, MOST_SHOWN, near_misses
from pale_harbor.core.ranking.sheet import sheet_of, weigh
from pale_harbor.core.ranking.slack import candidates_for
from pale_harbor.core.text import Token, chain_of
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.vectors import Similarity, nearest, vector_table

PLAIN = chain_of("words > lower")


def nearness(text: str, gap: int, same_order: bool = True, apart: int = 0) -> float:
    """What fog and bell, in this order, count in one text."""
    index = build_index([[text]], PLAIN)
    fog, bell = index.postings("fog"), index.postings("bell")
    assert fog is not None
    assert bell is not None
    found = near(index, fog, bell, apart, gap, same_order)
    return 0.0 if found is None else float(found.frequencies.sum())


@pytest.mark.parametrize(
    ("text", "gap", "same_order", "expected"),
    [
        ("fog bell", 3, True, 1.0),
        ("fog x bell", 3, True, 1 / 4),
        ("fog x x bell", 3, True, 1 / 9),
        ("fog x x x bell", 3, True, 1 / 16),
        ("fog x x x x bell", 3, True, 0.0),
        ("fog x bell", 0, True, 0.0),
        ("bell fog", 3, True, 0.0),
        ("bell fog", 3, False, 1.0),
        ("bell x fog", 3, False, 1 / 4),
        ("fog bell x fog x bell", 3, True, 1 + 1 / 4),
        ("fog x bell bell", 3, True, 1 / 4),
    ],
)
def test_nearness_falls_with_the_square_of_the_distance(text: str, gap: int, same_order: bool, expected: float):
    assert nearness(text, gap, same_order) == pytest.approx(expected, abs=1e-12)


def test_what_stands_in_the_next_record_is_near_nothing_of_this_one():
    index = build_index([["bell fog"], ["x x bell"]], PLAIN)
    fog, bell = index.postings("fog"), index.postings("bell")
    assert fog is not None
    assert bell is not None
    assert near(index, fog, bell, 0, 3, True) is None


def test_words_as_far_apart_as_in_the_query_are_next_to_each_other():
    assert nearness("fog x bell", 0, apart=1) == 1.0
    assert nearness("fog bell", 1, apart=1) == 1 / 4
    assert nearness("bell x fog", 0, same_order=False, apart=1) == 1.0
    assert nearness("bell fog", 1, same_order=False, apart=1) == 1 / 4
    assert nearness("bell x x fog", 1, same_order=False, apart=1) == 1 / 4


def ranked(*pairs: tuple[int, float]) -> RankedList:
    return RankedList(np.array([i for i, _ in pairs], np.int32), np.array([s for _, s in pairs]), len(pairs))


def test_equal_scores_of_several_slabs_stand_in_the_order_of_equals():
    lists = [ranked((0, 3.0), (1, 2.0)), ranked((0, 2.0), (1, 2.0), (2, 1.0))]
    place = {(0, 1): "b", (1, 0): "c", (1, 1): "a"}
    found = join(lists, 4, lambda slab, record: place[slab, record])
    assert [(row.slab, row.record_id) for row in found.rows] == [(0, 0), (1, 1), (0, 1), (1, 0)]
    assert found.matched == 5
    # Cut between equals: those that come first among them stay.
    assert [(row.slab, row.record_id) for row in join(lists, 2, lambda s, r: place[s, r]).rows] == [(0, 0), (1, 1)]


def test_of_a_group_that_lies_in_several_slabs_the_best_stays():
    lists = [ranked((0, 3.0)), ranked((0, 4.0), (1, 2.0))]
    groups = {(0, 0): "bells", (1, 0): "bells", (1, 1): None}
    found = join(lists, 5, lambda slab, record: record, group=lambda slab, record: groups[slab, record])
    assert [(row.slab, row.record_id) for row in found.rows] == [(1, 0), (1, 1)]


@pytest.mark.parametrize(
    ("when", "holding", "given"),
    [
        (SlackWhen.RARE, 4, True),
        (SlackWhen.RARE, 5, False),
        (SlackWhen.RARE, 6, False),
        (SlackWhen.MISSING, 0, True),
        (SlackWhen.MISSING, 1, False),
        (SlackWhen.ALWAYS, 1_000, True),
    ],
)
def test_slack_is_given_below_the_number_of_records_that_is_rare(when: SlackWhen, holding: int, given: bool):
    index = build_index([["harpoon"]], PLAIN)
    found = candidates_for("harpon", holding, Spelling(when=when, rare=5), [index])
    assert (found is not None) is given


@pytest.mark.parametrize(
    ("word", "edits"), [("harp", 0), ("harpo", 1), ("harpoon", 1), ("harpoons", 2), ("skr2070b", 0), ("1907", 0)]
)
def test_a_word_has_slack_by_its_length_and_none_with_a_digit(word: str, edits: int):
    assert Spelling().edits_for(word) == edits


def test_a_term_two_edits_away_is_worth_the_square():
    index = build_index([["harbor", "harbour"]], PLAIN)
    found = candidates_for("harbr", 0, Spelling(edits=2, worth=0.5), [index])
    assert found is not None
    assert [(one.text, one.edits, one.worth) for one in found] == [("harbor", 1, 0.5), ("harbour", 2, 0.25)]


def misses(word: str, *terms: str) -> list[str]:
    tokens = [(term, Token(term, 0, len(term), 0)) for term in terms]
    return [one.term for one in near_misses([word], 0, tokens, [])]


def test_a_word_of_the_query_is_no_edit_away_from_itself():
    index = build_index([["harbor", "harbour"]], PLAIN)
    ranker = Ranker(
        readings=(Reading(field="text", chain=PLAIN, query_chain=PLAIN),), spelling=Spelling(when=SlackWhen.ALWAYS)
    )
    (reading,) = prepare("harbour", ranker, [index]).readings
    assert {term.text: term.edits for term in reading.terms} == {"harbour": 0, "harbor": 1}


def test_a_near_miss_of_the_same_stem_comes_first_and_names_the_language():
    tokens = [(term, Token(term, 0, len(term), 0)) for term in ("sailer", "sailing", "nailed")]
    found = near_misses(["sailed"], 0, tokens, [Language.GERMAN, Language.ENGLISH])
    assert [(one.term, one.stem) for one in found] == [
        ("sailing", Language.ENGLISH),
        ("nailed", None),
        ("sailer", None),
    ]


def test_near_misses_are_few_and_the_nearest_come_first():
    terms = ("lantern", "lanterns", "lantens", "lanternss", "lanter", "lntern")
    assert MOST_SHOWN == 4
    assert misses("lantern", *terms) == ["lanterns", "lanter", "lntern", "lanternss"]


@pytest.mark.parametrize(
    ("word", "term", "shown"),
    [
        # Two thirds of the letters stay: of six letters two may go, of nine three, and never more.
        ("barque", "barkye", True),
        ("mooringxy", "moornigab", True),
        ("abcdefghijkl", "xyzwefghijkl", True),
        ("bell", "ball", True),
        ("bell", "bolt", False),
        ("bell", "bell", False),
    ],
)
def test_a_near_miss_keeps_two_thirds_of_the_letters(word: str, term: str, shown: bool):
    assert FARTHEST == 3
    assert LEAST_SIMILAR == 0.3
    assert (misses(word, term) == [term]) is shown


@pytest.mark.parametrize(
    ("similarity", "at_least", "found"),
    [
        # Distance 1 is a similarity of 1 / (1 + 1).
        (Similarity.EUCLIDEAN, 0.5, [0, 1]),
        (Similarity.EUCLIDEAN, 0.5000001, [0]),
        (Similarity.EUCLIDEAN, 0.4999999, [0, 1]),
        (Similarity.EUCLIDEAN, 1.0, [0]),
        (Similarity.EUCLIDEAN, 0.0, [0, 1, 2]),
        (Similarity.EUCLIDEAN, 1.1, []),
        (Similarity.COSINE, 1.0, [0, 1]),
        (Similarity.COSINE, 0.0, [0, 1, 2]),
        (Similarity.DOT, 2.0, [1]),
        (Similarity.DOT, 1.0, [1, 0]),
    ],
)
def test_records_as_alike_as_asked_for_are_found_and_no_others(
    similarity: Similarity, at_least: float, found: list[int]
):
    vectors = np.array([[1, 0], [2, 0], [0, 1]], np.float32)
    table = vector_table(3, 2, [0, 1, 2], [vectors], [(0, 0, 0, 0)] * 3)
    near_ones = nearest(
        table, np.array([1, 0], np.float32), similarity, 3, np.arange(3, dtype=np.int32), at_least=at_least
    )
    assert near_ones.record_ids.tolist() == found


@pytest.mark.parametrize(
    ("name", "value"),
    [("ap", 1 / 2), ("rr", 1 / 2), ("precision@2", 1 / 2), ("recall@1", 0.0), ("success@1", 0.0), ("rprec", 0.0)],
)
def test_what_was_graded_off_topic_is_not_relevant(name: str, value: float):
    judged = judged_list(["off", "on"], {"off": 0, "on": 1})
    assert measure(name).of(judged) == pytest.approx(value)


@pytest.mark.parametrize(
    ("share", "words", "needed"), [(0.75, 3, 3), (0.75, 4, 3), (0.75, 5, 4), (0.7, 10, 7), (0.5, 1, 1), (0.0, 4, 1)]
)
def test_a_share_of_the_words_is_rounded_up(share: float, words: int, needed: int):
    assert Need(((1, share),)).of(words) == needed


def test_a_step_of_need_begins_at_its_number_of_words():
    need = Need(((1, None), (4, 2)))
    assert [need.of(words) for words in (1, 3, 4, 5)] == [1, 3, 2, 2]


def test_a_sheet_is_weighed_reading_by_reading():
    one = (np.array([2, 5], np.int32), np.array([1.0, 2.0]), np.array([1, 1]))
    other = (np.array([5, 7], np.int32), np.array([10.0, 20.0]), np.array([2, 2]))
    sheet = sheet_of([one, other], [(np.array([9], np.int32), 4)])
    assert sheet.record_ids.tolist() == [2, 5, 7, 9]
    assert sheet.bits.tolist() == [1, 3, 2, 4]
    totals, strongest = weigh(sheet.columns, np.array([3.0, 0.5]))
    assert totals.tolist() == [3.0, 11.0, 10.0, 0.0]
    assert strongest.tolist() == [3.0, 6.0, 10.0, 0.0]
    assert sheet_of([], []).record_ids.size == 0


def test_an_interval_is_the_middle_nineteen_twentieths(monkeypatch: pytest.MonkeyPatch):
    assert (intervals.RESAMPLES, intervals.LEVEL) == (10_000, 0.95)
    # Means of one value drawn from 0 … 9,999: the interval cuts 2.5 % off at each end.
    drawn: Any = np.eye(1, dtype=np.float32)

    def samples(count: int, seed: int) -> Any:
        assert (count, seed) == (1, 0)
        return (drawn * value for value in range(101))

    monkeypatch.setattr(intervals, "_samples", samples)
    found = intervals.bootstrap_interval(np.array([1.0]))
    assert (found.low, found.high) == (pytest.approx(2.5), pytest.approx(97.5))


def test_every_measure_is_offered_once_and_can_be_computed():
    offered = offered_measures()
    assert len(set(offered)) == len(offered)
    assert {measure(name).kind for name in offered} == {*WITH_DEPTH, *WHOLE_LIST, *OF_TYPING} - {"map"}
    judged = judged_list(["a", "b"], {"a": 3}, TypedKeys(((), ("a",)), 2))
    assert all(0 <= measure(name).of(judged) <= 1 for name in offered)


def test_a_measures_name_may_hold_a_digit(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setitem(WHOLE_LIST, "f1", lambda judged: 0.25)
    assert measure("f1").of(judged_list(["a"], {"a": 1})) == 0.25
    assert "f1" in offered_measures()
    with pytest.raises(UnknownMeasure):
        measure("1f")


@pytest.mark.parametrize(
    ("query", "ids"),
    [("-fog", [1, 2]), ("NOT rope", [0, 1, 2]), ("fog OR -fog", [0, 1, 2]), ("fog -bell", []), ("fog", [0]), ("", [])],
)
def test_a_query_that_asks_only_for_what_is_not_there_finds_all_the_others(query: str, ids: list[int]):
    chain = chain_of("words > lower")
    index = build_index([["fog bell"], ["salt pan"], []], chain)
    ranker = Ranker(readings=(Reading(field="title", chain=chain, query_chain=chain),))
    found = search(prepare(query, ranker, [index]), 10, np.arange(3, dtype=np.int32), Workspace(3))
    assert sorted(found.record_ids.tolist()) == ids


@pytest.mark.parametrize(("share", "held"), [(1.0, [0, 1, 3]), (0.5, [0, 1, 2, 3])])
def test_a_word_beside_its_parts_is_held_by_itself_or_by_enough_of_them(share: float, held: list[int]):
    """534b: the whole, or of 534 and b as many as the share says."""
    query, record = chain_of("words > lower > parts(whole=yes)"), chain_of("words > lower > parts")
    reading = Reading(field="code", chain=record, query_chain=query, share=share)
    ranker = Ranker(readings=(reading,))
    index = build_index([["534b"], ["534 b"], ["534"], ["b 534 lamp"]], record)
    order = np.arange(4, dtype=np.int32)
    found = search(prepare("534b", ranker, [index]), 10, order, Workspace(4))
    assert sorted(found.record_ids.tolist()) == held
    kept = build_index([["534b"], ["534"]], chain_of("words"))
    found = search(prepare("534b", ranker, [kept]), 10, order[:2], Workspace(2))
    assert found.record_ids.tolist() == ([0] if share == 1.0 else [0, 1])
