"""What a field holds, told from its values: an example for each kind, and for each threshold."""

import pytest

from pale_harbor.core.records.value_kinds import ValueKind, kind_of_values

PROSE = "The bell was rung by hand in fog"


@pytest.mark.parametrize(
    ("values", "kind"),
    [
        (["HK-0007/A", "SMC-1907-41", "b12"], ValueKind.CODES),
        (["1907", "12.5", "1 200"], ValueKind.CODES),
        (["UX", "tin", "Oak"], ValueKind.NAMES),
        (["Aud Holm", "Íñigo Zabaleta"], ValueKind.NAMES),
        (["aud@saltmere.example", "https://saltmere.example/bells?nr=7"], ValueKind.ADDRESSES),
        ([PROSE], ValueKind.PROSE),
        # Nothing at all, or blanks, tells nothing.
        ([], ValueKind.NAMES),
        (["  ", ""], ValueKind.NAMES),
        # A word with a digit in it is a code, a sentence with one is none.
        (["The bell of 1907 was rung by hand in fog"], ValueKind.PROSE),
        (["Fog bell 7"], ValueKind.NAMES),
    ],
)
def test_values_are_told_by_what_they_look_like(values: list[str], kind: ValueKind):
    assert kind_of_values(values) is kind


def test_six_in_ten_have_to_be_of_a_kind():
    assert kind_of_values(["b1"] * 6 + ["bell"] * 4) is ValueKind.CODES
    assert kind_of_values(["b1"] * 5 + ["bell"] * 4) is not ValueKind.CODES
    assert kind_of_values(["a@b.example"] * 3 + ["bell"] * 2) is ValueKind.ADDRESSES
    assert kind_of_values(["a@b.example"] * 2 + ["bell"] * 2) is not ValueKind.ADDRESSES


def test_prose_has_eight_words_on_average():
    assert kind_of_values(["a b c d e f g h"]) is ValueKind.PROSE
    assert kind_of_values(["a b c d e f g"]) is ValueKind.NAMES
    assert kind_of_values(["a b c d", "a b c d e f g h i j k l"]) is ValueKind.PROSE


def test_values_come_back_where_a_fifth_of_twenty_at_most_is_different():
    four, five = ["oak", "ash", "tin", "elm"], ["oak", "ash", "tin", "elm", "fir"]
    assert kind_of_values(four * 5) is ValueKind.CATEGORIES
    assert kind_of_values(five * 4) is ValueKind.NAMES
    assert kind_of_values(["oak"] * 19) is ValueKind.NAMES
    # Four words at most, on average.
    assert kind_of_values(["a b c d"] * 20) is ValueKind.CATEGORIES
    assert kind_of_values(["a b c d e"] * 20) is ValueKind.NAMES
