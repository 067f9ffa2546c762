"""Word lists in and out: what goes out comes in again, and what is wrong is told by line."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.word_lists import (
    ListKind,
    Replacements,
    SynonymRule,
    Synonyms,
    WordList,
    WordSet,
    entries_of,
    kind_of_list,
)
from pale_harbor.errors import BadInput
from pale_harbor.formats.skos import SkosReading, synonyms_of
from pale_harbor.formats.word_lists import csv_of, list_of_stored, stored_entries, word_list_of
from tests.conftest import ROOT

_CELL = (
    st.text(st.characters(exclude_categories=("Cs", "Cc"), exclude_characters="|"), min_size=1, max_size=12)
    .map(lambda text: " ".join(text.split()))
    .filter(lambda text: text.strip() == text and text != "" and text.lower() not in ("word", "words", "from"))
)


def word_lists() -> st.SearchStrategy[WordList]:
    cells = st.lists(_CELL, min_size=1, max_size=3, unique=True).map(tuple)
    rules = st.lists(st.builds(SynonymRule, cells, cells, st.booleans()), max_size=5, unique=True)
    return st.one_of(
        st.frozensets(_CELL, max_size=6).map(WordSet),
        st.dictionaries(_CELL, _CELL, max_size=6).map(lambda pairs: Replacements(tuple(pairs.items()))),
        rules.map(lambda made: Synonyms(tuple(made))),
    )


@given(word_list=word_lists())
def test_a_list_goes_out_and_comes_in_again(word_list: WordList):
    assert word_list_of(csv_of(word_list)) == word_list
    assert list_of_stored(kind_of_list(word_list), stored_entries(word_list)) == word_list


@given(word_list=word_lists())
def test_lists_that_say_the_same_have_one_digest(word_list: WordList):
    again = word_list_of(csv_of(word_list))
    assert again.digest == word_list.digest
    other = WordSet(frozenset({"another word altogether"}))
    assert other.digest != word_list.digest or other == word_list


def test_the_first_line_tells_the_kind():
    assert word_list_of("word\nfog\n\nfog\nbell\n") == WordSet(frozenset({"fog", "bell"}))
    assert word_list_of("from,to\nne'er,never\n") == Replacements((("ne'er", "never"),))
    rules = Synonyms((SynonymRule(("foghorn",), ("fog horn", "fog signal")), SynonymRule(("a",), ("b",), False)))
    assert word_list_of("words,means,way\nfoghorn,fog horn | fog  signal,both\na,b,one\n") == rules
    assert word_list_of("words,means\nfoghorn,fog horn | fog signal\n").rules == rules.rules[:1]  # pyright: ignore
    assert word_list_of("fog\nbell", ListKind.WORDS) == WordSet(frozenset({"fog", "bell"}))


def test_meanings_go_both_ways_or_one():
    rules = Synonyms((SynonymRule(("foghorn",), ("fog horn",)), SynonymRule(("lance",), ("iron",), both_ways=False)))
    assert dict(rules.meanings) == {
        ("foghorn",): (("fog", "horn"),),
        ("fog", "horn"): (("foghorn",),),
        ("lance",): (("iron",),),
    }
    assert entries_of(rules) == ["foghorn", "fog horn", "lance"]


def problems(text: str, kind: ListKind | None = None) -> list[tuple[str, str]]:
    with pytest.raises(BadInput) as caught:
        word_list_of(text, kind)
    return caught.value.problems


def test_every_wrong_line_is_told():
    assert problems(f"words,means,way\nfog,mist,sometimes\n,mist,both\nfog,,one\na,b,both,c\n{'x' * 201},y,both\n") == [
        ("line 2", 'the way is "both" or "one"; "sometimes" is neither.'),
        ("line 3", "words of the same meaning are missing: two at least."),
        ("line 4", "words of the same meaning are missing: two at least."),
        ("line 5", "4 columns, and there are 3. Put quotes around what holds a comma."),
        ("line 6", "an entry is at most 200 characters long."),
    ]
    assert problems("from,to\n,a\nb,c\nb,d\n") == [
        ("line 2", "what is replaced is missing."),
        ("line 4", '"b" is replaced by "c" already, on line 3.'),
    ]
    ((where, _),) = problems('word\n"two\nlines"\na\x00b\n')
    assert where == "line 4"


def test_a_text_without_a_kind_or_of_another_is_refused():
    with pytest.raises(BadInput, match="The first line must name the columns: word for words"):
        word_list_of("fog\nbell\n")
    with pytest.raises(BadInput, match="These are columns of words; this is a list of synonyms"):
        word_list_of("word\nfog\n", ListKind.SYNONYMS)


TURTLE = b"""
@prefix skos: <http://www.w3.org/2004/02/skos/core#> .
@prefix s: <urn:s:> .
s:boat skos:prefLabel "boat"@en, "Boot"@de ; skos:altLabel "small craft"@en .
s:coble skos:prefLabel "coble"@en ; skos:broader s:boat .
s:light skos:prefLabel "light"@en ; skos:narrower s:beacon .
s:beacon skos:prefLabel "beacon"@en .
"""


def rules_of(
    reading: SkosReading, content: bytes = TURTLE, name: str = "sea.ttl"
) -> list[tuple[tuple[str, ...], tuple[str, ...], bool]]:
    return [(rule.words, rule.means, rule.both_ways) for rule in synonyms_of(content, name, reading).rules]


def test_labels_of_a_concept_mean_the_same_language_by_language():
    assert rules_of(SkosReading()) == [(("boat",), ("small craft",), True)]
    ((words, means, both_ways),) = rules_of(SkosReading(across=True))
    assert {*words, *means} == {"boat", "small craft", "Boot"}
    assert both_ways


def test_words_also_mean_what_is_right_below_one_way():
    assert rules_of(SkosReading(("en",), narrower=True)) == [
        (("boat",), ("small craft",), True),
        (("boat", "small craft"), ("coble",), False),
        (("light",), ("beacon",), False),
    ]


def test_a_thesaurus_that_cannot_be_read_says_why():
    with pytest.raises(BadInput, match="a thesaurus is read from"):
        rules_of(SkosReading(), name="sea.json")
    with pytest.raises(BadInput, match="cannot be read as turtle"):
        rules_of(SkosReading(), b"this is no turtle")
    with pytest.raises(BadInput, match="gives no synonyms"):
        rules_of(SkosReading(("fr",)))
    bomb = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa">]><x>&a;</x>'
    with pytest.raises(BadInput, match="XML with a document type of its own, or not in UTF-8, is not read"):
        rules_of(SkosReading(), bomb, "sea.rdf")
    with pytest.raises(BadInput, match="not in UTF-8"):
        rules_of(SkosReading(), bomb.decode().encode("utf-16"), "sea.rdf")


def test_the_demos_lists_and_thesaurus_can_be_read():
    for file in sorted((ROOT / "demo/word-lists").glob("*.csv")):
        assert entries_of(word_list_of(file.read_text("utf-8"))), file.name
    thesaurus = synonyms_of((ROOT / "demo/thesaurus.ttl").read_bytes(), "thesaurus.ttl", SkosReading(("en",)))
    assert ("life", "boat") in thesaurus.meanings
