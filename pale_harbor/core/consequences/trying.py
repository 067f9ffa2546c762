"""A mend is tried before it is offered: on some records, the open query and the judged ones.

Each pair of chains ranks the records by BM25, the pair alone, and asks for the records' own words, as they are
written, in small letters, in capitals and without accents.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

import numpy as np
import regex
from scipy.sparse import csc_array

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.consequences.examined import AskedQuery
from pale_harbor.core.measures.formulas import ndcg
from pale_harbor.core.measures.judged_list import judged_list
from pale_harbor.core.ranking.bm25 import inverse_document_frequency, length_norm, term_part
from pale_harbor.core.text import Chain
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.stages.accents import bare
from pale_harbor.core.text.stages.markup import Markup

_DEPTH: Final = 10
_K1, _B = 1.2, 0.75
_MOST_WORDS: Final = 500
_SIGNS: Final = ".,;:!?()[]{}\"'“”‘’«»…-–—/"
_PART: Final = regex.compile(r"\w{2,}")
# A query moves when its measure does by more than rounding.
_MOVED: Final = 1e-9


@dataclass(frozen=True)
class TrialRecords:
    """What mends are tried on: (key, values of the field), each key once; grades by query and key."""

    records: Sequence[tuple[str, Sequence[str]]] = ()
    grades: Mapping[str, Mapping[str, int]] = field(default_factory=dict[str, Mapping[str, int]])

    @cached_property
    def texts(self) -> list[str]:
        """All values, one after another."""
        return [text for _, values in self.records for text in values]

    @cached_property
    def keys(self) -> list[str]:
        """The records' keys."""
        return [key for key, _ in self.records]


