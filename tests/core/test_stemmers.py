"""The stemmers give what was published, for any word at all; every language has its stop words."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text import chain_of
from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.languages import language_of
from pale_harbor.core.text.stages.stem import STEMMERS
from pale_harbor.core.text.stages.stopwords import STOP_WORDS
from tests.strategies import texts

DATA = Path(__file__).parents[1] / "data"


def samples(language: Language) -> list[tuple[str, str]]:
    lines = (DATA / f"stems.{language}.tsv").read_text("utf-8").splitlines()
    return [(word, stem) for word, _, stem in (line.partition("\t") for line in lines)]


@pytest.mark.parametrize("language", list(Language))
def test_every_published_sample_is_stemmed_as_published(language: Language):
    rows = samples(language)
    assert len(rows) >= 1_500
    chain = chain_of(f"whole > stem({language})")
    wrong = [(word, stem, chain.terms(word)) for word, stem in rows if chain.terms(word) != [stem]]
    assert wrong == []


@pytest.mark.parametrize(
    ("language", "word", "stem"),
    [
        # The vowel before -ment is the first letter of the region; in the second word it stands before the region.
        ("fr", "vraiment", "vrai"),
        ("fr", "frament", "frament"),
    ],
)
def test_an_ending_that_begins_just_where_a_region_does_goes(language: Language, word: str, stem: str):
    assert STEMMERS[language](word) == stem


@given(
    language=st.sampled_from(list(Language)),
    word=st.one_of(texts(20), st.text("aeiouyäöüáéíóúñçßnstrmkl'", max_size=14)),
)
def test_any_word_has_a_stem(language: Language, word: str):
    assert len(STEMMERS[language](word)) <= len(word.replace("ß", "ss")) + 1
    for token in chain_of(f"whole > stem({language})").run(word):
        assert token.text != ""


@pytest.mark.parametrize("language", list(Language))
def test_stop_words_are_small_words_of_their_language(language: Language):
    words = STOP_WORDS[language]
    assert len(words) >= 80
    assert all(word == word.lower() and " " not in word for word in words)
    assert chain_of(f"words > lower > stopwords({language})").terms(" ".join(sorted(words)).upper()) == []


@pytest.mark.parametrize(
    ("language", "first", "second"),
    [
        ("de", "Leuchttürme", "Leuchtturm"),
        ("fr", "gardiens", "gardien"),
        ("es", "barcos", "barco"),
        ("it", "navi", "nave"),
        ("pt", "barcos", "barco"),
        ("nl", "boten", "bot"),
        ("sv", "fyrarna", "fyrar"),
        ("no", "båtene", "båter"),
        ("da", "skibene", "skibet"),
        ("fi", "laivat", "laivan"),
        ("ru", "маяки", "маяка"),
        ("ro", "corăbiile", "corăbii"),
        ("hu", "hajók", "hajó"),
    ],
)
def test_forms_of_one_word_meet(language: str, first: str, second: str):
    chain = chain_of(f"words > lower > accents > stem({language})")
    assert chain.terms(first) == chain.terms(second)


def test_a_language_that_is_told_can_be_stemmed():
    for text, language in (
        ("Der Wärter des Leuchtturms wurde nicht mehr gesehen.", "de"),
        ("Le gardien du phare est dans la tour.", "fr"),
        ("El farero fue encontrado en las rocas con una lámpara.", "es"),
        ("Fyrvokteren ble ikke funnet etter det, og lampen var borte fra ham.", "no"),
    ):
        assert language_of(text) == language
        assert Language(language) in STEMMERS
