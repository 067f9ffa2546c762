"""Completions are the very ones that looking through all suggestions gives."""

from math import exp, log
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.typing.completing import complete, completion_index, suggested
from pale_harbor.core.typing.letters import letters_of, stretch_of, whole_letters_of
from pale_harbor.core.typing.range_least import apart, range_least
from pale_harbor.core.typing.recipe import BeginsAt, Completions, PastQueries
from pale_harbor.core.typing.suggestions import LONGEST_SUGGESTION, Offered, suggestions_of

ASKED = (PastQueries(asked=1),)
WORDS = st.sampled_from(
    ["fog", "bell", "fogs", "bel", "be", "fo", "f", "Größe", "鯨骨", "øre", "1904", "bell-fog", "gob"]
)
TEXTS = st.lists(WORDS, min_size=1, max_size=3).map(" ".join)
OFFERED = st.lists(
    st.builds(Offered, TEXTS, st.integers(0, 5).map(float), st.sampled_from(["", "en", "de"])), min_size=1, max_size=40
)


def completed(texts: dict[str, float], typed: str, wanted: int = 5, **recipe: Any) -> list[str]:
    own = Completions(sources=ASKED, **recipe)
    found = suggestions_of([(1.0, [Offered(text, weight) for text, weight in texts.items()])])
    return [one.text for one in complete(completion_index(suggested(found, own.begins), own), typed, wanted)]


def edits_to_beginning(typed: str, text: str) -> int:
    """How many edits the nearest beginning of a text is from what was typed, by the table (Damerau, restricted)."""
    rows = [list(range(len(text) + 1))]
    for i in range(1, len(typed) + 1):
        row = [i]
        for j in range(1, len(text) + 1):
            best = min(rows[i - 1][j] + 1, row[j - 1] + 1, rows[i - 1][j - 1] + (typed[i - 1] != text[j - 1]))
            if i > 1 and j > 1 and typed[i - 1] == text[j - 2] and typed[i - 2] == text[j - 1]:
                best = min(best, rows[i - 2][j - 2] + 1)
            row.append(best)
        rows.append(row)
    return min(rows[-1])


def plain(found: Any, recipe: Completions, typed: str, wanted: int, language: str | None, leads: Any) -> list[str]:
    """Every suggestion looked at: those that begin so, then those one edit away, each by score and then by letters."""
    letters = letters_of(typed)
    if not letters.strip():
        return []
    shown: list[int] = []
    for edits in (0, 1):
        if edits and not recipe.forgives(letters):
            break
        scored: list[tuple[float, int, int]] = []
        for number, text in enumerate(found.letters):
            if language is not None and found.languages[number] not in ("", language):
                continue
            starts = [0]
            if recipe.begins is BeginsAt.WORD:
                starts += [i for i in range(1, len(text)) if text[i - 1] == " " or text[i] in "鯨骨"]
            for start in starts:
                own = text[start:]
                if edits == 0 and not own.startswith(letters):
                    continue
                if edits and (own[0] != letters[0] or edits_to_beginning(letters, own) > 1):
                    continue
                fit = (recipe.later if start else 1.0) / len(text)
                score = recipe.popular * log(found.popular[number]) + (1 - recipe.popular) * log(fit)
                scored.append((-round(score, 9), number, start))
        for _, number, _ in sorted(scored):
            if number in shown or not leads(number):
                continue
            if found.groups[number] not in {found.groups[one] for one in shown}:
                shown.append(number)
    return [found.texts[number] for number in shown[:wanted]]


@given(
    st.lists(OFFERED, min_size=1, max_size=3),
    st.one_of(TEXTS, st.text("fobelgGs 1鯨", max_size=7)),
    st.integers(1, 6),
    st.sampled_from([0.0, 0.3, 1.0]),
    st.sampled_from([0.4, 1.0]),
    st.sampled_from(BeginsAt),
    st.integers(1, 5),
    st.sampled_from([None, "en"]),
    st.integers(0, 3),
)
def test_what_is_suggested_is_the_best_of_all_suggestions(
    sources: list[list[Offered]],
    typed: str,
    wanted: int,
    popular: float,
    later: float,
    begins: BeginsAt,
    slack_from: int,
    language: str | None,
    dead: int,
):
    recipe = Completions(sources=ASKED, begins=begins, popular=popular, later=later, slack_from=slack_from)
    offered = [(1.0 / (number + 1), own) for number, own in enumerate(sources)]
    found = suggestions_of(offered, lambda texts, _: [tuple(one.lower().rstrip("s").split()) for one in texts])
    index = completion_index(suggested(found, begins), recipe)

    def leads(number: int) -> bool:
        return dead == 0 or number % dead != 0

    got = complete(index, typed, wanted, language, lambda number, _: leads(number))
    assert [one.text for one in got] == plain(found, recipe, typed, wanted, language, leads)
    for one in got:
        assert one.score == pytest.approx(exp(popular * log(one.popular) + (1 - popular) * log(one.fit)))
        if one.edits == 0:
            assert letters_of(one.text[one.start : one.end]).strip() == letters_of(typed).strip()