@dataclass(frozen=True, slots=True)
class Tried:
    """What a pair of chains finds.

    judged: nDCG at 10 by query; found: records by the open query; met: words that meet a record; missed: those that
    leave terms and meet none. A word that the chain drops is neither.
    """

    judged: Mapping[str, float]
    found: int | None
    met: frozenset[str]
    missed: frozenset[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What a mend would do to what it was tried on."""

    records: int
    queries: int
    gain: int
    lose: int
    mean_before: float
    mean_after: float
    won: tuple[str, ...]
    lost: tuple[str, ...]
    # Of those lost, how many are more than words that were typed without their accents.
    lost_as_written: int
    found: tuple[int, int] | None

    @property
    def does_harm(self) -> bool:
        """Whether judged queries lose more than others gain, or words are lost that no judged query makes up for."""
        if self.mean_after < self.mean_before - _MOVED:
            return True
        made_up = self.mean_after > self.mean_before + _MOVED
        emptied = self.found is not None and self.found[0] > 0 and self.found[1] == 0
        return emptied or (self.lost_as_written > len(self.won) and not made_up)

    @property
    def sentence(self) -> str:
        """The outcome in words."""
        parts: list[str] = []
        if self.found is not None and self.found[0] != self.found[1]:
            parts.append(f"the open query finds {self.found[1]:,} of them instead of {self.found[0]:,}")
        if self.gain or self.lose:
            parts.append(
                f"{self.gain:,} of {self.queries:,} judged queries {'gains' if self.gain == 1 else 'gain'}, "
                f"{self.lose:,} {'loses' if self.lose == 1 else 'lose'} "
                f"(nDCG@10 of this field alone {self.mean_before:.3f} → {self.mean_after:.3f})"
            )
        elif self.queries:
            parts.append("no judged query moves")
        if self.won:
            parts.append(f"{_words(self.won)} found that {'was' if len(self.won) == 1 else 'were'} not")
        if self.lost:
            parts.append(f"{_words(self.lost)} no longer found")
        if not self.won and not self.lost:
            parts.append("each of their words is found, or not, as before")
        return f"Tried on {self.records:,} records: {'; '.join(parts)}."


def _words(words: Sequence[str]) -> str:
    first = f"“{words[0]}”"
    return f"{first} is" if len(words) == 1 else f"{len(words):,} words (such as {first}) are"


class Trial:
    """Tries pairs of chains on the same records and queries.

    >>> from pale_harbor.core.text import chain_of
    >>> trial = Trial(TrialRecords([("sm1", ["Fog bell"]), ("sm2", ["fog horn"])]), [])
    >>> plain, small = chain_of("words"), chain_of("words > lower")
    >>> trial.outcome((plain, plain), (small, small)).won
    ('BELL', 'FOG', 'HORN')
    """

    def __init__(self, records: TrialRecords, asked: Sequence[AskedQuery]) -> None:
        self._records = records
        self._open = next((one.query for one in asked if one.query_id is None), None)
        self._judged = [
            (one.query_id, one.query)
            for one in asked
            if one.query_id is not None and any(records.grades.get(one.query_id, {}).values())
        ]
        self._tried: dict[tuple[str, str], Tried] = {}

    def outcome(self, before: tuple[Chain, Chain], after: tuple[Chain, Chain]) -> Outcome:
        """What taking the second pair of (record chain, query chain) for the first would do."""
        then, now = self._try(*before), self._try(*after)
        moves = [now.judged[one] - then.judged[one] for one in then.judged]
        lost = then.met & now.missed
        return Outcome(
            records=len(self._records.records),
            queries=len(then.judged),
            gain=sum(move > _MOVED for move in moves),
            lose=sum(move < -_MOVED for move in moves),
            mean_before=float(np.mean([*then.judged.values()])) if then.judged else 0.0,
            mean_after=float(np.mean([*now.judged.values()])) if now.judged else 0.0,
            won=tuple(sorted(now.met - then.met)),
            lost=tuple(sorted(lost)),
            lost_as_written=sum(word in self._as_written for word in lost),
            found=None if then.found is None or now.found is None else (then.found, now.found),
        )

    @cached_property
    def _asked_words(self) -> list[str]:
        """The words as they are written, and without their accents."""
        return sorted(self._as_written | {bare(word) for word in self._as_written})

    @cached_property
    def _as_written(self) -> set[str]:
        """The commonest words, whole and by their parts, as they are written, small and in capitals."""
        counts: dict[str, int] = {}
        for text in self._records.texts:
            # Names of tags are nobody's words.
            for word in Markup()(MappedText(text)).text.split():
                for one in {word.strip(_SIGNS), *_PART.findall(word)}:
                    if one:
                        counts[one] = counts.get(one, 0) + 1
        words = sorted(counts, key=lambda word: (-counts[word], word))[:_MOST_WORDS]
        return {form for word in words for form in (word, word.lower(), word.upper())}

    def _try(self, record_chain: Chain, query_chain: Chain) -> Tried:
        known = self._tried.get((record_chain.identity, query_chain.identity))
        if known is not None:
            return known
        weights, columns = _weighed(record_chain, self._records)
        keys = self._records.keys
        size = max(len(keys), 1)
        judged: dict[str, float] = {}
        for query_id, query in self._judged:
            scores = _scores(size, weights, columns, query_chain.terms(query))
            held = np.flatnonzero(scores > 0)
            best = held[np.argsort(-scores[held], kind="stable")][:_DEPTH]
            judged[query_id] = ndcg(judged_list([keys[one] for one in best], self._records.grades[query_id]), _DEPTH)
        found = None
        if self._open is not None:
            found = int(np.count_nonzero(_scores(size, weights, columns, query_chain.terms(self._open))))
        terms = {word: query_chain.terms(word) for word in self._asked_words}
        met = frozenset(word for word, left in terms.items() if any(term in columns for term in left))
        made = Tried(judged, found, met, frozenset(word for word, left in terms.items() if left) - met)
        self._tried[record_chain.identity, query_chain.identity] = made
        return made


def _weighed(chain: Chain, trial: TrialRecords) -> tuple[csc_array, dict[str, int]]:
    """What each term is worth in each record, (records, terms), and the column of each term."""
    table = chain.read(trial.texts)
    record_of_text = np.repeat(np.arange(len(trial.records)), [len(values) for _, values in trial.records])
    columns: dict[str, int] = {}
    column_of = np.array([columns.setdefault(text, len(columns)) for text in table.terms], np.int64)
    rows: IntArray = record_of_text[table.text_ids] if table.text_ids.size else np.zeros(0, np.int64)
    terms: IntArray = column_of[table.term_ids] if table.term_ids.size else np.zeros(0, np.int64)
    records = max(len(trial.records), 1)
    counts = csc_array((np.ones(rows.size), (rows, terms)), shape=(records, max(len(columns), 1)))
    counts.sum_duplicates()
    lengths = np.bincount(rows, minlength=records).astype(np.float64)
    holding = np.diff(counts.indptr)
    idf = np.array([inverse_document_frequency(records, int(df)) for df in holding])
    base, slope = length_norm(_K1, _B, float(lengths.mean()) or 1.0)
    counts.data = term_part(np.repeat(idf, holding), counts.data, _K1, base + slope * lengths[counts.indices])
    return counts, columns


def _scores(records: int, weights: csc_array, columns: Mapping[str, int], terms: Sequence[str]) -> FloatArray:
    scores = np.zeros(records)
    for term in terms:
        column = columns.get(term)
        if column is not None:
            first, end = weights.indptr[column], weights.indptr[column + 1]
            scores[weights.indices[first:end]] += weights.data[first:end]
    return scores
