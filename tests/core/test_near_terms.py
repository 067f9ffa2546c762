"""Terms near a word: exactly those that comparing with every term would find."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index.near_terms import LONGEST_WORD, edit_distance, near_terms
from pale_harbor.core.index.similar_terms import similar_terms, trigram_similarity
from pale_harbor.core.index.vocabulary import Vocabulary, vocabulary_of

words = st.text(st.sampled_from("abcéß漢𐍈") | st.characters(exclude_categories=("Cs",)), max_size=7)
close_words = st.text("abc", max_size=7)
vocabularies = st.sets(close_words | words, max_size=40).map(lambda terms: vocabulary_of(sorted(terms)))


def found(vocabulary: Vocabulary, word: str, edits: int, fixed: int = 0) -> dict[str, int]:
    numbers, distances = near_terms(vocabulary, word, edits, fixed)
    assert numbers.tolist() == sorted(numbers.tolist())
    return {vocabulary.term(n): d for n, d in zip(numbers.tolist(), distances.tolist(), strict=True)}


@given(vocabulary=vocabularies, word=close_words | words, edits=st.integers(0, 2), fixed=st.integers(0, 3))
def test_the_walk_finds_what_comparing_with_every_term_finds(vocabulary: Vocabulary, word: str, edits: int, fixed: int):
    expected = {
        term: distance
        for term in vocabulary
        if (distance := edit_distance(word, term)) <= edits and term.startswith(word[:fixed])
    }
    assert found(vocabulary, word, edits, fixed) == expected


def all_distances(terms: np.ndarray, lengths: np.ndarray, word: np.ndarray) -> np.ndarray:
    """Optimal string alignment of a word with every term at once: rows over the word, columns over all terms."""
    count, longest = terms.shape
    rows = [np.broadcast_to(np.arange(longest + 1), (count, longest + 1)).copy()]
    for i, letter in enumerate(word.tolist(), start=1):
        row = np.full((count, longest + 1), i)
        for j in range(1, longest + 1):
            same = terms[:, j - 1] == letter
            row[:, j] = np.minimum(np.minimum(rows[-1][:, j], row[:, j - 1]) + 1, rows[-1][:, j - 1] + ~same)
            if i > 1 and j > 1:
                turned = (terms[:, j - 2] == letter) & (terms[:, j - 1] == word[i - 2])
                row[:, j] = np.where(turned, np.minimum(row[:, j], rows[-2][:, j - 2] + 1), row[:, j])
        rows.append(row)
    return rows[-1][np.arange(count), lengths]


def test_candidates_of_ten_thousand_random_words_are_those_of_brute_force():
    rng = np.random.default_rng(1690)
    letters = np.array(list("aeinorst"))
    terms = sorted({"".join(rng.choice(letters, rng.integers(2, 8))) for _ in range(250)})
    vocabulary = vocabulary_of(terms)
    lengths = np.array([len(term) for term in terms])
    padded = np.zeros((len(terms), lengths.max()), np.int64)
    for row, term in enumerate(terms):
        padded[row, : len(term)] = [ord(letter) for letter in term]
    near = 0
    for _ in range(10_000):
        word = "".join(rng.choice(letters, rng.integers(2, 8)))
        numbers, distances = near_terms(vocabulary, word, 2)
        every = all_distances(padded, lengths, np.array([ord(letter) for letter in word]))
        assert numbers.tolist() == np.flatnonzero(every <= 2).tolist()
        assert distances.tolist() == every[every <= 2].tolist()
        near += numbers.size
    assert near > 10_000


@pytest.mark.parametrize(
    ("a", "b", "edits"),
    [
        ("harpoon", "harpon", 1),
        ("boat", "baot", 1),
        ("boat", "oat", 1),
        ("boat", "boot", 1),
        ("boat", "bota", 1),
        # No stretch is edited twice: three edits, although two changes of place and one letter would do.
        ("ca", "abc", 3),
        ("", "fog", 3),
        ("Åsmoe", "Asmoe", 1),
    ],
)
def test_edits_by_hand(a: str, b: str, edits: int):
    assert edit_distance(a, b) == edit_distance(b, a) == edits
    assert found(vocabulary_of([b] if b else []), a, edits) == ({b: edits} if b else {})
    assert found(vocabulary_of([b] if b else []), a, edits - 1) == {}


def test_very_long_words_have_no_neighbours():
    long = "a" * (LONGEST_WORD + 1)
    assert found(vocabulary_of([long]), long, 2) == {}
    longest = long[1:]
    assert LONGEST_WORD == 60
    assert found(vocabulary_of([longest]), longest, 2) == {longest: 0}


@given(vocabulary=vocabularies, word=close_words | words, threshold=st.sampled_from([0.1, 0.3, 0.5, 1.0]))
def test_similar_terms_are_those_that_comparing_with_every_term_finds(
    vocabulary: Vocabulary, word: str, threshold: float
):
    def trigrams(text: str) -> set[tuple[str, ...]]:
        marked = ["<", *text, ">"]
        return {tuple(marked[i : i + 3]) for i in range(len(marked) - 2)}

    expected: dict[str, float] = {}
    for term in vocabulary:
        own, other = trigrams(word), trigrams(term)
        shared = 2 * len(own & other) / (len(own) + len(other)) if own or other else 0.0
        assert trigram_similarity(word, term) == pytest.approx(shared)
        if shared and shared >= threshold:
            expected[term] = shared
    numbers, similarity = similar_terms(vocabulary, word, threshold)
    similar = {vocabulary.term(n): s for n, s in zip(numbers.tolist(), similarity.tolist(), strict=True)}
    assert similar == pytest.approx(expected)


@given(vocabulary=vocabularies, part=close_words | words)
def test_beginnings_and_endings_are_found_among_all_terms(vocabulary: Vocabulary, part: str):
    terms = list(vocabulary)
    numbers = vocabulary.numbers_beginning(part)
    assert [terms[number] for number in numbers] == [term for term in terms if term.startswith(part)]
    ends = vocabulary.numbers_ending(part)
    assert [terms[number] for number in ends.tolist()] == [term for term in terms if term.endswith(part)]
