"""Chains: pure, true to the letters, and the same by the fast way as by the plain way."""

import itertools
import pickle

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text import Chain, Token, chain_of
from tests.strategies import LISTS, chains, texts


@given(chain=chains(), text=texts())
def test_the_same_text_gives_the_same_tokens(chain: Chain, text: str):
    assert chain.run(text) == chain.run(text) == chain_of(chain.notation, LISTS).run(text)


@given(chain=chains(), text=texts())
def test_a_word_of_a_query_is_read_like_any_text_and_once_where_it_is_short(chain: Chain, text: str):
    for letters in (text, text[:1] * 50, text[:1] * 51):
        first, again = chain.run_on_word(letters), chain.run_on_word(letters)
        assert list(first) == list(again) == chain.run(letters)
        # What is longer than fifty letters is no word that is asked again.
        assert not first or (first is again) == (len(letters) <= 50)


def test_a_chain_that_has_read_words_goes_to_another_process():
    chain = chain_of("words > lower > stem(en)")
    assert [token.text for token in chain.run_on_word("Harpoons")] == ["harpoon"]
    other = pickle.loads(pickle.dumps(chain))
    assert other == chain
    assert [token.text for token in other.run_on_word("Harpoons")] == ["harpoon"]


@given(chain=chains(), many=st.lists(texts(), max_size=6))
def test_reading_many_texts_gives_what_running_each_gives(chain: Chain, many: list[str]):
    table = chain.read(many)
    assert [table.tokens_of(text_id) for text_id in range(len(many))] == [chain.run(text) for text in many]


@given(chain=chains(), text=texts())
def test_the_terms_of_a_text_are_those_of_its_tokens(chain: Chain, text: str):
    assert chain.terms(text) == [token.text for token in chain.run(text)]


@given(chain=chains(), text=texts())
def test_a_trace_ends_with_the_tokens_of_a_run(chain: Chain, text: str):
    traces = chain.trace(text)
    assert len(traces) == len(chain.calls)
    assert list(traces[-1].tokens) == chain.run(text)


@given(chain=chains(), text=texts())
def test_a_trace_tells_where_every_token_came_from(chain: Chain, text: str):
    traces = chain.trace(text)
    for before, after in itertools.pairwise(traces):
        if after.text is None and before.text is None:
            assert len(after.parents) == len(after.tokens)
            for token, parent in zip(after.tokens, after.parents, strict=True):
                assert token.start >= before.tokens[parent].start
                assert token.position >= before.tokens[parent].position
            assert set(after.dropped) == set(range(len(before.tokens))) - set(after.parents)


@given(chain=chains(), text=texts())
def test_offsets_are_stretches_of_the_original_value(chain: Chain, text: str):
    for token in chain.run(text):
        assert 0 <= token.start < token.end <= len(text)


_SEEING_ONE_TOKEN = st.sampled_from(
    [
        "words > lower > accents > stem(en)",
        "nfkc > words > lower > stopwords(en)",
        "markup > nfc > letters > casefold",
        "words > possessive > grams(2, 3)",
        "blanks > prefixes(1, 4)",
        "find(/[a-z]+/) > reverse",
        "words > sounds(metaphone)",
    ]
)


@given(notation=_SEEING_ONE_TOKEN, text=texts())
def test_the_stretch_a_token_came_from_gives_that_token_again(notation: str, text: str):
    chain = chain_of(notation)
    for token in chain.run(text):
        again = chain.run(text[token.start : token.end])
        assert token.text in [other.text for other in again]


@given(chain=chains(), text=texts())
def test_exact_tokens_say_the_letters_of_their_stretch_one_by_one(chain: Chain, text: str):
    for token in chain.run(text):
        assert not token.exact or len(token.text) == token.end - token.start


@given(chain=chains(), text=texts())
def test_tokens_stand_in_order(chain: Chain, text: str):
    tokens = chain.run(text)
    assert [token.position for token in tokens] == sorted(token.position for token in tokens)
    assert all(token.span >= 1 for token in tokens)


@given(chain=chains(), many=st.lists(texts(), max_size=4))
def test_reading_by_stage_ends_as_reading_at_once(chain: Chain, many: list[str]):
    reads = list(chain.read_by_stage(many))
    assert [read.call for read in reads] == list(chain.calls)
    last, plain = reads[-1].table, [chain.run(text) for text in many]
    assert last is not None
    assert [last.tokens_of(text_id) for text_id in range(len(many))] == plain
    traces = [chain.trace(text) for text in many]
    for number, read in enumerate(reads):
        if read.table is None or read.source is not None:
            assert read.changed == sum(trace[number].changed for trace in traces)


def test_a_dropped_token_leaves_its_gap():
    tokens = chain_of("words > lower > stopwords(en)").run("The log of the Kittiwake")
    assert [(token.text, token.position) for token in tokens] == [("log", 1), ("kittiwake", 4)]


def test_marks_are_on_the_right_letters_through_a_text_stage():
    text = "e\u0301te\u0301 ﬁshing №5"
    tokens = chain_of("nfkc > words > lower > accents > stem(en)").run(text)
    assert [(token.text, text[token.start : token.end]) for token in tokens] == [
        ("ete", "e\u0301te\u0301"),
        ("fish", "ﬁshing"),
        ("no5", "№5"),
    ]


@pytest.mark.parametrize(
    ("notation", "text", "expected"),
    [
        ("words", "Don't stop-start, 3.5 m!", ["Don't", "stop", "start", "3.5", "m"]),
        ("words", "⚓ ahoy © ❤️ 🇳🇴 -", ["⚓", "ahoy", "❤️", "🇳🇴"]),
        # A heart is a word without its selector too; a sign is none.
        ("words", "❤ ☀ ⏏ © ™ → ✂", ["❤", "☀", "✂"]),
        ("words > accents", "❤ ❤\ufe0f 👍🏽 👍 🏽", ["❤", "❤", "👍", "👍", " 🏽"]),
        ("words > accents", "O’Brien O'Brien Oʼ", ["O'Brien", "O'Brien", "O'"]),
        # A mark on nothing is no word.
        ("letters", "❤\ufe0f harbor\u0301 5\u0301a", ["harbor\u0301", "\u0301a"]),
        ("blanks", "  SKR-2070b,\u00a0two\u3000copies ", ["SKR-2070b,", "two", "copies"]),
        ("whole", " Gull Sound ", [" Gull Sound "]),
        ("whole", "", []),
        ("words > lower", "HARBOR ΟΔΌΣ İ", ["harbor", "οδός", "i̇"]),
        ("words > accents", "Skærgård Łódź Größe Đà ё й", ["Skaergard", "Lodz", "Grosse", "Da", "е", "й"]),
        ("words > accents", "हिन्दी が 한글", ["हिन्दी", "が", "한글"]),
        ("words > lower > stopwords(en)", "The Log Of It", ["log"]),
        ("words > stem(en)", "harbors sailing generously", ["harbor", "sail", "generous"]),
    ],
)
def test_what_stages_make_of_a_text(notation: str, text: str, expected: list[str]):
    assert [token.text for token in chain_of(notation).run(text)] == expected


def test_equal_chains_are_equal_however_they_are_laid_out():
    assert chain_of("words>lower") == chain_of("words  >  lower # small")
    assert chain_of("words") != chain_of("blanks")


def test_tokens_of_one_text_are_found_among_many():
    table = chain_of("words").read(["a b", "", "c"])
    assert [table.tokens_of(i) for i in range(3)] == [
        [Token("a", 0, 1, 0), Token("b", 2, 3, 1)],
        [],
        [Token("c", 0, 1, 0)],
    ]
