"""What speaks against words as a machine read them: every rule at its border."""

import pytest

from pale_harbor.core.pages import Box, PagePlaces, Place
from pale_harbor.core.pages.doubts import Doubt, doubtful_words, odd_boxes

USUAL = Box(0, 0, 40, 20)
# Eight words of four letters, each in its own box in a row.
TEXT = " ".join(["fogs"] * 8)


def places(*, last: Box, page: tuple[float, float] = (1000, 1000), count: int = 8) -> PagePlaces:
    """Words of forty by twenty, one below the other, and a last one."""
    made = [Place(5 * number, 5 * number + 4, Box(0, 30 * number, 40, 20), number, 0.9) for number in range(count - 1)]
    return PagePlaces(*page, (*made, Place(5 * (count - 1), 5 * (count - 1) + 4, last, count - 1)))


def of_last(last: Box, count: int = 8) -> tuple[Doubt, ...]:
    return odd_boxes(TEXT, places(last=last, count=count)).get(5 * (count - 1), ())


def test_a_box_like_the_others_is_right():
    assert odd_boxes(TEXT, places(last=Box(0, 300, 40, 20))) == {}


def test_a_box_keeps_to_the_page():
    assert of_last(Box(960, 980, 40, 20)) == ()
    assert of_last(Box(961, 980, 40, 20)) == (Doubt.OUTSIDE,)
    # Where nobody knows how large the page is, nothing is outside.
    assert odd_boxes(TEXT, places(last=Box(5_000, 0, 40, 20), page=(0, 0))) == {}


def test_a_box_over_the_one_before_it():
    assert of_last(Box(20, 180, 40, 20)) == ()
    assert of_last(Box(19, 180, 40, 20)) == (Doubt.OVERLAPPING,)
    # Of the smaller one: a speck within a word lies over it wholly.
    assert Doubt.OVERLAPPING in of_last(Box(5, 185, 20, 10))
    # Beside and below it, edge to edge.
    assert of_last(Box(40, 180, 40, 20)) == ()
    assert of_last(Box(0, 200, 40, 20)) == ()


def test_a_box_is_as_wide_and_as_high_as_letters_are():
    assert of_last(Box(0, 300, 120, 20)) == ()
    assert of_last(Box(0, 300, 121, 20)) == (Doubt.WIDE,)
    assert of_last(Box(0, 300, 14, 20)) == ()
    assert of_last(Box(0, 300, 13, 20)) == (Doubt.NARROW,)
    assert of_last(Box(0, 300, 40, 60)) == ()
    assert of_last(Box(0, 300, 40, 61)) == (Doubt.HIGH,)
    assert of_last(Box(0, 300, 40, 7)) == ()
    assert of_last(Box(0, 300, 40, 6)) == (Doubt.LOW,)


def test_of_fewer_than_eight_words_nobody_knows_what_is_usual():
    assert odd_boxes(TEXT, places(last=Box(0, 300, 400, 200), count=7)) == {}
    assert of_last(Box(0, 300, 400, 200), count=8) == (Doubt.WIDE, Doubt.HIGH)


def test_one_letter_is_of_any_width_and_signs_of_any_size():
    one = PagePlaces(1000, 1000, (*places(last=USUAL).places[:-1], *lettered(Box(0, 300, 200, 20), 36)))
    assert odd_boxes(TEXT[:35] + " i" + " x" * 3, one).get(36) is None
    text = TEXT[:35] + "----"
    assert odd_boxes(text, places(last=Box(0, 300, 400, 2))) == {}


def lettered(box: Box, start: int) -> tuple[Place, ...]:
    """One letter in such a box, and three words of the usual size behind it."""
    more = [Place(start + 2 * n, start + 2 * n + 1, Box(0, 400 + 30 * n, 10, 20), 9 + n) for n in range(1, 4)]
    return (Place(start, start + 1, box, 8), *more)


@pytest.mark.parametrize(("sure", "doubts"), [(0.5, ()), (0.49, (Doubt.UNSURE,)), (None, ())])
def test_the_machine_may_be_unsure(sure: float | None, doubts: tuple[Doubt, ...]):
    page = PagePlaces(100, 100, (Place(0, 4, USUAL, 0, sure),))
    assert tuple(one.doubts for one in doubtful_words("fogs", [(0, 4)], page, lambda _: True)) == (
        (doubts,) if doubts else ()
    )


def test_words_of_letters_are_known_or_not_and_numbers_need_not_be():
    page = PagePlaces(100, 100, ())
    text = "fog 1846 SM-44 frefh"
    words = [(0, 3), (4, 8), (9, 14), (15, 20)]
    found = doubtful_words(text, words, page, "fog".__eq__)
    assert [(text[one.start : one.end], one.doubts) for one in found] == [("frefh", (Doubt.UNKNOWN,))]


def test_a_word_is_doubted_for_each_of_its_boxes_and_for_no_other_words():
    both = (
        Place(0, 5, USUAL, 0, 0.4),
        Place(5, 10, Box(90, 0, 40, 20), 1, 0.9),
        Place(11, 14, Box(0, 50, 30, 20), 1, 0.9),
    )
    found = doubtful_words("lighthouse fog", [(0, 10), (11, 14)], PagePlaces(100, 100, both), lambda _: True)
    assert [(one.start, one.doubts) for one in found] == [(0, (Doubt.UNSURE, Doubt.OUTSIDE))]
