"""Builds the index of a reading from the records' texts, a batch at a time."""

from collections.abc import Iterable, Sequence
from itertools import repeat
from typing import Final

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.index.vocabulary import vocabulary_of
from pale_harbor.core.kernels import kernel
from pale_harbor.core.text.chain import Chain
from pale_harbor.core.text.chain_choice import ChainChoice, forgetful

# No phrase or nearness reaches from one value of a field into the next.
VALUE_GAP: Final = 100

# Texts are read through the chain in batches of about this many code points: what Python does, it does once for each
# distinct word of a batch. A batch takes some 60 MB of memory; between
# two it is seen whether somebody still waits.
BATCH_LENGTH: Final = 4_000_000


def build_index(
    values: Iterable[Sequence[str]], chain: ChainChoice, languages: Iterable[str | None] = repeat(None)
) -> ReadingIndex:
    """The index of a field whose values come record by record, in order of record id.

    values: for each record the values of the field, none where it is empty; languages: of each
    record, where the chain is chosen by it.
    """
    builder = _Builder(chain)
    for record_values, language in zip(values, languages, strict=False):
        builder.add(record_values, language)
    return builder.finish()


class _Builder:
    """Collects columns batch by batch; sorts them by term at the end."""

    def __init__(self, chain: ChainChoice) -> None:
        self.chain = forgetful(chain)
        self.record_count = 0
        self.term_numbers: dict[str, int] = {}
        self.columns: list[tuple[IntArray, ...]] = []
        # How many tokens each batch has, and their spans where not all are 1.
        self.spans: list[tuple[int, IntArray | None]] = []
        self.texts: list[str] = []
        self.languages: list[str | None] = []
        self.text_records: list[int] = []
        self.text_offsets: list[int] = []
        self.batch_length = 0

    def add(self, values: Sequence[str], language: str | None) -> None:
        offset = 0
        for value in values:
            self.texts.append(value)
            self.languages.append(language)
            self.text_records.append(self.record_count)
            self.text_offsets.append(offset)
            offset += len(value) + 1
        self.batch_length += offset
        self.record_count += 1
        if self.batch_length >= BATCH_LENGTH:
            self._read_batch()

    def finish(self) -> ReadingIndex:
        self._read_batch()
        empty = np.zeros(0, np.int32)
        terms, records, positions, starts, ends = (
            (np.concatenate(column) for column in zip(*self.columns, strict=True)) if self.columns else (empty,) * 5
        )
        self.columns = []
        spans = empty
        if any(own is not None for _, own in self.spans):
            spans = np.concatenate([np.ones(size, np.int32) if own is None else own for size, own in self.spans])
        in_order = sorted(self.term_numbers)
        place_of_number = np.empty(len(in_order), np.int32)
        for place, term in enumerate(in_order):
            place_of_number[self.term_numbers[term]] = place
        columns = place_of_number[terms], records, positions, starts, ends, spans
        arrays = postings_of(*columns, len(in_order), self.record_count)
        return ReadingIndex(vocabulary_of(in_order), *arrays)

    def _read_batch(self) -> None:
        if isinstance(self.chain, Chain):
            table = self.chain.read(self.texts)
        else:
            table = self.chain.read(self.texts, self.languages)
        if table.term_ids.size:
            numbers = np.array(
                [self.term_numbers.setdefault(term, len(self.term_numbers)) for term in table.terms], np.int32
            )
            offsets = np.array(self.text_offsets, np.int32)[table.text_ids]
            self.columns.append(
                (
                    numbers[table.term_ids],
                    np.array(self.text_records, np.int32)[table.text_ids],
                    table.positions + self._position_shifts(table.text_ids, table.positions)[table.text_ids],
                    table.starts + offsets,
                    table.ends + offsets,
                )
            )
            self.spans.append((table.spans.size, None if (table.spans == 1).all() else table.spans))
        self.texts, self.languages, self.text_records, self.text_offsets = [], [], [], []
        self.batch_length = 0

    def _position_shifts(self, text_ids: IntArray, positions: IntArray) -> IntArray:
        """For each text how far its positions move, so that values of one record do not overlap."""
        lasts = np.full(len(self.texts), -1, np.int32)
        np.maximum.at(lasts, text_ids, positions)
        shifts = np.zeros(len(self.texts), np.int32)
        for text in range(1, len(self.texts)):
            if self.text_records[text] == self.text_records[text - 1]:
                shifts[text] = shifts[text - 1] + lasts[text - 1] + 1 + VALUE_GAP
        return shifts