@given(st.permutations(range(90)), st.lists(st.tuples(st.integers(0, 90), st.integers(0, 90)), max_size=4))
def test_the_least_of_ranges_come_first(ranks: list[int], ranges: list[tuple[int, int]]):
    kept = apart(np.array([(a, b) for a, b in ranges if a < b], np.int64).reshape(-1, 2))
    inside = sorted({i for first, last in kept.tolist() for i in range(first, last)}, key=lambda i: ranks[i])
    assert sorted(inside) == sorted({i for first, last in ranges for i in range(first, last)})
    assert range_least(np.array(ranks, np.int32)).least(kept, 7).tolist() == inside[:7]


def test_longer_arrays_than_a_block_have_their_least_found():
    ranks = np.arange(1000, dtype=np.int32)[::-1].copy()
    assert range_least(ranks).least(np.array([[3, 997]]), 2).tolist() == [996, 995]


# By hand.


def test_popularity_and_fit_are_weighed_by_the_knob():
    texts = {"fog": 1.0, "fog bell of the pier": 900.0}
    assert completed(texts, "fo", popular=0.0) == ["fog", "fog bell of the pier"]
    assert completed(texts, "fo", popular=1.0) == ["fog bell of the pier", "fog"]


def test_score_by_hand():
    found = suggestions_of([(0.5, [Offered("fog bell", 6.0), Offered("fort", 14.0)])])
    index = completion_index(suggested(found, BeginsAt.WORD), Completions(sources=ASKED, popular=0.25))
    (one,) = complete(index, "be", 5)
    assert one.popular == pytest.approx(0.5 * log(8) / log(16))
    assert one.fit == pytest.approx(2 / 8 * 0.6)
    assert one.score == pytest.approx(one.popular**0.25 * one.fit**0.75)
    assert (one.start, one.end, one.weight, one.sources, one.edits) == (4, 6, 6.0, (0,), 0)


def test_equal_ones_stand_in_the_order_of_their_letters():
    assert completed({"foe": 1.0, "fob": 1.0, "fog": 1.0}, "fo") == ["fob", "foe", "fog"]


def test_what_is_typed_begins_the_suggestion_or_any_word_of_it():
    texts = {"bell of fog": 1.0, "fog bell": 1.0}
    assert completed(texts, "fog", begins=BeginsAt.SUGGESTION) == ["fog bell"]
    assert completed(texts, "fog", begins=BeginsAt.WORD) == ["fog bell", "bell of fog"]
    assert completed(texts, "bell of f") == ["bell of fog"]


def test_where_words_have_no_blanks_each_sign_may_begin_one():
    assert completed({"古い鯨骨": 1.0}, "鯨") == ["古い鯨骨"]
    assert completed({"古い鯨骨": 1.0}, "鯨", begins=BeginsAt.SUGGESTION) == []


def test_a_blank_says_that_the_word_is_complete():
    assert completed({"fogs": 1.0, "fog bell": 1.0}, "fog ", slack=0) == ["fog bell"]
    assert completed({"fogs": 1.0, "fog bell": 1.0}, "fog", slack=0) == ["fogs", "fog bell"]


@pytest.mark.parametrize("typed", ["hapr", "hrp", "haarp", "hatp"])
def test_one_edit_is_forgiven(typed: str):
    assert completed({"harpoon": 1.0, "gaff": 9.0}, typed, slack_from=3) == ["harpoon"]


def test_edits_come_after_what_fits_and_only_from_so_many_letters():
    texts = {"fogs": 1.0, "fort": 99.0}
    assert completed(texts, "fog", slack_from=3) == ["fogs", "fort"]
    assert completed(texts, "fog", slack_from=4) == ["fogs"]
    assert completed(texts, "fog", slack=0, slack_from=3) == ["fogs"]


def test_numbers_and_the_first_letter_are_never_forgiven():
    assert completed({"1904 bell": 1.0}, "1905") == []
    assert completed({"harpoon": 1.0}, "jarpoon") == []


