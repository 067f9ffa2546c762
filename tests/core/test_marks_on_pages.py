"""Whatever a chain makes of a page's text, what a query matched leads back to the boxes of those very letters."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.marking import marks
from pale_harbor.core.pages import Box, PagePlaces, ReadWord, composed
from pale_harbor.core.ranking import Ranker, SlackWhen, Spelling
from pale_harbor.core.text import Chain, chain_of
from tests.core.test_as_typed import prepared_for, reading
from tests.strategies import LISTS, chains

LETTERS = [
    "Light-",
    "light",
    "house",
    "the",
    "frefh",
    "fog",
    "Bells",
    "ſhip",
    "e\u0301l\u00e9phant",
    "x",
    "-",
    "霧",
    "a b",
]


@st.composite
def pages(draw: st.DrawFn) -> list[ReadWord]:
    """Words in lines and blocks, each with a box that is as far across as its number."""
    made: list[ReadWord] = []
    line = block = 0
    for number, letters in enumerate(draw(st.lists(st.sampled_from(LETTERS), min_size=1, max_size=14))):
        step = draw(st.integers(0, 5))
        line, block = line + (step > 2), block + (step == 5)
        made.append(ReadWord(letters=letters, box=Box(10 * number, 0, 9, 9), line=line, block=block))
    return made


def letters_of_boxes(words: list[ReadWord]) -> dict[int, set[int]]:
    """By each box, the letters of the text that it is of: told from the text and the words alone."""
    made = composed(words)
    found: dict[int, set[int]] = {}
    at = 0
    for number, word in enumerate(words):
        own = word.letters.strip()
        if not own:
            continue
        # Blanks alone stand between words; a hyphen that parts a word is no letter of it.
        forms = [own, own.rstrip("-")] if own.rstrip("-") else [own]
        at = next(place for place in range(at, at + 3) if any(made.text.startswith(one, place) for one in forms))
        length = len(own) if made.text.startswith(own, at) else len(own.rstrip("-"))
        found[number] = set(range(at, at + length))
        at += length
    return found


def boxes_of(words: list[ReadWord], start: int, end: int) -> set[int]:
    found = PagePlaces(1000, 1000, composed(words).places).of(start, end)
    return {round(one.box.x) // 10 for one in found}


@given(pages(), chains())
def test_each_tokens_boxes_are_those_of_the_letters_that_it_came_from(words: list[ReadWord], chain: Chain):
    of_boxes = letters_of_boxes(words)
    for token in chain.run(composed(words).text):
        letters = set(range(token.start, token.end))
        wanted = {number for number, own in of_boxes.items() if own & letters}
        assert boxes_of(words, token.start, token.end) == wanted


@given(
    pages(),
    chains(),
    st.sampled_from(["lighthouse", "fog bell", "the light", '"fog the"', "e\u0301l", "ship"]),
    st.booleans(),
)
def test_each_marks_boxes_are_those_of_the_letters_that_it_marks(
    words: list[ReadWord], chain: Chain, query: str, is_typed: bool
):
    of_boxes = letters_of_boxes(words)
    ranker = Ranker(readings=(reading(chain),), spelling=Spelling(when=SlackWhen.ALWAYS))
    query_found = prepared_for([composed(words).text], query, ranker, is_typed)
    for start, end in marks(query_found, [0])[0].get("text", []):
        letters = set(range(start, end))
        assert boxes_of(words, start, end) == {number for number, own in of_boxes.items() if own & letters}


def page(*lines: str) -> list[ReadWord]:
    made: list[ReadWord] = []
    for line, text in enumerate(lines):
        for letters in text.split():
            made.append(ReadWord(letters=letters, box=Box(10 * len(made), 0, 9, 9), line=line, block=0))
    return made


def marked_boxes(words: list[ReadWord], query: str, chain: str, **knobs: Any) -> list[set[int]]:
    """The boxes of each thing that a query marks on a page."""
    ranker = Ranker(readings=(reading(chain_of(chain, LISTS)),), **knobs)
    found = marks(prepared_for([composed(words).text], query, ranker, is_typed=False), [0])[0].get("text", [])
    return [boxes_of(words, start, end) for start, end in found]


LOG = page("The fog bells rung at the light-", "house wind frefh")


@pytest.mark.parametrize(
    ("query", "chain", "boxes"),
    [
        ("bell", "words > lower > stem(en)", [{2}]),
        ("lighthouse", "words > lower", [{6, 7}]),
        ("house", "words > lower", []),
        ("hthou", "words > lower > grams(3, 5)", [{6, 7}]),
        ('"the lighthouse wind"', "words > lower", [{5, 6, 7, 8}]),
        ('"at the"', "words > lower", [{4, 5}]),
    ],
)
def test_what_is_found_lies_in_its_boxes(query: str, chain: str, boxes: list[set[int]]):
    assert marked_boxes(LOG, query, chain) == boxes


def test_a_word_that_was_read_wrong_is_found_by_its_spelling_and_marked():
    assert marked_boxes(LOG, "fresh", "words > lower") == []
    assert marked_boxes(LOG, "fresh", "words > lower", spelling=Spelling(when=SlackWhen.ALWAYS)) == [{9}]