def postings_of(
    terms: IntArray,
    records: IntArray,
    positions: IntArray,
    starts: IntArray,
    ends: IntArray,
    spans: IntArray,
    term_count: int,
    record_count: int,
) -> tuple[IntArray, ...]:
    """The arrays of a ReadingIndex, in its order, from occurrences in order of record and position.

    terms, records, positions, starts, ends: int32 (occurrences,); spans: as many, or none where all are 1.
    """
    if (spans == 1).all():
        # As nearly every chain has it: not worth keeping.
        spans = spans[:0]
    arrays = _postings(terms, records, positions, starts, ends, spans, term_count, record_count)
    for array in arrays:
        # Arrays mapped from files cannot be written to either: kernels are compiled once for both.
        array.setflags(write=False)
    return arrays


@kernel
def _postings(
    terms: IntArray,
    records: IntArray,
    positions: IntArray,
    starts: IntArray,
    ends: IntArray,
    spans: IntArray,
    term_count: int,
    record_count: int,
) -> tuple[IntArray, ...]:
    """Occurrences in order of record and position, sorted by term and gathered into postings.

    terms, records, positions, starts, ends: int32 (occurrences,); spans: as many, or none where
    all are 1. Returns the arrays of ReadingIndex in its order. A counting sort: stable, and linear in the occurrences.
    """
    lengths = np.zeros(record_count, np.int32)
    term_firsts = np.zeros(term_count + 1, np.int64)
    for i in range(terms.size):
        term_firsts[terms[i] + 1] += 1
        lengths[records[i]] += 1
    for term in range(term_count):
        term_firsts[term + 1] += term_firsts[term]
    place = term_firsts[:-1].copy()
    sorted_records = np.empty(terms.size, np.int32)
    sorted_positions = np.empty(terms.size, np.int32)
    sorted_starts = np.empty(terms.size, np.int32)
    sorted_ends = np.empty(terms.size, np.int32)
    sorted_spans = np.empty(spans.size, np.int32)
    for i in range(terms.size):
        to = place[terms[i]]
        place[terms[i]] += 1
        sorted_records[to] = records[i]
        sorted_positions[to] = positions[i]
        sorted_starts[to] = starts[i]
        sorted_ends[to] = ends[i]
        if spans.size:
            sorted_spans[to] = spans[i]
    posting_count = 0
    for term in range(term_count):
        last = -1
        for i in range(term_firsts[term], term_firsts[term + 1]):
            if sorted_records[i] != last:
                posting_count += 1
                last = sorted_records[i]
    posting_firsts = np.zeros(term_count + 1, np.int64)
    record_ids = np.empty(posting_count, np.int32)
    frequencies = np.zeros(posting_count, np.int32)
    occurrence_firsts = np.empty(posting_count + 1, np.int64)
    posting = -1
    for term in range(term_count):
        last = -1
        for i in range(term_firsts[term], term_firsts[term + 1]):
            if sorted_records[i] != last:
                posting += 1
                last = sorted_records[i]
                record_ids[posting] = last
                occurrence_firsts[posting] = i
            frequencies[posting] += 1
        posting_firsts[term + 1] = posting + 1
    occurrence_firsts[posting_count] = terms.size
    return (
        posting_firsts,
        record_ids,
        frequencies,
        lengths[record_ids],
        occurrence_firsts,
        sorted_positions,
        sorted_starts,
        sorted_ends,
        sorted_spans,
        lengths,
    )
