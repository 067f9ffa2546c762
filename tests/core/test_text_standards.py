"""Published standards hold: word boundaries, normal forms, the English stemmer."""

import unicodedata
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.kinds import codes_of, text_firsts_of
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.stages.nfkc import Nfkc
from pale_harbor.core.text.stages.words import Words
from pale_harbor.core.text.stemmers.english import stem
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
