"""What is said of a field is so: counts add up, oddities are found, languages are told."""

from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.records import ODDITIES, Profiler, distribution_of, oddities_of
from pale_harbor.core.text.languages import language_of
from tests.strategies import texts

items = st.one_of(st.none(), texts(20), st.integers(-5, 5), st.floats(-1e9, 1e9), st.booleans())


@given(values=st.lists(items | st.lists(items, max_size=3), max_size=30))
def test_counts_of_a_field_add_up(values: list[Any]):
    profiler = Profiler(name="f")
    for number, value in enumerate(values):
        profiler.add(str(number), value)
    found = profiler.finish()
    flat = [i for value in values for i in (value if isinstance(value, list) else [value]) if i is not None and i != ""]
    written = [i for i in flat if isinstance(i, str)]
    numbers = [i for i in flat if isinstance(i, int | float) and not isinstance(i, bool)]
    assert found.records == len(values)
    assert found.values == len(flat)
    assert found.lengths == distribution_of(Counter(map(len, written)))
    assert found.numbers == distribution_of(Counter(map(float, numbers)))
    assert sum(one.count for one in found.top) <= found.values
    assert found.distinct <= found.values


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("Müller", []),
        ("Mu\u0308ller", ["mixed normal forms"]),
        ("MÃ¼ller", ["mojibake suspects"]),
        ("the keeperâ€™s", ["mojibake suspects"]),
        ("M\ufffdller", ["replacement characters"]),
        ("\ue000", ["private use"]),
        ("a\x07b", ["control characters"]),
        ("Leucht\u00adturm", ["invisible characters"]),
        ("<b>fog</b> &amp; ice", ["markup"]),
        ("a < b & c > d\n\tplain", []),
        ("São Ângelo, 5 € “quoted” – dash", []),
    ],
)
def test_odd_characters_are_told_by_kind(text: str, found: list[str]):
    assert oddities_of(text) == found
    assert set(found) <= set(ODDITIES)


@pytest.mark.parametrize(
    ("text", "language"),
    [
        ("The keeper of the light was found on the rocks in the morning.", "en"),
        ("Der Wärter des Leuchtturms wurde am Morgen auf den Felsen gefunden und nicht mehr gesehen.", "de"),
        ("Le gardien du phare a été trouvé dans les rochers avec une lampe.", "fr"),
        ("El farero fue encontrado en las rocas con una lámpara que no era suya.", "es"),
        ("Fyrvokteren ble funnet på skjæret om morgenen, og lampen var ikke hans etter det.", "no"),
        ("Смотритель маяка", "ru"),
        ("灯台の番人", "ja"),
        ("SMC-1907-41", None),
        ("Åsmoe", None),
        ("", None),
    ],
)
def test_the_language_of_a_text_is_told_or_left_open(text: str, language: str | None):
    assert language_of(text) == language
