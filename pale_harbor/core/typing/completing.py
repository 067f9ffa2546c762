"""Whole suggestions for what is being typed, the best first, without looking through all that begin so.

Source: U. Krishnan, A. Moffat and J. Zobel, "A taxonomy of query auto completion modes", 2017: sorted texts, a range of
them for what was typed, and the best of the range by range maximum queries. Its modes "strict" and "relaxed" are
`BeginsAt.SUGGESTION` and, for words that follow one another, `BeginsAt.WORD`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from math import exp, log
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.typing.letters import BLANK, letters_of, stretch_of
from pale_harbor.core.typing.range_least import RangeLeast, apart, range_least
from pale_harbor.core.typing.recipe import BeginsAt, Completions
from pale_harbor.core.typing.suffixes import entries_beginning, entries_near, sort_entries
from pale_harbor.core.typing.suggestions import Suggestions

# Scores that differ by less are equal, whatever order they were worked out in.
_DIGITS: Final = 9
_FIXED_START: Final = 1
# Where words follow each other without blanks each of these letters may begin one.
_WITHOUT_BLANKS: Final = (
    (0x0E00, 0x0EFF), (0x1000, 0x109F), (0x1780, 0x17FF), (0x3040, 0x30FF), (0x3400, 0x4DBF), (0x4E00, 0x9FFF),
    (0xF900, 0xFAFF), (0x20000, 0x3FFFF),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Completion:
    """A suggestion for what was typed.

    weight: as of its strongest source; popular, fit: above 0 to 1; score: of both, by which they are in order; edits:
    how many were forgiven; start, end: the letters of the text that were typed, as code points; sources: which offer
    it.
    """

    text: str
    weight: float
    popular: float
    fit: float
    score: float
    edits: int
    start: int
    end: int
    sources: tuple[int, ...]
    language: str


@dataclass(frozen=True, eq=False)
class Suggested:
    """Suggestions as they are looked through.

    alphabet: uint32 (letters in all,), ascending; letters: (all letters,), numbers of these from 1 on, each suggestion
    closed by a 0; firsts: int64 (suggestions + 1,), where each begins; entries: int32 (entries,), where what is typed
    may begin, in the order of what follows there; language_names, language_bounds: int64 (languages + 1,), the entries
    of each language.
    """

    suggestions: Suggestions
    begins: BeginsAt
    alphabet: NDArray[np.uint32]
    letters: NDArray[np.integer[Any]]
    firsts: NDArray[np.int64]
    entries: NDArray[np.int32]
    language_names: tuple[str, ...]
    language_bounds: NDArray[np.int64]

    @cached_property
    def lengths(self) -> NDArray[np.int64]:
        """Letters of each suggestion."""
        return np.diff(self.firsts) - 1

    @property
    def size_bytes(self) -> int:
        """What its letters and entries take up in memory, and its texts, reckoned as they are kept by Python."""
        texts = sum(len(text) for text in self.suggestions.texts) + 60 * len(self.suggestions)
        return self.letters.nbytes + self.firsts.nbytes + self.entries.nbytes + texts + 22 * len(self.suggestions)

    def number_of(self, entry: int) -> int:
        """The suggestion that an entry is of."""
        return int(np.searchsorted(self.firsts, entry, side="right")) - 1

    def coded(self, typed: str) -> IntArray:
        """Letters as numbers; what stands in no suggestion as one past the last."""
        codes = np.frombuffer(typed.encode("utf-32-le", "surrogatepass"), np.uint32)
        at = np.searchsorted(self.alphabet, codes)
        known = at < self.alphabet.size
        known[known] = self.alphabet[at[known]] == codes[known]
        return np.where(known, at + 1, self.alphabet.size + 1).astype(self.letters.dtype)


def suggested(suggestions: Suggestions, begins: BeginsAt) -> Suggested:
    """Suggestions put in order by their letters, or by those of each of their words."""
    text = "\0".join([*suggestions.letters, ""])
    codes = np.frombuffer(text.encode("utf-32-le", "surrogatepass"), np.uint32)
    alphabet = np.unique(codes)
    alphabet = alphabet[alphabet != 0]
    width = np.uint16 if alphabet.size < np.iinfo(np.uint16).max else np.uint32
    letters = (np.searchsorted(alphabet, codes) + (codes != 0)).astype(width)
    closed = np.flatnonzero(codes == 0)
    firsts = np.concatenate(([0], closed + 1)).astype(np.int64)
    begun = np.zeros(codes.size, np.bool_)
    begun[firsts[:-1]] = True
    if begins is BeginsAt.WORD and codes.size:
        begun[1:] |= codes[:-1] == ord(BLANK)
        for first, last in _WITHOUT_BLANKS:
            begun |= (codes >= first) & (codes <= last)
        begun &= codes != 0
    places = np.flatnonzero(begun).astype(np.int32)
    names = tuple(dict.fromkeys(suggestions.languages))
    # Suggestions stand in the order of their languages.
    last_of = {language: number + 1 for number, language in enumerate(suggestions.languages)}
    ends = firsts[[last_of[name] for name in names]] if names else np.zeros(0, np.int64)
    bounds = np.concatenate(([0], np.searchsorted(places, ends))).astype(np.int64)
    for first, last in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        sort_entries(letters, places[first:last])
    return Suggested(suggestions, begins, alphabet, letters, firsts, places, names, bounds)


@dataclass(frozen=True, eq=False)
class CompletionIndex:
    """Suggestions ready to complete what is typed, in the order that a recipe asks for."""

    suggested: Suggested
    recipe: Completions
    order: RangeLeast

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory."""
        return self.suggested.size_bytes + self.order.size_bytes


