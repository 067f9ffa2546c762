"""Chains that leave words whole, for beginnings and endings of words."""

import pytest

from pale_harbor.core.text import ChainsByLanguage, chain_of
from pale_harbor.core.text.unstemmed import unstemmed


@pytest.mark.parametrize(
    ("chain", "whole"),
    [
        ("nfkc > words > lower > accents > stopwords(en) > stem(en)", "nfkc > words > lower > accents > stopwords(en)"),
        ("words > lower > stem(en, light) > prefixes(1, 8)", "words > lower"),
        ("blanks > lower > sounds(soundex)", "blanks > lower"),
        ("words > lower > word_grams(2, 2)", "words > lower"),
        ("words > reverse > lower", "words > lower"),
        # A tokenizer that cuts words gives way to one that does not.
        ("nfkc > grams(3, 3) > lower", "nfkc > words > lower"),
        ("prefixes(1, 4)", "words"),
    ],
)
def test_what_leaves_no_whole_word_is_left_out(chain: str, whole: str):
    assert unstemmed(chain_of(chain)) == chain_of(whole)


def test_a_chain_that_leaves_words_whole_is_itself():
    chain = chain_of("markup > nfkc > elide(fr) > letters > lower > accents > stopwords(fr)")
    assert unstemmed(chain) is chain


def test_by_language_each_chain_is_its_own():
    stemmed, plain = chain_of("words > stem(de)"), chain_of("words")
    by = unstemmed(ChainsByLanguage("language", (("de", stemmed), ("en", plain)), stemmed))
    assert by == ChainsByLanguage("language", (("de", plain), ("en", plain)), plain)
