"""What a query may have meant: its costs, its words and its likeliest reading."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.simulating.slips import SlipKind, slips_of
from pale_harbor.core.typing.channel import (
    AT_THE_BEGINNING,
    CHANGED_PLACES,
    DOUBLED,
    EXCHANGED,
    LEFT_OUT,
    NEIGHBOUR,
    PUT_IN,
    RIGHT,
    SOUNDS_ALIKE,
    VOWEL,
    WHOLE_SOUNDS_ALIKE,
    cost_of_typing,
)
from pale_harbor.core.typing.correcting import MeantWords, SaidWord, near_words, readings_of
from pale_harbor.core.typing.keyboards import are_neighbours
from pale_harbor.core.typing.word_model import FOLLOWING, UNHEARD, WordModel, WordsInRow, word_model

LETTERS = st.text("abcdé", max_size=6)


def model(*sentences: str, times: int = 10, past: list[tuple[list[str], int]] | None = None) -> WordModel:
    """The model of some sentences, each said so many times."""
    rows: list[WordsInRow] = []
    for sentence in sentences:
        terms = sorted(set(sentence.split()))
        numbers = np.array([terms.index(word) for word in sentence.split()] * times, np.int32)
        follows = np.ones(numbers.size, np.bool_)
        follows[:: len(sentence.split())] = False
        rows.append(WordsInRow(terms, numbers, follows))
    return word_model(rows, past or [])


# Words enough that none of them is likely.
OTHERS = " ".join(f"{first}{second}{first}" for first in "bdgkmprst" for second in "aeiou")


def meant(own: WordModel, query: str, letters: int = 3, fixed: str = "") -> str:
    said = [SaidWord(word, own.count(word) > 0, word in fixed.split()) for word in query.split()]
    return words_of(readings_of(own, said, letters)[0])


def words_of(reading: MeantWords) -> str:
    return " ".join(word for piece in reading.pieces for word in piece.meant)


@given(LETTERS, LETTERS)
def test_nothing_costs_less_than_being_right(word: str, other: str):
    assert cost_of_typing(word, word) == pytest.approx(RIGHT * len(word))
    assert cost_of_typing(word, other) >= RIGHT * min(len(word), len(other)) - 1e-9


@pytest.mark.parametrize(
    ("word", "typed", "cost"),
    [
        ("bell", "belt", 3 * RIGHT + EXCHANGED),
        ("bell", "belk", 3 * RIGHT + NEIGHBOUR),
        ("bell", "ball", 3 * RIGHT + VOWEL),
        ("bell", "bel", 3 * RIGHT + DOUBLED),
        ("bel", "bell", 3 * RIGHT + DOUBLED),
        ("belt", "bet", 3 * RIGHT + LEFT_OUT),
        ("bet", "belt", 3 * RIGHT + PUT_IN),
        ("belt", "blet", 2 * RIGHT + CHANGED_PLACES),
        ("belt", "eblt", 2 * RIGHT + CHANGED_PLACES + AT_THE_BEGINNING),
        ("belt", "elt", 3 * RIGHT + LEFT_OUT + AT_THE_BEGINNING),
        ("bell", "pell", 3 * RIGHT + EXCHANGED + AT_THE_BEGINNING),
        ("photo", "foto", 3 * RIGHT + SOUNDS_ALIKE),
        ("foto", "photo", 3 * RIGHT + SOUNDS_ALIKE),
        ("station", "stasion", 3 * RIGHT + SOUNDS_ALIKE),
        ("", "", 0.0),
    ],
)
def test_each_slip_has_its_cost(word: str, typed: str, cost: float):
    assert cost_of_typing(word, typed) == pytest.approx(cost)


def test_neighbours_on_any_keyboard():
    assert are_neighbours("z", "x")
    assert are_neighbours("z", "t")
    assert are_neighbours("ж", "д")
    assert not are_neighbours("q", "p")
    assert not are_neighbours("a", "a")


def test_a_word_after_another_is_as_likely_as_both_say():
    own = model("fog bell", "fog horn", times=10)
    alone = 10 / 40
    expected = np.log(FOLLOWING * 10 / 20 + (1 - FOLLOWING) * alone)
    assert own.log_chance("bell", "fog") == pytest.approx(expected)
    assert own.log_chance("bell") == pytest.approx(np.log(alone))
    assert own.log_chance("bell", "never") == pytest.approx(np.log(alone))
    assert own.log_chance("gong") == pytest.approx(np.log(UNHEARD / 40))
    # None of these follows the other.
    assert own.log_chance("fog", "bell") == pytest.approx(np.log((1 - FOLLOWING) * 20 / 40))


def test_past_queries_count_for_as_much_as_all_records():
    own = model("fog bell", times=10, past=[(["fog", "bell"], 3), (["fog"], 2), (["gong"], 99)])
    # 20 words of records and 8 of past queries that are the same words: 2.5 each.
    assert own.count("fog") == pytest.approx(10 + 2.5 * 5)
    assert own.count("gong") == 0
    assert own.pair_count(1, 0) == pytest.approx(10 + 2.5 * 3)
    assert own.pair_count(0, 1) == 0


def test_of_many_pairs_the_most_frequent_are_kept(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.core.typing.word_model.MOST_PAIRS", 1)
    row = WordsInRow(["bell", "fog", "horn"], np.array([1, 0, 1, 2, 1, 2], np.int32), np.array([False, True] * 3))
    own = word_model([row])
    assert own.pair_count(1, 2) == 2
    assert own.pair_count(1, 0) == 0


def test_a_slip_is_mended_and_what_is_right_stays():
    own = model("the old lighthouse", "a sextant")
    assert meant(own, "sextent") == "sextant"
    assert meant(own, "the old lighthouse") == "the old lighthouse"
    assert meant(own, "lighthuose sextant") == "lighthouse sextant"
    assert meant(own, "wholly different") == "wholly different"


def test_the_words_around_settle_what_was_meant():
    own = model("bell tower", "ball room", times=10)
    assert meant(own, "bll tower") == "bell tower"
    assert meant(own, "bll room") == "ball room"


def test_what_is_more_frequent_is_meant_where_the_cost_is_one():
    often = model("barrel", times=50)
    assert words_of(
        readings_of(word_model([*_rows("barrel", 50), *_rows("carrel", 2)]), [SaidWord("xarrel", False)])[0]
    ) == ("barrel")
    assert meant(often, "barel") == "barrel"


def _rows(word: str, times: int) -> list[WordsInRow]:
    return [WordsInRow([word], np.zeros(times, np.int32), np.zeros(times, np.bool_))]


def test_words_run_together_are_parted_and_parted_ones_joined():
    own = model("tide board", "lighthouse lamp", "light", "house", OTHERS)
    assert meant(own, "tideboard") == "tide board"
    assert meant(own, "light house lamp") == "lighthouse lamp"
    # Neither part is shorter than three letters.
    assert meant(model("an chor", "x"), "anchor") == "anchor"
    assert meant(model("and chor", "x"), "andchor") == "and chor"


def test_words_that_are_fixed_are_neither_mended_nor_joined():
    own = model("lighthouse", "light", "house", OTHERS)
    assert meant(own, "light house") == "lighthouse"
    assert meant(own, "light house", fixed="house") == "light house"
    assert meant(own, "lighthuose", fixed="lighthuose") == "lighthuose"


@pytest.mark.parametrize(("letters", "mended"), [(4, True), (5, False)])
def test_short_words_hold_no_slips(letters: int, mended: bool):
    assert (meant(model("bell"), "bela", letters) == "bell") is mended


def test_two_edits_want_seven_letters():
    own = model("barometer", "belts", times=400)
    assert meant(own, "baromtr") == "barometer"
    assert [word for word, _ in near_words(own, "bexxts")] == []


def test_what_sounds_alike_is_near_however_it_is_spelled():
    own = model("physician")
    assert near_words(own, "fisishun") == [("physician", WHOLE_SOUNDS_ALIKE)]
    assert near_words(own, "lamp") == []


def test_chances_are_shares_of_all_ways():
    readings = readings_of(model("bell", "ball"), [SaidWord("bll", False)])
    assert sum(one.chance for one in readings) == pytest.approx(1)
    assert [one.chance for one in readings] == sorted((one.chance for one in readings), reverse=True)
    (nothing,) = readings_of(model("bell"), [])
    assert (nothing.pieces, nothing.chance) == ((), 1.0)


@given(st.integers(0, 1000), st.integers(0, 12))
def test_slips_are_no_words_and_right_ones_are(seed: int, count: int):
    own = model("lighthouse keeper", "harbour master", "schooner captain")
    slips = slips_of(own, count, seed)
    assert len(slips) <= 2 * count
    for one in slips:
        is_right = one.kind is SlipKind.RIGHT
        assert (one.said == one.meant) is is_right
        assert all(own.count(word) > 0 for word in one.said.split()) is is_right
        assert all(own.count(word) > 0 for word in one.meant.split())
        # The first letter is never the wrong one.
        assert one.said[0] == one.meant[0]


def test_slips_are_the_same_for_the_same_seed_and_none_without_long_words():
    own = model("lighthouse keeper", "harbour master")
    assert slips_of(own, 10, 1) == slips_of(own, 10, 1) != slips_of(own, 10, 2)
    assert {one.kind for one in slips_of(own, 10, 1)} == set(SlipKind)
    assert slips_of(model("a bee sat"), 10) == []
    assert slips_of(model("harbour master", times=2), 10) == []
    assert slips_of(model("harbour master", times=3), 10) != []
