"""Phrases that a field says again and again: words in a row, no sign between them, held by enough records.

Source: K. Frantzi, S. Ananiadou and H. Mima, "Automatic recognition of multi-word terms: the C-value/NC-value method",
2000, with log2(words + 1) so that a single word counts too (A. Barrón-Cedeño, G. Sierra, P. Drouin and S. Ananiadou,
"An improved automatic term recognition method for Spanish", 2009):

    C(a) = log2(|a| + 1) · (f(a) − mean of f(b) over the longer phrases b that hold a)

with f the number of records. A phrase that only stands in longer ones says nothing of its own.
"""

from collections import Counter
from collections.abc import Iterable, Set
from dataclasses import dataclass
from itertools import islice
from math import log2
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.text.chain import chain_of
from pale_harbor.core.text.tokens import TokenTable
from pale_harbor.core.typing.letters import whole_letters_of
from pale_harbor.core.typing.suggestions import Offered

# No phrase reaches over more than one of these between two words.
_JOINING: Final = " -\u00a0\u2010\u2011"
_JOIN_OF: Final = {sign: number + 2 for number, sign in enumerate(_JOINING)}
_RECORDS_AT_ONCE: Final = 5_000
# So many places of a phrase say how it is written.
_LOOKED_AT: Final = 100


@dataclass(frozen=True, slots=True)
class _Words:
    """Every word of a field in a row.

    numbers: int32 (words,), which word; written: int32 (words,), which writing of it; records: int32 (words,); joins:
    uint8 (words,), what stands before the next word: 0 something that no phrase reaches over, 1 nothing, from 2 on a
    sign of _JOINING.
    """

    names: list[str]
    writings: list[str]
    numbers: NDArray[np.int32]
    written: NDArray[np.int32]
    records: NDArray[np.int32]
    joins: NDArray[np.uint8]


def phrases_of(
    values: Iterable[list[str]],
    fewest_words: int,
    most_words: int,
    least_records: int,
    small_words: Set[str] = frozenset(),
) -> list[Offered]:
    """The phrases of a field, each weighted by its C-value, in the order of their letters.

    values: for each record the texts of the field; fewest_words, most_words: of a phrase; least_records: that hold it;
    small_words: words that none begins or ends with, in letters as they are compared. A phrase is written as it is most
    often in the first hundred places.

    >>> notes = [["the old fog bell"], ["a fog bell"], ["the fog bell, rung by hand"], ["fog and rain"]]
    >>> [(one.text, round(one.weight, 2)) for one in phrases_of(notes, 1, 2, 3, {"the", "a"})]
    [('fog', 1.0), ('fog bell', 4.75)]
    """
    words = _read(values)
    # Of each place the number of the phrase that begins there, −1 where none does that enough records hold.
    at, counts = _held_enough(words.numbers.astype(np.int64), words.records, least_records)
    levels = [(at, counts)]
    while len(levels) < most_words and levels[-1][0].size:
        shorter, held = levels[-1]
        # Both ends of a longer phrase are phrases, and words that follow one another.
        goes_on = (words.joins[len(levels) - 1 : -1] > 0) & (shorter[:-1] >= 0) & (shorter[1:] >= 0)
        pairs = np.where(goes_on, shorter[:-1] * held.size + shorter[1:], -1)
        levels.append(_held_enough(pairs, words.records[: pairs.size], least_records))
    return _valued(words, levels, fewest_words, small_words)


def _read(values: Iterable[list[str]]) -> _Words:
    chain = chain_of("words")
    names: dict[str, int] = {}
    writings: dict[str, int] = {}
    columns: list[tuple[IntArray, IntArray, IntArray, IntArray]] = []
    each = iter(values)
    first = 0
    while some := list(islice(each, _RECORDS_AT_ONCE)):
        texts = [text for own in some for text in own]
        owners = np.repeat(np.arange(len(some)), [len(own) for own in some]) + first
        first += len(some)
        table = chain.read(texts)
        own_numbers = np.array([names.setdefault(whole_letters_of(one), len(names)) for one in table.terms], np.int32)
        own_writings = np.array([writings.setdefault(one, len(writings)) for one in table.terms], np.int32)
        columns.append(
            (
                own_numbers[table.term_ids],
                own_writings[table.term_ids],
                owners[table.text_ids].astype(np.int32),
                _joins(texts, table),
            )
        )
    if not columns:
        nothing = np.zeros(0, np.int32)
        return _Words([], [], nothing, nothing, nothing, nothing.astype(np.uint8))
    numbers, written, records, joins = (np.concatenate(column) for column in zip(*columns, strict=True))
    return _Words(list(names), list(writings), numbers, written, records, joins)


