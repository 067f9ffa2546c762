"""Words that a machine read become one text, and its letters lead back to their boxes."""

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.pages import Box, PagePlaces, Part, Place, ReadWord, composed


def word(letters: str, line: int = 0, block: int = 0, **more: object) -> ReadWord:
    """A word whose box tells which one it is: by its line."""
    usual: dict[str, object] = {"box": Box(10.0 * line, 20.0 * block, 5, 5)}
    return ReadWord(letters=letters, line=line, block=block, **(usual | more))  # type: ignore[arg-type]


def said(*words: ReadWord) -> str:
    return composed(words).text


def test_lines_and_blocks_end_where_they_end_on_the_page():
    assert said(word("Wind"), word("fresh"), word("from", 1), word("NE.", 1), word("Noon", 2, 1)) == (
        "Wind fresh\nfrom NE.\n\nNoon"
    )


def test_each_letter_leads_to_the_box_of_its_word():
    words = [word("Wind", confidence=0.9), word("fresh", 1)]
    made = composed(words)
    assert made.places == (
        Place(0, 4, words[0].box or Box(0, 0, 0, 0), 0, 0.9),
        Place(5, 10, words[1].box or Box(0, 0, 0, 0), 1),
    )
    places = PagePlaces(100, 100, made.places)
    assert [one.line for one in places.of(3, 4)] == [0]
    assert places.of(4, 5) == ()
    assert [one.line for one in places.of(3, 6)] == [0, 1]
    assert [one.line for one in places.of(5, 6)] == [1]


def test_a_word_that_the_file_parts_is_one_with_two_boxes_and_its_line_goes_on():
    made = composed(
        [
            word("the"),
            word("light", part="first", whole="lighthouse"),
            word("house", 1, part="second", whole="lighthouse"),
            word("keeper", 1),
        ]
    )
    assert made.text == "the lighthouse\nkeeper"
    places = PagePlaces(100, 100, made.places)
    assert [(one.start, one.end, one.line) for one in places.of(4, 14)] == [(4, 9, 0), (9, 14, 1)]


def test_a_whole_that_is_told_otherwise_than_it_stands_there_is_shared_out():
    # The machine read "lighl-", and somebody told what it is.
    parts = (word("lighl-", part="first", whole="lighthouse"), word("houfe", 1, part="second", whole="lighthouse"))
    made = composed(parts)
    assert (made.text, [(one.start, one.end) for one in made.places]) == ("lighthouse", [(0, 5), (5, 10)])
    # A whole that is shorter than its first part leaves the second one no letter.
    parts = (word("lamp-", part="first", whole="oil"), word("oil", 1, part="second"))
    assert [(one.start, one.end, one.line) for one in composed(parts).places] == [(0, 3, 0)]


def test_a_hyphen_at_the_end_of_a_line_parts_a_word_where_the_next_line_goes_on_small():
    assert said(word("light-"), word("house", 1)) == "lighthouse"
    assert said(word("Port-"), word("Haven", 1)) == "Port-\nHaven"
    assert said(word("1846-"), word("bell", 1)) == "1846-\nbell"
    assert said(word("bell-"), word("1846", 1)) == "bell-\n1846"
    assert said(word("bell"), word("-", 0), word("rope", 1)) == "bell -\nrope"
    # In the middle of a line it is a letter like any other.
    assert said(word("fog-"), word("bell")) == "fog- bell"
    # Another block may be a note or a number of the page.
    assert said(word("light-"), word("house", 1, 1)) == "light-\n\nhouse"


def test_signs_that_do_nothing_else_part_whatever_follows():
    for sign in "\u00ad\u00ac":
        assert said(word(f"Port{sign}"), word("Haven", 1)) == "PortHaven"
    for sign in "\u2010\u2e17=":
        assert said(word(f"light{sign}"), word("house", 1)) == "lighthouse"
        assert said(word(f"Port{sign}"), word("Haven", 1)) == f"Port{sign}\nHaven"


def test_a_word_over_three_lines_has_three_boxes():
    made = composed([word("in-"), word("commu-", 1), word("nicable", 2), word("fog", 2)])
    assert made.text == "incommunicable\nfog"
    assert [(one.start, one.end, one.line) for one in made.places] == [(0, 2, 0), (2, 7, 1), (7, 14, 2), (15, 18, 2)]


def test_a_part_without_the_other_stands_as_it_is():
    assert said(word("light-", part="first"), word("house", 1)) == "light-\nhouse"
    assert said(word("light-"), word("house", 1, part="second")) == "light-\nhouse"


def test_words_without_letters_are_passed_over_and_words_without_boxes_are_text():
    made = composed([word("Wind"), word(" "), word("fresh", box=None)])
    assert (made.text, len(made.places)) == ("Wind fresh", 1)
    assert composed([]).text == ""


parts: st.SearchStrategy[Part | None] = st.sampled_from([None, None, None, "first", "second"])
written = st.lists(
    st.builds(
        ReadWord,
        letters=st.text("aB -\u00ad\u00e9\u4e2d", max_size=6),
        box=st.none() | st.just(Box(1, 2, 3, 4)),
        line=st.integers(0, 3),
        block=st.integers(0, 1),
        part=parts,
        whole=st.none() | st.text("abc", max_size=8),
    ),
    max_size=20,
)


@given(written)
def test_places_follow_one_another_and_hold_all_letters_of_words_with_boxes(words: list[ReadWord]):
    made = composed(words)
    end = 0
    for place in made.places:
        assert end <= place.start < place.end <= len(made.text)
        end = place.end
    if all(one.box is not None for one in words):
        left = "".join(
            letter
            for number, letter in enumerate(made.text)
            if not any(one.start <= number < one.end for one in made.places)
        )
        assert left.strip() == ""


def test_no_letters_are_nowhere():
    places = PagePlaces(10, 10, (Place(0, 2, Box(1, 2, 3, 4), 0),))
    assert [len(places.of(start, end)) for start, end in ((1, 1), (1, 0), (0, 1), (1, 2), (2, 3))] == [0, 0, 1, 1, 0]


@given(written, st.integers(0, 60), st.integers(0, 60))
def test_a_stretch_leads_to_the_boxes_of_its_letters_and_to_no_others(words: list[ReadWord], start: int, end: int):
    places = PagePlaces(10, 10, composed(words).places)
    by_letter = {one for letter in range(start, end) for one in places.of(letter, letter + 1)}
    assert set(places.of(start, end)) == (by_letter if start < end else set())