def completion_index(found: Suggested, recipe: Completions) -> CompletionIndex:
    """Puts entries in order: by popularity and by how much of the suggestion is typed, equal ones by their letters.

    How much is typed is one factor for all entries of a range, so that their order does not depend on it:

        score = popular ** p · fit ** (1 − p), fit = typed letters / letters · (worth of a later word, where it is one)
    """
    entries = found.entries
    numbers = np.searchsorted(found.firsts, entries, side="right") - 1
    weight, rest = recipe.popular, 1.0 - recipe.popular
    own = weight * np.log(found.suggestions.popular) - rest * np.log(found.lengths)
    score = own[numbers] + np.where(entries != found.firsts[numbers], rest * log(recipe.later), 0.0)
    order = np.lexsort((entries, -np.round(score, _DIGITS)))
    ranks = np.empty(entries.size, np.int32)
    ranks[order] = np.arange(entries.size, dtype=np.int32)
    return CompletionIndex(found, recipe, range_least(ranks))


def complete(
    index: CompletionIndex,
    typed: str,
    wanted: int,
    language: str | None = None,
    leads_somewhere: Callable[[int, str], bool] = lambda _number, _text: True,
) -> list[Completion]:
    """The best suggestions for what was typed: those that fit, then those that would with an edit.

    language: only suggestions of that language and of none. leads_somewhere: whether a suggestion, by number and text,
    finds anything; it is asked of those alone that would be shown. Where nothing was typed there are none.

    >>> from pale_harbor.core.typing.suggestions import Offered, suggestions_of
    >>> from pale_harbor.core.typing.recipe import PastQueries
    >>> found = suggestions_of([(1.0, [Offered("fog bell", 3), Offered("foghorn", 8), Offered("bell of a fort", 9)])])
    >>> index = completion_index(suggested(found, BeginsAt.WORD), Completions(sources=(PastQueries(asked=1),)))
    >>> [one.text for one in complete(index, "be", 5)], [one.text for one in complete(index, "fohg", 5)]
    (['bell of a fort', 'fog bell'], ['foghorn', 'fog bell'])
    """
    letters = letters_of(typed)
    if not letters.strip() or wanted <= 0:
        return []
    found = index.suggested
    coded = found.coded(letters)
    spans = [
        (int(found.language_bounds[number]), int(found.language_bounds[number + 1]))
        for number, name in enumerate(found.language_names)
        if language is None or name in ("", language)
    ]
    shown: list[Completion] = []
    groups: set[int] = set()
    seen: set[int] = set()

    def take(ranges: NDArray[np.int64], edits: int) -> None:
        """Takes the best of some ranges, looking at no more of them than it has to."""
        looked_at, many = 0, 2 * wanted
        while len(shown) < wanted:
            entries = index.order.least(ranges, many)
            for at in entries[looked_at:].tolist():
                entry = int(found.entries[at])
                number = found.number_of(entry)
                group = int(found.suggestions.groups[number])
                if number in seen or group in groups:
                    continue
                seen.add(number)
                if not leads_somewhere(number, found.suggestions.texts[number]):
                    continue
                groups.add(group)
                shown.append(_completion(index, number, entry, letters, edits))
                if len(shown) == wanted:
                    return
            if entries.size < many:
                return
            looked_at, many = entries.size, 4 * many

    exact = [entries_beginning(found.letters, found.entries, first, last, coded) for first, last in spans]
    take(np.array(exact, np.int64).reshape(-1, 2), 0)
    if len(shown) < wanted and index.recipe.forgives(letters):
        near = [entries_near(found.letters, found.entries, first, last, coded, _FIXED_START) for first, last in spans]
        take(apart(np.concatenate([np.zeros((0, 2), np.int64), *near])), 1)
    return shown


def _completion(index: CompletionIndex, number: int, entry: int, typed: str, edits: int) -> Completion:
    found = index.suggested
    own = found.suggestions
    at = entry - int(found.firsts[number])
    length = int(found.lengths[number])
    popular = float(own.popular[number])
    fit = min(1.0, len(typed) / length) * (index.recipe.later if at else 1.0)
    start, end = stretch_of(own.texts[number], at, min(len(typed), length - at))
    share = index.recipe.popular
    return Completion(
        text=own.texts[number],
        weight=float(own.weights[number]),
        popular=popular,
        fit=fit,
        score=exp(share * log(popular) + (1 - share) * log(fit)),
        edits=edits,
        start=start,
        end=end,
        sources=tuple(bit for bit in range(16) if int(own.sources[number]) >> bit & 1),
        language=own.languages[number],
    )