def _joins(texts: list[str], table: TokenTable) -> NDArray[np.uint8]:
    """What stands between each word and the next, as of _Words."""
    joins = np.zeros(table.text_ids.size, np.uint8)
    gaps = table.starts[1:] - table.ends[:-1]
    same = table.text_ids[1:] == table.text_ids[:-1]
    joins[:-1][same & (gaps == 0)] = 1
    for place in np.flatnonzero(same & (gaps == 1)).tolist():
        joins[place] = _JOIN_OF.get(texts[table.text_ids[place]][table.ends[place]], 0)
    return joins


def _held_enough(
    named: NDArray[np.int64], records: NDArray[np.int32], least_records: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of each place the number of what is named there, −1 where fewer records hold it; how many hold each."""
    places = np.flatnonzero(named >= 0)
    _, own = np.unique(named[places], return_inverse=True)
    # A record that says it twice holds it once; places stand in the order of records.
    once = np.unique(own.astype(np.int64) * (int(records.max(initial=0)) + 1) + records[places])
    counts = np.bincount(once // (int(records.max(initial=0)) + 1), minlength=int(own.max(initial=-1)) + 1)
    kept = counts >= least_records
    numbers = np.where(kept, np.cumsum(kept) - 1, -1)
    at = np.full(named.size, -1, np.int64)
    at[places] = numbers[own]
    return at, counts[kept].astype(np.int64)


def _valued(
    words: _Words, levels: list[tuple[NDArray[np.int64], NDArray[np.int64]]], fewest: int, small_words: Set[str]
) -> list[Offered]:
    is_small = np.array([name in small_words or not name for name in words.names], np.bool_)
    says = np.array([any(letter.isalpha() for letter in name) for name in words.names], np.bool_)
    found: list[Offered] = []
    # Of each phrase at hand the records of the longer ones that hold it, and how many these are.
    longer: dict[tuple[int, ...], tuple[int, int]] = {}
    for size in range(len(levels), fewest - 1, -1):
        at, counts = levels[size - 1]
        places = np.flatnonzero(at >= 0)
        places = places[np.argsort(at[places], kind="stable")]
        bounds = np.searchsorted(at[places], np.arange(counts.size + 1))
        for number, held in enumerate(counts.tolist()):
            own_places = places[bounds[number] : bounds[number + 1]]
            own = tuple(words.numbers[own_places[0] : own_places[0] + size].tolist())
            if is_small[own[0]] or is_small[own[-1]] or not says[list(own)].any():
                continue
            total, many = longer.get(own, (0, 0))
            value = log2(size + 1) * (held - (total / many if many else 0.0))
            for length in range(1, size):
                for inner in {own[start : start + length] for start in range(size - length + 1)}:
                    before = longer.get(inner, (0, 0))
                    longer[inner] = before[0] + held, before[1] + 1
            if value > 0:
                found.append(Offered(_written(words, own_places, size), value))
    return sorted(found, key=lambda one: (whole_letters_of(one.text), one.text))


def _written(words: _Words, places: NDArray[np.int64], size: int) -> str:
    """A phrase as it is written most often where it stands first, the first of equals in the order of letters."""
    row = places[:_LOOKED_AT, None] + np.arange(size)
    # The word at the end may be followed by anything.
    both = np.concatenate((words.written[row], words.joins[row[:, :-1]]), axis=1)
    texts: list[tuple[int, str]] = []
    for one, many in Counter(map(tuple, both.tolist())).items():
        between = [*(_JOINING[join - 2] if join > 1 else "" for join in one[size:]), ""]
        parts = [words.writings[word] + join for word, join in zip(one[:size], between, strict=True)]
        texts.append((-many, "".join(parts)))
    return min(texts)[1]
