"""Places written, read and referred to."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.pages import Box, PagePlaces, Place
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.places_text import (
    are_places,
    places_in,
    places_near,
    places_text,
    reference_in,
    referred,
)
from pale_harbor.formats.records import ImportPlan, RawRow
from pale_harbor.formats.records.conversion import Unfit, record_of

WIND = "text 4 8139fbc0 1000 1500\n0 4 100 200 80.5 30 0 93"

numbers = st.integers(-10_000, 100_000).map(lambda number: number / 4)


@given(
    st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=20),
    st.text(max_size=40),
    st.lists(st.tuples(numbers, numbers, st.none() | st.sampled_from([0.0, 0.5, 1.0])), max_size=8),
)
def test_places_are_read_as_they_were_written(field: str, text: str, boxes: list[tuple[float, float, float | None]]):
    made = tuple(
        Place(number, number + 1, Box(x, y, 3, 4), number, sure)
        for number, (x, y, sure) in enumerate(boxes[: len(text)])
    )
    places = PagePlaces(1000, 1500.5, made)
    written = places_text(field, text, places)
    assert are_places(written)
    assert places_in(written) == places
    reference, digest = referred(written)
    own = reference_in(reference)
    assert own is not None
    assert (own.field, own.digest, own.width, own.height) == (field, digest, 1000, 1500.5)
    assert own.are_of(text)
    assert not own.are_of(text + "x")
    assert not are_places(reference)


@pytest.mark.parametrize("text", ["Wand", "Wind ", "Win", ""])
def test_places_are_of_their_own_text_alone(text: str):
    reference = reference_in(referred(WIND)[0])
    assert reference is not None
    assert reference.are_of("Wind")
    assert not reference.are_of(text)


@pytest.mark.parametrize("value", [None, 7, "", "Wind", ["x"], WIND, "text 4 8139fbc0 1000 1500 " + 63 * "0"])
def test_what_is_no_reference(value: object):
    assert reference_in(value) is None


@pytest.mark.parametrize(
    ("lines", "told"),
    [
        ("0 4 1 1 1 1 0", "line 2: start, end"),
        ("0 4 1 1 1 1 0 high", "line 2: start, end"),
        ("0 4 1 1 wide 1 0 9", "line 2: start, end"),
        ("0 4 1 1 1 1 -1 9", "line 2: start, end"),
        ("0 4 nan 1 1 1 0 9", "line 2: start, end"),
        ("0 5 1 1 1 1 0 9", "line 2: places follow one another"),
        ("2 2 1 1 1 1 0 9", "line 2: places follow one another"),
        ("0 2 1 1 1 1 0 9\n1 3 1 1 1 1 0 9", "line 3: places follow one another"),
    ],
)
def test_places_that_are_none_are_told_by_line(lines: str, told: str):
    with pytest.raises(BadInput, match=told):
        places_in(f"text 4 8139fbc0 1000 1500\n{lines}")


def test_at_most_a_hundred_thousand_places():
    head = "text 200000 8139fbc0 1000 1500\n"
    line = "{0} {1} 1 1 1 1 0 -"
    most = [line.format(number, number + 1) for number in range(100_000)]
    assert len(places_in(head + "\n".join(most)).places) == 100_000
    with pytest.raises(BadInput, match="there are 100,001 places"):
        places_in(head + "\n".join([*most, line.format(100_000, 100_001)]))


def test_a_record_keeps_a_reference_and_its_places_beside():
    record = record_of(RawRow(1, {"id": "a", "text": "Wind", "places": WIND}), 1, ImportPlan(key="id"))
    reference, digest = referred(WIND)
    assert record.values == {"id": "a", "text": "Wind", "places": reference}
    assert record.places == {digest: WIND}
    # The same record again, as it is kept.
    assert record_of(RawRow(1, dict(record.values)), 1, ImportPlan(key="id")).content_hash == record.content_hash
    with pytest.raises(Unfit, match='the field "places" holds places, of which line 2'):
        record_of(RawRow(1, {"id": "a", "places": "text 4 8139fbc0 1000 1500\nx"}), 1, ImportPlan(key="id"))


@given(
    st.lists(st.tuples(st.integers(0, 3), st.integers(1, 6)), max_size=12),
    st.lists(st.tuples(st.integers(0, 70), st.integers(1, 9)), max_size=4),
)
def test_places_near_some_letters_are_those_that_hold_one_of_them(
    steps: list[tuple[int, int]], wanted: list[tuple[int, int]]
):
    made: list[Place] = []
    end = 0
    for gap, length in steps:
        made.append(Place(end + gap, end + gap + length, Box(end, 1, 2, 3), 0))
        end += gap + length
    whole = PagePlaces(100, 200, tuple(made))
    stretches = [(start, start + length) for start, length in wanted]
    near = {place for start, stop in stretches for place in whole.of(start, stop)}
    found = places_near(places_text("text", "x" * end, whole), stretches)
    assert (found.width, found.height) == (100, 200)
    assert list(found.places) == [place for place in made if place in near]
