"""Terms that share many trigrams with a word: for names, whose spellings differ by more than a slip.

    similarity = 2 · shared / (own + other)

over distinct trigrams of the letters with one mark before and one after (Dice's coefficient). Terms are
found through postings of their trigrams: those that share none are never looked at.

Source: R. Angell, G. Freund and P. Willett, "Automatic spelling correction using a trigram similarity
measure", 1983.
"""

from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.index.vocabulary import Vocabulary
from pale_harbor.core.kernels import kernel

# Marks before and after a word: code points that no term begins or ends with.
_BEFORE, _AFTER = 1, 2
_BITS = 21


@dataclass(frozen=True, slots=True, eq=False)
class TrigramIndex:
    """Which terms hold a trigram.

    trigrams: int64 (distinct,), ascending; firsts: int64 (distinct + 1,); terms: int32, numbers of
    the terms of each; counts: int32 (terms,), distinct trigrams of each term.
    """

    trigrams: IntArray
    firsts: IntArray
    terms: IntArray
    counts: IntArray


_known: WeakKeyDictionary[Vocabulary, TrigramIndex] = WeakKeyDictionary()


def trigram_index(vocabulary: Vocabulary) -> TrigramIndex:
    """The trigrams of a vocabulary."""
    codes, firsts = vocabulary.codes
    grams, terms = _trigrams_of_terms(codes, firsts)
    order = np.lexsort((terms, grams))
    grams, terms = grams[order], terms[order]
    fresh = np.append(True, (grams[1:] != grams[:-1]) | (terms[1:] != terms[:-1]))[: grams.size]
    grams, terms = grams[fresh], terms[fresh]
    distinct, starts = np.unique(grams, return_index=True)
    counts = np.bincount(terms, minlength=len(vocabulary)).astype(np.int32)
    return TrigramIndex(distinct, np.append(starts, grams.size), terms, counts)


def similar_terms(vocabulary: Vocabulary, word: str, threshold: float) -> tuple[NDArray[np.int32], NDArray[np.float64]]:
    """The numbers of the terms at least so similar to a word, ascending, and how similar each is.

    The first word that is asked for of a vocabulary waits for its trigrams to be gathered. Both (terms,).
    """
    index = _known.get(vocabulary)
    if index is None:
        index = _known[vocabulary] = trigram_index(vocabulary)
    wanted = trigrams_of(word)
    places = np.searchsorted(index.trigrams, wanted)
    places[places == index.trigrams.size] = 0
    found = places[index.trigrams[places] == wanted] if index.trigrams.size else places[:0]
    shared = _count_shared(index.firsts, index.terms, found, index.counts.size)
    candidates = np.flatnonzero(shared).astype(np.int32)
    similarity = 2.0 * shared[candidates] / (wanted.size + index.counts[candidates])
    near = similarity >= threshold
    return candidates[near], similarity[near]


def trigram_similarity(a: str, b: str) -> float:
    """2 · shared / (own + other) over distinct trigrams of two words.

    >>> round(trigram_similarity("coyle", "coyel"), 2)
    0.4
    """
    own, other = trigrams_of(a), trigrams_of(b)
    return 2.0 * np.intersect1d(own, other).size / (own.size + other.size) if own.size else 0.0


def trigrams_of(word: str) -> NDArray[np.int64]:
    """The distinct trigrams of a word with its marks, each as one number, ascending. Shape (trigrams,)."""
    codes = np.array([_BEFORE, *map(ord, word), _AFTER], np.int64)
    return distinct((codes[:-2] << (2 * _BITS)) | (codes[1:-1] << _BITS) | codes[2:])


@kernel
def _trigrams_of_terms(codes: IntArray, firsts: IntArray) -> tuple[IntArray, IntArray]:
    """Every trigram of every term, and the term: int64, int32 (letters,): a term has as many as letters."""
    grams = np.empty(codes.size, np.int64)
    terms = np.empty(codes.size, np.int32)
    for term in range(firsts.size - 1):
        for i in range(firsts[term], firsts[term + 1]):
            before = np.int64(codes[i - 1]) if i > firsts[term] else np.int64(_BEFORE)
            after = np.int64(codes[i + 1]) if i + 1 < firsts[term + 1] else np.int64(_AFTER)
            grams[i] = (before << (2 * _BITS)) | (np.int64(codes[i]) << _BITS) | after
            terms[i] = term
    return grams, terms


@kernel
def _count_shared(firsts: IntArray, terms: IntArray, found: IntArray, term_count: int) -> IntArray:
    shared = np.zeros(term_count, np.int32)
    for trigram in found:
        for i in range(firsts[trigram], firsts[trigram + 1]):
            shared[terms[i]] += 1
    return shared
