"""Help where nothing is found."""

import pytest

from pale_harbor.work.delivery.nearly import Nearly, nearly_found
from pale_harbor.work.running.hurry import Hurry

# How many records hold all of these words.
HELD = {"brass": 9, "lamp": 4, "harbour": 2, "brass lamp": 3, "lamp harbour": 0, "brass harbour": 1}


def finds(query: str) -> int:
    return HELD.get(query, 0)


@pytest.mark.parametrize(
    ("query", "left", "dropped", "found"),
    [
        # No record holds it.
        ("brass unicorn lamp", "brass lamp", ["unicorn"], 3),
        ("unicorn lamp", "lamp", ["unicorn"], 4),
        # Each is held, but not all together: the rarest goes first.
        ("brass lamp harbour", "brass lamp", ["harbour"], 3),
        ("lamp harbour", "lamp", ["harbour"], 4),
        # More have to go.
        ("unicorn lamp harbour", "lamp", ["unicorn", "harbour"], 4),
    ],
)
def test_words_that_stand_in_the_way_are_left_out(query: str, left: str, dropped: list[str], found: int):
    told = nearly_found(query, finds, None, Hurry())
    assert told == Nearly(query=left, dropped=dropped, without_filters=False, found=found)


def test_of_words_that_are_as_rare_the_later_one_goes():
    held = {"a": 1, "b": 1}
    told = nearly_found("a b", lambda query: held.get(query, 0), None, Hurry())
    assert told == Nearly(query="a", dropped=["b"], without_filters=False, found=1)


@pytest.mark.parametrize("query", ["unicorn", "unicorn dragon", "", "&", " ".join(["lamp"] * 13)])
def test_where_nothing_helps_nothing_is_said(query: str):
    assert nearly_found(query, finds, None, Hurry()) is None


def test_filters_go_before_words():
    told = nearly_found("lamp", lambda _: 0, finds, Hurry())
    assert told == Nearly(query="lamp", dropped=[], without_filters=True, found=4)
    # Without them it finds nothing either.
    other = nearly_found("unicorn lamp", finds, lambda _: 0, Hurry())
    assert other == Nearly(query="lamp", dropped=["unicorn"], without_filters=False, found=4)


def test_without_time_it_is_left_out_and_named():
    hurry = Hurry(0.0)
    assert nearly_found("unicorn lamp", finds, finds, hurry) is None
    assert hurry.left_out == ["nearly"]
