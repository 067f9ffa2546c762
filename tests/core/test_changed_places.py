"""Places of a text that was changed keep to the words that they are of."""

from difflib import SequenceMatcher

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.pages import Box, Place, realigned, replaced


def places_of(text: str) -> tuple[Place, ...]:
    """A place for each word, its box as far across as its number."""
    made: list[Place] = []
    start = 0
    for number, word in enumerate(text.split(" ")):
        if word:
            made.append(Place(start, start + len(word), Box(number, 0, 1, 1), 0, 0.5))
        start += len(word) + 1
    return tuple(made)


def told(places: tuple[Place, ...], text: str) -> list[tuple[str, float]]:
    return [(text[one.start : one.end], one.box.x) for one in places]


TEXT = "the old fog bell"


def after_replacing(start: int, end: int, letters: str) -> list[tuple[str, float]]:
    return told(replaced(places_of(TEXT), start, end, len(letters)), TEXT[:start] + letters + TEXT[end:])


def test_a_word_that_is_longer_or_shorter_moves_those_behind_it():
    assert after_replacing(4, 7, "oldest") == [("the", 0), ("oldest", 1), ("fog", 2), ("bell", 3)]
    assert after_replacing(4, 7, "o") == [("the", 0), ("o", 1), ("fog", 2), ("bell", 3)]
    assert after_replacing(12, 16, "horn") == [("the", 0), ("old", 1), ("fog", 2), ("horn", 3)]


def test_letters_within_a_word_are_of_it():
    assert after_replacing(5, 6, "dd") == [("the", 0), ("oddd", 1), ("fog", 2), ("bell", 3)]
    assert after_replacing(5, 5, "xx") == [("the", 0), ("oxxld", 1), ("fog", 2), ("bell", 3)]


def test_letters_beside_a_word_are_of_no_box():
    assert after_replacing(4, 4, "new ") == [("the", 0), ("old", 1), ("fog", 2), ("bell", 3)]
    assert after_replacing(3, 4, " very ") == [("the", 0), ("old", 1), ("fog", 2), ("bell", 3)]


def test_words_that_become_one_share_its_letters_by_what_they_had():
    # "fog bell", eight letters in two boxes, becomes seven: three of seven are three.
    assert after_replacing(8, 16, "foghorn") == [("the", 0), ("old", 1), ("fog", 2), ("horn", 3)]
    assert after_replacing(8, 16, "x") == [("the", 0), ("old", 1), ("x", 3)]


def test_what_is_taken_out_has_no_box_any_more():
    assert after_replacing(4, 8, "") == [("the", 0), ("fog", 2), ("bell", 3)]


def after(text: str) -> list[tuple[str, float]]:
    return told(realigned(places_of(TEXT), TEXT, text), text)


def test_words_are_followed_through_a_change_of_the_whole_text():
    assert after(TEXT) == [("the", 0), ("old", 1), ("fog", 2), ("bell", 3)]
    assert after("the cold fog bell") == [("the", 0), ("cold", 1), ("fog", 2), ("bell", 3)]
    assert after("so the old bell rang") == [("the", 0), ("old", 1), ("bell", 3)]
    assert after("the old\n\nfog bell") == [("the", 0), ("old", 1), ("fog", 2), ("bell", 3)]
    assert after("the old foghorn") == [("the", 0), ("old", 1), ("fog", 2), ("horn", 3)]
    assert after("") == []
    assert realigned((), "", "new") == ()


def test_parts_of_a_word_stay_parts():
    both = (Place(0, 5, Box(9, 0, 1, 1), 0), Place(5, 10, Box(0, 1, 1, 1), 1))
    moved = realigned(both, "lighthouse", "the lighthouse")
    assert [(one.start, one.end) for one in moved] == [(4, 9), (9, 14)]
    longer = realigned(both, "lighthouse", "lighthouses")
    assert [(one.start, one.end) for one in longer] == [(0, 6), (6, 11)]


texts = st.lists(st.sampled_from(["the", "fog", "bell", "a", "lighthouse"]), max_size=12).map(" ".join)


@given(texts, texts)
def test_places_stay_in_order_within_the_text_and_words_that_stay_keep_theirs(before: str, new: str):
    moved = realigned(places_of(before), before, new)
    end = 0
    for one in moved:
        assert end <= one.start < one.end <= len(new)
        end = one.end
    if before == new:
        assert moved == places_of(before)
    old_words, new_words = before.split(), new.split()
    blocks = SequenceMatcher(None, old_words, new_words, autojunk=False).get_matching_blocks()
    # At least as many words as are alike have a box in full.
    assert sum(1 for text, _ in told(moved, new) if text in new_words) >= min(1, sum(one.size for one in blocks))


@given(texts, st.data())
def test_replacing_letters_by_as_many_moves_nothing(text: str, data: st.DataObject):
    start = data.draw(st.integers(0, len(text)))
    end = data.draw(st.integers(start, len(text)))
    moved = replaced(places_of(text), start, end, end - start)
    assert [(one.box.x) for one in moved] == [one.box.x for one in places_of(text)]
