"""What matched on a page: joined where nothing stands between, with the words around and the boxes of its letters."""

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.marking import from_utf16, in_utf16
from pale_harbor.core.pages import Box, PagePlaces, Place, hits_on

NOWHERE = PagePlaces(0, 0, ())


def hits(text: str, *stretches: tuple[int, int], around: int = 60) -> list[tuple[str, str, str]]:
    return [(one.before, one.letters, one.after) for one in hits_on(text, NOWHERE, stretches, around)]


def test_words_with_only_blanks_between_are_one_hit():
    text = "the fog\nbell, the fog horn"
    assert hits(text, (4, 7), (8, 12), (18, 21)) == [
        ("the ", "fog bell", ", the fog horn"),
        ("the fog bell, the ", "fog", " horn"),
    ]
    # A comma stands between these.
    assert len(hits("fog, bell", (0, 3), (5, 9))) == 2


def test_as_many_whole_words_stand_around_as_fit():
    text = "one two three HERE four five six"
    assert hits(text, (14, 18), around=9) == [("three ", "HERE", " four")]
    assert hits(text, (14, 18), around=10) == [("two three ", "HERE", " four five")]
    assert hits(text, (14, 18), around=11) == [("two three ", "HERE", " four five")]
    # A word that is longer than what fits is cut.
    assert hits("abcdefghij HERE klmnopqrst", (11, 15), around=4) == [("hij ", "HERE", " klm")]


def test_nothing_matched_is_nothing():
    assert hits("fog") == []


def test_a_hit_has_the_boxes_of_its_letters_and_no_others():
    boxes = [Box(10 * number, 0, 8, 8) for number in range(3)]
    places = PagePlaces(100, 100, (Place(0, 3, boxes[0], 0), Place(4, 8, boxes[1], 0), Place(9, 11, boxes[2], 1)))
    one, other = hits_on("fog bell: no", places, [(0, 3), (9, 11)])
    assert one.boxes == (boxes[0],)
    assert other.boxes == (boxes[2],)
    (part,) = hits_on("fog bell: no", places, [(5, 6)])
    assert part.boxes == (boxes[1],)


@given(st.text(st.sampled_from("ab 🐋\n"), max_size=30), st.data())
def test_places_in_utf16_lead_back_to_code_points(text: str, data: st.DataObject):
    ends = sorted(data.draw(st.lists(st.integers(0, len(text)), min_size=2, max_size=2)))
    stretch = (ends[0], ends[1])
    assert from_utf16(text, in_utf16(text, [stretch])) == [stretch]
