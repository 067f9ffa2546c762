"""Gathers what a chain does, a batch of records at a time."""

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.consequences.figures import Consequences, Gathered, IndexBytes, StageEffect, WordCount
from pale_harbor.core.consequences.merges import merges_of
from pale_harbor.core.text import Chain, TokenTable
from pale_harbor.core.text.chain import StageRead
from pale_harbor.core.text.languages import LETTERS_LOOKED_AT, language_of

_EMPTY_SHOWN: Final = 20
_DROPPED_SHOWN: Final = 60
# So many values have their language looked for.
LANGUAGES_LOOKED_FOR: Final = 2_000
# Words in a row that are kept for the company of words; more than this tell nothing new.
_MOST_STREAMED: Final = 20_000_000
# A word and a term in one number: the term below.
_TERM_BITS: Final = 32
# New terms come ever more slowly: their number grows about as this power of the text's length.
_GROWTH_OF_TERMS: Final = 0.6


class Gatherer:
    """Adds up, batch by batch, what a chain makes of a field's values.

    >>> from pale_harbor.core.text import chain_of
    >>> gatherer = Gatherer(chain_of("words > lower"))
    >>> gatherer.add([("sm1", ["Fog bell"]), ("sm2", ["A fog"])])
    >>> gatherer.finished(2).consequences.vocabulary
    3
    """

    def __init__(self, chain: Chain) -> None:
        # One of its own, so that what is remembered of words is let go of with it.
        self.chain = replace(chain)
        self.records = 0
        self.values = 0
        self.text_bytes = 0
        self.lengths: list[IntArray] = []
        self.occurrences = 0
        self.spans_vary = False
        self.postings = 0
        self.term_numbers: dict[str, int] = {}
        self.term_records = np.zeros(0, np.int64)
        self.word_numbers: dict[str, int] = {}
        self.word_counts = np.zeros(0, np.int64)
        self.dropped_counts = np.zeros(0, np.int64)
        self.surfaces: dict[str, int] = {}
        self.pairs: list[IntArray] = []
        self.stream: list[tuple[IntArray, IntArray]] = []
        self.streamed = 0
        self.empty: list[tuple[str, str]] = []
        self.empty_count = 0
        self.first_texts: list[str] = []
        self.changed = [0] * len(chain.calls)

    def __getstate__(self) -> dict[str, Any]:
        # Without what the chain remembers of words, which is more than all the rest.
        return self.__dict__ | {"chain": replace(self.chain)}

    def add(self, records: Sequence[tuple[str, Sequence[str]]], look: Callable[[], object] = lambda: None) -> None:
        """Reads some more records: (key, values of the field). look: called between stages; what it raises ends it."""
        texts = [text for _, values in records for text in values]
        record_of_text = np.repeat(np.arange(len(records)), [len(values) for _, values in records])
        reads: list[StageRead] = []
        for read in self.chain.read_by_stage(texts):
            look()
            reads.append(read)
        for number, read in enumerate(reads):
            self.changed[number] += read.changed
        cut, final, source = _ends(reads)
        self._add_words(cut, final, source)
        self._add_terms(final, record_of_text, len(records), len(texts))
        keys = [key for key, values in records for _ in values]
        self._add_empty(keys, texts, final)
        self.text_bytes += sum(len(text.encode("utf-8", "surrogatepass")) for text in texts)
        more = texts[: LANGUAGES_LOOKED_FOR - len(self.first_texts)]
        self.first_texts += [text[:LETTERS_LOOKED_AT] for text in more]
        self.records += len(records)
        self.values += len(texts)

    def join(self, later: "Gatherer") -> None:
        """Adds what another gathered by the same chain from the records that follow; the other is used up.

        Both together tell what one would have told that read all of them.
        """
        words, terms = _joined(self.word_numbers, later.word_numbers), _joined(self.term_numbers, later.term_numbers)
        self.word_counts = _sum(self.word_counts, later.word_counts, words, len(self.word_numbers))
        self.dropped_counts = _sum(self.dropped_counts, later.dropped_counts, words, len(self.word_numbers))
        self.term_records = _sum(self.term_records, later.term_records, terms, len(self.term_numbers))
        self._add_surfaces(later.surfaces.items())
        self.pairs += [
            words[both >> _TERM_BITS] << _TERM_BITS | terms[both & ((1 << _TERM_BITS) - 1)] for both in later.pairs
        ]
        for word_ids, text_ids in later.stream:
            if self.streamed < _MOST_STREAMED:
                self.stream.append((words[word_ids].astype(np.int32), text_ids + np.int32(self.values)))
                self.streamed += word_ids.size
        self.lengths += later.lengths
        self.occurrences += later.occurrences
        self.postings += later.postings
        self.spans_vary |= later.spans_vary
        self.empty = (self.empty + later.empty)[:_EMPTY_SHOWN]
        self.empty_count += later.empty_count
        self.first_texts = (self.first_texts + later.first_texts)[:LANGUAGES_LOOKED_FOR]
        self.changed = [one + more for one, more in zip(self.changed, later.changed, strict=True)]
        self.text_bytes += later.text_bytes
        self.records += later.records
        self.values += later.values

    def finished(self, records_in_all: int) -> Gathered:
        """What was gathered. records_in_all: of the collection; figures of bytes are scaled up to it."""
        terms, words = list(self.term_numbers), list(self.word_numbers)
        lengths = np.concatenate([np.zeros(0, np.int64), *self.lengths])
        filled = lengths[lengths > 0]
        both = distinct(np.concatenate([np.zeros(0, np.int64), *self.pairs]))
        pairs = np.stack([both >> _TERM_BITS, both & ((1 << _TERM_BITS) - 1)], axis=1)
        most_merged, suspicious, merging = merges_of(pairs, terms, words, self.word_counts, self._joined_stream())
        dropped = np.flatnonzero(self.dropped_counts)
        by_count = sorted(dropped.tolist(), key=lambda word: (-int(self.dropped_counts[word]), words[word]))
        consequences = Consequences(
            records=self.records,
            records_in_all=records_in_all,
            values=self.values,
            text_bytes=self.text_bytes,
            vocabulary=len(terms),
            words=len(words),
            tokens=self.occurrences,
            tokens_per_record=(
                float(filled.mean()) if filled.size else 0.0,
                float(np.median(filled)) if filled.size else 0.0,
                int(filled.max()) if filled.size else 0,
            ),
            index_bytes=self._index_bytes(records_in_all),
            most_merged=tuple(most_merged),
            suspicious=tuple(suspicious),
            merging_terms=merging,
            dropped=tuple(WordCount(words[word], int(self.dropped_counts[word])) for word in by_count[:_DROPPED_SHOWN]),
            dropped_words=int(dropped.size),
            dropped_tokens=int(self.dropped_counts.sum()),
            empty_values=tuple(self.empty),
            empty_count=self.empty_count,
            stages=tuple(
                StageEffect(str(call), count) for call, count in zip(self.chain.calls, self.changed, strict=True)
            ),
        )
        return Gathered(
            consequences=consequences,
            surfaces=self.surfaces,
            term_records=dict(zip(terms, self.term_records.tolist(), strict=True)),
            languages=Counter(filter(None, map(language_of, self.first_texts))),
        )

    def _add_words(self, cut: TokenTable, final: TokenTable, source: IntArray) -> None:
        """Words as they were cut, whatever their case; which were dropped, and which term each became."""
        numbers = np.array(
            [self.word_numbers.setdefault(text.casefold(), len(self.word_numbers)) for text in cut.terms], np.int64
        )
        times = np.bincount(cut.term_ids, minlength=len(cut.distinct))
        self._add_surfaces(zip(cut.terms, times.tolist(), strict=True))
        word_ids = numbers[cut.term_ids] if cut.term_ids.size else np.zeros(0, np.int64)
        self.word_counts = _grown(self.word_counts, len(self.word_numbers))
        self.word_counts += np.bincount(word_ids, minlength=len(self.word_numbers))
        gone = np.ones(word_ids.size, np.bool_)
        gone[source] = False
        self.dropped_counts = _grown(self.dropped_counts, len(self.word_numbers))
        self.dropped_counts += np.bincount(word_ids[gone], minlength=len(self.word_numbers))
        terms = self._numbered_terms(final)
        if source.size:
            self.pairs.append(distinct(word_ids[source] << _TERM_BITS | terms[final.term_ids]))
        if self.streamed < _MOST_STREAMED:
            self.stream.append((word_ids.astype(np.int32), cut.text_ids + np.int32(self.values)))
            self.streamed += word_ids.size

    def _add_surfaces(self, counted: Iterable[tuple[str, int]]) -> None:
        surfaces = self.surfaces
        for text, count in counted:
            surfaces[text] = surfaces.get(text, 0) + count

    def _numbered_terms(self, final: TokenTable) -> IntArray:
        return np.array([self.term_numbers.setdefault(t, len(self.term_numbers)) for t in final.terms], np.int64)

    def _add_terms(self, final: TokenTable, record_of_text: IntArray, records: int, texts: int) -> None:
        self.occurrences += final.term_ids.size
        self.spans_vary = self.spans_vary or bool((final.spans != 1).any())
        record_ids = record_of_text[final.text_ids] if texts else np.zeros(0, np.int64)
        self.lengths.append(np.bincount(record_ids, minlength=records))
        terms = self._numbered_terms(final)
        self.term_records = _grown(self.term_records, len(self.term_numbers))
        if record_ids.size:
            held = distinct(record_ids * len(self.term_numbers) + terms[final.term_ids])
            self.postings += held.size
            self.term_records += np.bincount(held % len(self.term_numbers), minlength=len(self.term_numbers))

    def _add_empty(self, keys: Sequence[str], texts: Sequence[str], final: TokenTable) -> None:
        tokens = np.bincount(final.text_ids, minlength=len(texts))
        for text_id in np.flatnonzero(tokens == 0).tolist():
            if any(map(str.isalnum, texts[text_id])):
                self.empty_count += 1
                if len(self.empty) < _EMPTY_SHOWN:
                    self.empty.append((keys[text_id], texts[text_id][:200]))

    def _index_bytes(self, records_in_all: int) -> IndexBytes:
        """What ReadingIndex's arrays take up; see there."""
        scale = records_in_all / self.records if self.records else 1.0
        more_terms = scale**_GROWTH_OF_TERMS
        letters = sum(len(term.encode("utf-8", "surrogatepass")) for term in self.term_numbers)
        bounds = 2 * 8 * (len(self.term_numbers) * more_terms + 1)
        return IndexBytes(
            terms=round(letters * more_terms + bounds),
            postings=round(self.postings * scale) * (3 * 4 + 8) + 8,
            positions=round(self.occurrences * scale) * (8 if self.spans_vary else 4),
            letters=round(self.occurrences * scale) * 2 * 4,
            lengths=round(self.records * scale) * 4,
        )

    def _joined_stream(self) -> tuple[IntArray, IntArray]:
        empty = np.zeros(0, np.int32)
        return (
            np.concatenate([empty, *(words for words, _ in self.stream)]),
            np.concatenate([empty, *(text_ids for _, text_ids in self.stream)]),
        )


def _ends(reads: Sequence[StageRead]) -> tuple[TokenTable, TokenTable, IntArray]:
    """What the tokenizer cut, what the last stage left, and from which cut each of the last came."""
    tables = [read.table for read in reads if read.table is not None]
    cut, final = tables[0], tables[-1]
    source = np.arange(cut.term_ids.size)
    for read in reads:
        if read.source is not None:
            source = source[read.source]
    return cut, final, source


def _joined(numbers: dict[str, int], more: dict[str, int]) -> IntArray:
    """Numbers what is new among `more`; gives the new number of each."""
    return np.array([numbers.setdefault(text, len(numbers)) for text in more], np.int64)


def _sum(counts: NDArray[np.int64], more: NDArray[np.int64], numbers: IntArray, size: int) -> NDArray[np.int64]:
    """Counts with those of others added, which stand under other numbers now, each under one of its own."""
    grown = _grown(counts, size)
    grown[numbers] += more
    return grown


def _grown(counts: NDArray[np.int64], size: int) -> NDArray[np.int64]:
    return counts if counts.size == size else np.append(counts, np.zeros(size - counts.size, np.int64))
