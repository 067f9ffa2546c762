"""Which different words share one term, and which of them probably should not."""

from collections.abc import Sequence
from typing import Final

import numpy as np

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.consequences.company import company_of
from pale_harbor.core.consequences.figures import Merge, WordCount

MOST_SHOWN: Final = 40
_WORDS_SHOWN: Final = 12
# Of rarer words the company is chance.
_FEWEST: Final = 4
# At so many occurrences half of the doubt is left.
_HALF_SURE: Final = 6.0
_MOST_COMPARED: Final = 5_000
_WORDS_COMPARED: Final = 8


def merges_of(
    pairs: IntArray, terms: Sequence[str], words: Sequence[str], counts: IntArray, stream: tuple[IntArray, IntArray]
) -> tuple[list[Merge], list[Merge], int]:
    """The terms that most words share, the suspicious ones, and how many terms are shared at all.

    pairs: (pairs, 2), each word and term that go together once; counts: how often each word stands;
    stream: words and text ids of the tokens as the tokenizer cut them.
    """
    if pairs.size == 0:
        return [], [], 0
    by_term = pairs[np.lexsort((-counts[pairs[:, 0]], pairs[:, 1]))]
    distinct, firsts, sizes = np.unique(by_term[:, 1], return_index=True, return_counts=True)
    shared = np.flatnonzero(sizes > 1)
    members = {
        int(distinct[group]): by_term[firsts[group] : firsts[group] + sizes[group], 0] for group in shared.tolist()
    }
    largest = sorted(members, key=lambda term: (-members[term].size, terms[term]))[:MOST_SHOWN]
    unlike = _unlike(members, words, counts, stream)

    def merge(term: int) -> Merge:
        own = members[term]
        shown = tuple(WordCount(words[int(word)], int(counts[word])) for word in own[:_WORDS_SHOWN])
        pair, suspicion = unlike.get(term, (None, 0.0))
        return Merge(term=terms[term], word_count=int(own.size), words=shown, unlike=pair, suspicion=suspicion)

    suspicious = sorted(unlike, key=lambda term: (-unlike[term][1], terms[term]))[:MOST_SHOWN]
    return [merge(term) for term in largest], [merge(term) for term in suspicious], len(members)


def _unlike(
    members: dict[int, IntArray], words: Sequence[str], counts: IntArray, stream: tuple[IntArray, IntArray]
) -> dict[int, tuple[tuple[str, str, float], float]]:
    """For terms whose words are frequent enough, the two words least alike and the suspicion."""
    compared: dict[int, IntArray] = {}
    for term, own in members.items():
        frequent = own[counts[own] >= _FEWEST][:_WORDS_COMPARED]
        if frequent.size > 1:
            compared[term] = frequent
    chosen = sorted(compared, key=lambda term: -int(counts[compared[term][1]]))[:_MOST_COMPARED]
    if not chosen:
        return {}
    asked = distinct(np.concatenate([compared[term] for term in chosen]))
    stream_words, text_ids = stream
    # A word that stands nearly everywhere tells little of the words it stands by.
    weights = np.log1p(stream_words.size / (1.0 + counts.astype(np.float64)))
    company = company_of(stream_words, text_ids, asked, weights)
    row_of = {int(word): row for row, word in enumerate(asked.tolist())}
    found: dict[int, tuple[tuple[str, str, float], float]] = {}
    for term in chosen:
        own = compared[term]
        rows = company[[row_of[int(word)] for word in own]]
        first, second = rows[:, 0], rows[:, 1]
        between = first @ second.T
        # As alike as a word is to itself is as alike as two words can be.
        itself = np.clip(np.diagonal(between), 0.0, 1.0)
        at_best = np.sqrt(np.outer(itself, itself))
        across = np.clip((between + between.T) / 2, 0.0, None)
        alike = np.clip(np.divide(across, at_best, out=np.ones_like(across), where=at_best > 0), 0.0, 1.0)
        sure = itself * counts[own] / (counts[own] + _HALF_SURE)
        doubt = np.triu((1.0 - alike) * np.minimum.outer(sure, sure), 1)
        if doubt.max() <= 0:
            continue
        one, other = np.unravel_index(int(np.argmax(doubt)), doubt.shape)
        pair = (words[int(own[one])], words[int(own[other])], float(alike[one, other]))
        found[term] = (pair, float(doubt[one, other]))
    return found
