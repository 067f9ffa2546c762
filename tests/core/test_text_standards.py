"""Published standards hold: word boundaries, normal forms, the English stemmer."""

import unicodedata
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.kinds import codes_of, text_firsts_of
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.stages.accents import bare
from pale_harbor.core.text.stages.nfkc import Nfkc
from pale_harbor.core.text.stages.words import Words
from pale_harbor.core.text.stemmers.english import stem
from pale_harbor.core.text.word_boundaries import EMOJI, LETTER_OR_DIGIT, PICTOGRAPH, word_break_table
from tests.strategies import texts

DATA = Path(__file__).parents[1] / "data"


def word_break_cases() -> list[list[str]]:
    """Each case as its segments."""
    cases: list[list[str]] = []
    for line in (DATA / "WordBreakTest.txt").read_text("utf-8").splitlines():
        rule = line.partition("#")[0].strip()
        if rule:
            parts = [part.replace("×", " ").split() for part in rule.split("÷") if part.strip()]
            cases.append(["".join(chr(int(code, 16)) for code in part) for part in parts])
    return cases


def holds_letter_or_digit(segment: str) -> bool:
    return any(unicodedata.category(character)[0] in "LN" for character in segment)


def words_of(text: str) -> list[str]:
    cuts = Words().cut(codes_of(text), text_firsts_of([text]))
    return [text[start:end] for start, end in zip(cuts.starts, cuts.ends, strict=True)]


def ranges_of(stretches: str) -> list[tuple[int, int]]:
    """The first and last code points of stretches in hexadecimal."""
    return [
        (int(first, 16), int(last or first, 16)) for first, _, last in (one.partition("-") for one in stretches.split())
    ]


@pytest.mark.parametrize(
    ("flag", "held"),
    [
        (PICTOGRAPH, "A9 AE 203C 2049 1F4FE-1F4FF 1F546-1F549 1FC00-1FFFD"),
        (LETTER_OR_DIGIT, "30-39 41-5A 61-7A AA B5 BA C0-D6"),
        (EMOJI, "231A-231B 23E9-23EC 1F334-1F335"),
    ],
)
def test_a_flag_holds_for_the_first_and_last_of_a_stretch_and_not_beside_it(flag: int, held: str):
    table = word_break_table()
    for first, last in ranges_of(held):
        assert table[first] & flag
        assert table[last] & flag


def test_what_accents_takes_off_alone_is_a_mark():
    for code in range(0x300, 0x11000):
        mark = chr(code)
        if unicodedata.decomposition(mark) == "" and bare(f"a{mark}") == "a":
            assert unicodedata.category(mark).startswith("M"), hex(code)
    # The letters before and after marks of Arabic stay.
    assert bare("\u0671\u064a") == "\u0671\u064a"
    assert bare("a\u0670") == "a"


def test_words_passes_the_unicode_word_break_test():
    cases = word_break_cases()
    assert len(cases) > 1_800
    for segments in cases:
        expected = [segment for segment in segments if holds_letter_or_digit(segment)]
        assert [word for word in words_of("".join(segments)) if holds_letter_or_digit(word)] == expected


@given(many=st.lists(texts(30), max_size=5))
def test_no_word_runs_from_one_text_into_the_next(many: list[str]):
    cuts = Words().cut(codes_of("".join(many)), text_firsts_of(many))
    apart = [[] for _ in many]
    whole = "".join(many)
    for text_id, start, end in zip(cuts.text_ids, cuts.starts, cuts.ends, strict=True):
        apart[text_id].append(whole[start:end])
    assert apart == [words_of(text) for text in many]


@given(text=st.text(max_size=40))
def test_nfkc_stretch_by_stretch_is_nfkc_of_the_whole(text: str):
    assert Nfkc()(MappedText(text)).text == unicodedata.normalize("NFKC", text)


@given(text=texts())
def test_every_letter_of_a_normal_form_leads_back_to_letters_that_give_it(text: str):
    mapped = Nfkc()(MappedText(text))
    for i, character in enumerate(mapped.text):
        start, end = mapped.origin(i, i + 1)
        assert character in unicodedata.normalize("NFKC", text[start:end])


@pytest.mark.parametrize("word", ["captain's", "captain’s", "'captain's'"])
def test_any_apostrophe_is_one_to_the_stemmer(word: str):
    assert stem(word) == "captain"
