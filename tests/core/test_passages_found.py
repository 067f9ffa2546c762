"""The best passages of a text: whole sentences with the rarest words together, in any script, whatever it holds."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import build_index
from pale_harbor.core.marking import (
    MarkedWord,
    best_passages,
    in_utf16,
    marked_words,
    marks,
    merge_stretches,
    word_weights,
)
from pale_harbor.core.ranking import Nearness, Ranker, Reading, Spelling, Typing, TypingWhen, prepare
from pale_harbor.core.ranking.ranker import SlackWhen
from pale_harbor.core.text import chain_of

# Texts that break what counts letters carelessly.
SIGNS = ["👩‍🚒", "e\u0301", "霧が", "。", " ", "\u202e", "\x00", "<b>", "fog", "\r\n", "\ud800"]
HOSTILE = st.one_of(
    st.text("ab. \n", max_size=60),
    st.text(max_size=60),
    st.lists(st.sampled_from(SIGNS), max_size=20).map("".join),
)
PLACES = st.lists(st.tuples(st.integers(0, 60), st.integers(1, 5), st.integers(0, 2)), max_size=6)


def found(text: str, words: dict[str, float], length: int, most: int = 1) -> list[str]:
    """The passages of a text in which these words are marked, each as rare as said."""
    marked = sorted(
        (
            MarkedWord(at, at + len(word), 1 << bit)
            for bit, word in enumerate(words)
            for at in range(len(text))
            if text.startswith(word, at)
        ),
        key=lambda one: one.start,
    )
    weights = dict(enumerate(words.values()))
    return [text[one.start : one.end] for one in best_passages(text, marked, weights, length, most)]


@given(
    HOSTILE,
    PLACES,
    st.integers(1, 40),
)
def test_passages_lie_in_the_text_in_order_apart_and_no_longer_than_asked(
    text: str, places: list[tuple[int, int, int]], length: int
):
    marked = sorted(
        (MarkedWord(at, min(len(text), at + size), 1 << bit) for at, size, bit in places if at < len(text)),
        key=lambda one: one.start,
    )
    passages = best_passages(text, marked, {0: 1.0, 1: 2.0, 2: 0.5}, length, 3)
    assert bool(passages) is bool(text.strip())
    end = 0
    for one in passages:
        assert end <= one.start < one.end <= len(text)
        # Those that touched became one; a letter is never cut from its accents, however long they are.
        assert one.end - one.start <= 3 * length or length < 12
        assert text[one.start : one.end].strip() == text[one.start : one.end]
        assert 0 <= one.share <= 1
        end = one.end


def test_the_rarest_words_together_count():
    text = "Fog, fog and fog. The bell in the fog. A bell."
    assert found(text, {"fog": 0.5, "bell": 3.0}, 25) == ["The bell in the fog."]
    (one,) = best_passages(text, [MarkedWord(0, 3, 1)], {0: 0.5, 1: 3.0}, 20, 1)
    assert one.score == pytest.approx(0.5**2 / 3.5)
    assert one.share == pytest.approx(0.5 / 3.5)


def test_of_equal_ones_more_marks_and_then_the_first():
    assert found("A fog here. A fog of fog.", {"fog": 1.0}, 14) == ["A fog of fog."]
    assert found("A fog here. A fog there.", {"fog": 1.0}, 13) == ["A fog here."]


def test_what_follows_fills_the_room_and_at_the_end_what_stands_before():
    text = "One. Two fog. Three. Four."
    assert found(text, {"fog": 1.0}, 16) == ["Two fog. Three."]
    assert found(text, {"fog": 1.0}, 9) == ["Two fog."]
    assert found("One. Two. Three fog.", {"fog": 1.0}, 16) == ["Two. Three fog."]


def test_passages_that_touch_are_one():
    text = "A fog. A bell. Nothing at all stands here. A rope."
    words = {"fog": 1.0, "bell": 1.0, "rope": 1.0}
    assert found(text, words, 9, 3) == ["A fog. A bell.", "A rope."]
    assert found(text, words, 9, 1) == ["A fog."]


def test_a_sentence_that_is_too_long_is_cut_between_words():
    text = "the bell " * 10 + "rang in the fog " + "and the rope " * 10
    (passage,) = found(text, {"fog": 1.0}, 40)
    assert passage.startswith("fog and the rope")
    assert len(passage) <= 40
    assert passage.split()[-1] in ("the", "rope", "and")


def test_scripts_without_blanks_are_cut_between_letters():
    text = "霧" * 50 + "鐘" + "霧" * 50
    (passage,) = found(text, {"鐘": 1.0}, 10)
    assert passage == "鐘" + "霧" * 9
    assert found("霧が来た。鐘が鳴った。終わり。", {"鐘": 1.0}, 7) == ["鐘が鳴った。"]
    # An accent stays with its letter.
    assert found("e\u0301" * 40, {"e\u0301" * 2: 1.0}, 5)[0][-1] == "\u0301"


def test_where_nothing_is_marked_it_is_the_beginning():
    assert found("One here. Two there.", {"fog": 1.0}, 12) == ["One here."]
    assert found("  ", {"fog": 1.0}, 12) == []
    assert found("fog", {"fog": 1.0}, 12, 0) == []


def test_utf16_counts_two_for_what_lies_beyond():
    text = "a🐋b𝔉c"
    assert in_utf16(text, [(0, 1), (1, 2), (2, 5), (5, 5)]) == [(0, 1), (1, 3), (3, 7), (7, 7)]
    assert in_utf16("né", [(0, 2)]) == [(0, 2)]


@given(st.text("a🐋é", max_size=12), st.integers(0, 12), st.integers(0, 12))
def test_utf16_places_cut_the_same_letters(text: str, one: int, other: int):
    start, end = sorted((min(one, len(text)), min(other, len(text))))
    ((first, last),) = in_utf16(text, [(start, end)])
    assert text.encode("utf-16-le")[2 * first : 2 * last].decode("utf-16-le") == text[start:end]


def marked_in(value: str, query: str, chain: str = "words > lower", **ranker: object) -> list[str]:
    """The letters of a value that a query marks."""
    own = chain_of(chain)
    reading = Reading(field="text", chain=own, query_chain=own, nearness=ranker.pop("nearness", None))  # pyright: ignore
    readings = (reading,)
    prepared = prepare(query, Ranker(readings=readings, **ranker), [build_index([[value], ["other fog"]], own)])  # pyright: ignore
    (stretches,) = marks(prepared, [0])
    return [value[start:end] for start, end in stretches.get("text", [])]


@pytest.mark.parametrize(
    ("value", "query", "chain", "more", "letters"),
    [
        ("Foghorns blow", "foghorn", "words > lower > stem(en)", {}, ["Foghorns"]),
        ("the harpoon", "harpon", "words > lower", {"spelling": Spelling(when=SlackWhen.ALWAYS)}, ["harpoon"]),
        ("the harpoon", "harp", "words > lower", {"typing": Typing(when=TypingWhen.ALWAYS)}, ["harp"]),
        ("the harpoon", "arp", "words > lower > grams(3, 3)", {}, ["arp"]),
        ("the harpoon", "harpon", "words > lower > grams(3, 3)", {}, ["harpo"]),
        ("the harpoon", "harp", "words > lower > prefixes(1, 4)", {}, ["harp"]),
        # Where a stage before made other letters of it, the word.
        ("the Skærgård", "gar", "words > accents > lower > grams(3, 3)", {}, ["Skærgård"]),
    ],
)
def test_every_kind_of_match_is_marked(value: str, query: str, chain: str, more: dict[str, object], letters: list[str]):
    assert marked_in(value, query, chain, **more) == letters


def test_marks_name_the_words_they_are_of_and_how_rare_these_are():
    own = chain_of("words > lower")
    reading = Reading(field="text", chain=own, query_chain=own, nearness=Nearness())
    index = build_index([["fog and bell"], ["fog"], ["fog horn"]], own)
    prepared = prepare("fog bell", Ranker(readings=(reading,)), [index])
    (words,) = marked_words(prepared, [0])
    assert words["text"] == [MarkedWord(0, 3, 1), MarkedWord(8, 12, 2)]
    weights = word_weights(prepared)
    assert sorted(weights) == [0, 1]
    assert weights[1] > weights[0]
    assert merge_stretches((one.start, one.end) for one in words["text"]) == marks(prepared, [0])[0]["text"]