def test_nothing_typed_has_no_suggestions():
    assert completed({"fog": 1.0}, " - ") == []
    assert completed({"fog": 1.0}, "fog", wanted=0) == []
    assert completed({"fog": 1.0}, "x") == []


def test_case_accents_and_signs_make_no_other_letters():
    assert letters_of("ŁÓDŹ—Øst’s  ") == "lodz osts "
    assert whole_letters_of(" Fog-Bell! ") == "fog bell"
    assert letters_of("...") == ""
    assert stretch_of("O’Brien", 0, 3) == (0, 4)
    assert stretch_of("cafe\u0301 bar", 0, 4) == (0, 5)


def test_the_same_letters_are_one_suggestion_written_as_the_weightiest():
    found = suggestions_of([(1.0, [Offered("fog bell", 2), Offered("Fog-Bell", 3), Offered("FOG BELL", 3)])])
    assert (found.texts, found.weights.tolist()) == (["FOG BELL"], [8.0])


def test_the_most_popular_form_stands_for_all_and_has_their_weight():
    def stems(texts: Any, _languages: Any) -> list[tuple[str, ...]]:
        return [tuple(word.rstrip("s") for word in one.split()) for one in texts]

    found = suggestions_of([(1.0, [Offered("bells", 5), Offered("bell", 3), Offered("gong", 7)])], stems)
    assert dict(zip(found.texts, found.weights.tolist(), strict=True)) == {"bell": 3.0, "bells": 8.0, "gong": 7.0}
    index = completion_index(suggested(found, BeginsAt.WORD), Completions(sources=ASKED, popular=1.0))
    assert [one.text for one in complete(index, "bel", 5)] == ["bells"]
    # The greatest weight of one form is that of all of them, as large as it gets.
    assert found.popular.max() == 1.0
    # Whoever types on sees the form that is meant.
    own = suggestions_of(
        [(1.0, [Offered("mouse", 1), Offered("mice", 9)])], lambda texts, _: [("mouse",) for _ in texts]
    )
    index = completion_index(suggested(own, BeginsAt.WORD), Completions(sources=ASKED))
    assert [one.text for one in complete(index, "mo", 5)] == ["mouse"]


def test_what_nothing_is_read_of_is_like_nothing_else():
    found = suggestions_of([(1.0, [Offered("the", 1), Offered("a", 1)])], lambda texts, _: [() for _ in texts])
    assert len(set(found.groups.tolist())) == 2


def test_the_same_words_in_two_languages_are_shown_once():
    found = suggestions_of([(1.0, [Offered("radar", 1, "de"), Offered("radar", 2, "en"), Offered("rad", 1, "de")])])
    index = completion_index(suggested(found, BeginsAt.WORD), Completions(sources=ASKED, popular=1.0))
    assert [(one.text, one.language) for one in complete(index, "ra", 5)] == [("radar", "en"), ("rad", "de")]
    assert [one.text for one in complete(index, "ra", 5, "en")] == ["radar"]
    assert [one.text for one in complete(index, "ra", 5, "fr")] == []


def test_withheld_words_keep_whole_words_and_words_in_a_row_out():
    offered = [Offered(text, 1) for text in ("black powder", "powder", "gunpowder", "black dog", "Powder-keg")]
    found = suggestions_of([(1.0, offered)], withheld={"POWDER", "black dog", "dog of"})
    assert (found.texts, found.withheld) == (["gunpowder"], 4)


def test_longer_texts_are_no_suggestions():
    at, above = "a" * LONGEST_SUGGESTION, "b" * (LONGEST_SUGGESTION + 1)
    found = suggestions_of([(1.0, [Offered(at, 1), Offered(above, 1), Offered("?!", 1)])])
    assert (found.texts, found.too_long) == ([at], 1)


def test_a_suggestion_of_several_sources_is_as_popular_as_its_best_one():
    found = suggestions_of([(0.5, [Offered("fog", 8)]), (1.0, [Offered("fog", 2), Offered("bell", 14)])])
    assert found.texts == ["bell", "fog"]
    assert found.popular.tolist() == pytest.approx([1.0, 0.5])
    assert found.sources.tolist() == [2, 3]


def test_a_weight_below_nothing_is_none():
    found = suggestions_of([(1.0, [Offered("fog", -3), Offered("bell", 0)])])
    assert found.weights.tolist() == [0.0, 0.0]


def test_without_suggestions_nothing_is_suggested():
    found = suggested(suggestions_of([(1.0, [])]), BeginsAt.WORD)
    assert complete(completion_index(found, Completions(sources=ASKED)), "fog", 5) == []
