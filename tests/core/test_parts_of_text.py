"""The parts that chains are made of, one by one."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.marking import merge_stretches
from pale_harbor.core.text.interning import distinct_stretches
from pale_harbor.core.text.kinds import codes_of, text_firsts_of
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.place import Place, place_of
from pale_harbor.core.text.stages.accents import Accents
from pale_harbor.core.text.stages.blanks import Blanks
from pale_harbor.core.text.stages.whole import Whole
from pale_harbor.core.text.stop_words import english
from pale_harbor.core.text.tokens import Token
from tests.strategies import texts


@given(words=st.lists(st.sampled_from(["fog", "Fog", "f", "fo", "bell", "", "ﬁ"]), max_size=40))
def test_equal_stretches_get_one_number_and_different_ones_do_not(words: list[str]):
    words = [word for word in words if word]
    codes = codes_of("".join(words))
    firsts = text_firsts_of(words).astype(np.int32)
    ids, first_seen = np.empty(len(words), np.int32), np.empty(len(words), np.int32)
    count = distinct_stretches(codes, firsts[:-1], firsts[1:], ids, first_seen)
    assert count == len(set(words))
    assert [words[first_seen[number]] for number in ids] == words
    assert [first_seen[number] for number in range(count)] == [words.index(word) for word in dict.fromkeys(words)]


@given(text=texts(), data=st.data())
def test_pieces_that_replace_pieces_still_lead_back(text: str, data: st.DataObject):
    """Two rewritings in a row: doubling some letters, then dropping some of what there is."""
    doubled = MappedText(text).rewritten(
        (letter * data.draw(st.integers(1, 2)), i, i + 1) for i, letter in enumerate(text)
    )
    kept = [i for i in range(len(doubled.text)) if data.draw(st.booleans())]
    thinned = doubled.rewritten((doubled.text[i] if i in kept else "", i, i + 1) for i in range(len(doubled.text)))
    for i, letter in enumerate(thinned.text):
        start, end = thinned.origin(i, i + 1)
        assert text[start:end] == letter


@given(many=st.lists(texts(30), max_size=5))
def test_spaces_cuts_as_splitting_does(many: list[str]):
    # Python also splits at four controls of old terminals, which Unicode does not count as white space.
    many = ["".join("x" if "\x1c" <= letter <= "\x1f" else letter for letter in text) for text in many]
    cuts = Blanks().cut(codes_of("".join(many)), text_firsts_of(many))
    whole = "".join(many)
    pieces: list[list[str]] = [[] for _ in many]
    for text_id, start, end in zip(cuts.text_ids, cuts.starts, cuts.ends, strict=True):
        pieces[text_id].append(whole[start:end])
    assert pieces == [text.split() for text in many]


@given(many=st.lists(st.text(max_size=5), max_size=5))
def test_whole_leaves_every_text_that_is_not_empty(many: list[str]):
    cuts = Whole().cut(codes_of("".join(many)), text_firsts_of(many))
    assert cuts.text_ids.tolist() == [i for i, text in enumerate(many) if text]


@pytest.mark.parametrize(
    ("accented", "bare"),
    [
        ("é", "e"),
        ("Ångström", "Angstrom"),
        ("Łódź", "Lodz"),
        ("Đặng", "Dang"),
        ("ßẞ", "ssSS"),
        ("æœþ", "aeoeth"),
        ("ΐ", "ι"),
        ("ёй", "ей"),
        ("שָׁלוֹם", "שלום"),
        ("كِتَاب", "كتاب"),
        ("naïve", "naive"),
        ("plain", "plain"),
        ("がパ", "がパ"),
        ("हिन्दी", "हिन्दी"),
        ("\u0301", "\u0301"),
    ],
)
def test_accents_takes_marks_off_and_leaves_words_what_they_are(accented: str, bare: str):
    (token,) = Accents()(Token(accented, 0, len(accented), 0))
    assert token.text == bare


@given(text=st.text(min_size=1, max_size=12))
def test_folding_twice_is_folding_once_and_never_gives_nothing(text: str):
    (once,) = Accents()(Token(text, 0, len(text), 0))
    (twice,) = Accents()(once)
    assert once.text != ""
    assert twice.text == once.text


def test_stop_words_are_small_words_and_denials_stay():
    assert {"the", "of", "and", "is"} <= english.STOP_WORDS
    assert not {"not", "no", "never", "against the grain"} & english.STOP_WORDS
    assert all(word == word.lower() for word in english.STOP_WORDS)


@given(source=st.text(max_size=40), data=st.data())
def test_a_place_leads_back_to_its_stretch(source: str, data: st.DataObject):
    start = data.draw(st.integers(0, len(source)))
    end = data.draw(st.integers(start, len(source)))
    place = place_of(source, start, end)
    before = sum(len(line) + 1 for line in source.split("\n")[: place.line - 1])
    assert before + place.column - 1 == start
    assert place.length == max(1, end - start)


def test_a_place_counts_from_one():
    assert place_of("words", 0, 5) == Place(1, 1, 5)
    assert str(Place(2, 7, 3)) == "line 2, column 7"


@given(stretches=st.lists(st.tuples(st.integers(0, 30), st.integers(1, 8)).map(lambda s: (s[0], s[0] + s[1]))))
def test_merged_stretches_cover_the_same_letters_and_do_not_touch(stretches: list[tuple[int, int]]):
    made = merge_stretches(stretches)
    letters = {i for start, end in stretches for i in range(start, end)}
    assert {i for start, end in made for i in range(start, end)} == letters
    assert all(before[1] < after[0] for before, after in itertools.pairwise(made))
