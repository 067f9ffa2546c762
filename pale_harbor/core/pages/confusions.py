"""What a machine takes for what, told by words that are rare beside words that are frequent and differ in one place."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

# A word of so many records is one that there is. One of at most so many, or of so many times fewer than that, may be
# the same one, read wrong.
_FREQUENT: Final = 5
_RARE: Final = 2
_TIMES_RARER: Final = 3
_SHORTEST: Final = 4
_LONGEST_SWAP: Final = 2
# So many different words have to show it, and so many times more than words that are there, are no rarer and differ so
# as well: a machine takes one for the other, a language has both.
_LEAST: Final = 3
_TIMES: Final = 2.0
_EXAMPLES: Final = 5


@dataclass(frozen=True, slots=True)
class Confusion:
    """Letters that were read where others stood. words: how many rare words show it; known: how many words that are
    there differ so from words that are no more frequent; examples: words as they were read, each with the one that it
    may be."""

    read: str
    meant: str
    words: int
    known: int
    examples: tuple[tuple[str, str], ...]


def confusions_in(held: Mapping[str, int]) -> list[Confusion]:
    """Confusions that a collection's words show, those that most words show first.

    held: words by how many records hold them. Words of letters alone, from four on, count; a letter more or less at
    the end is how words are inflected, and does not.

    >>> held = {"fresh": 9, "ship": 8, "noise": 7, "frefh": 1, "fhip": 1, "noife": 2, "mast": 9}
    >>> [(one.read, one.meant, one.words) for one in confusions_in(held)]
    [('f', 's', 3)]
    """
    words = {word: count for word, count in held.items() if len(word) >= _SHORTEST and word.isalpha()}
    frequent = [word for word, count in words.items() if count >= _FREQUENT]
    by_frame: dict[tuple[str, str], list[str]] = {}
    for word in frequent:
        for frame, _ in _frames(word):
            by_frame.setdefault(frame, []).append(word)
    among: Counter[tuple[str, str]] = Counter()
    shown: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for word, count in sorted(words.items()):
        for swap, other in _swaps(word, by_frame).items():
            if count <= _RARE or _TIMES_RARER * count <= words[other]:
                shown.setdefault(swap, []).append((word, other))
            elif count >= max(_FREQUENT, words[other]):
                among[swap] += 1
    found = [
        Confusion(*swap, len(pairs), among[swap], tuple(pairs[:_EXAMPLES]))
        for swap, pairs in shown.items()
        if len(pairs) >= _LEAST and len(pairs) >= _TIMES * among[swap]
    ]
    return sorted(found, key=lambda one: (-one.words, one.read, one.meant))


def _frames(word: str) -> Iterator[tuple[tuple[str, str], str]]:
    """What stands around each place of a word where one or two letters are, and these."""
    for start in range(len(word)):
        for length in range(1, _LONGEST_SWAP + 1):
            if start + length <= len(word):
                yield (word[:start], word[start + length :]), word[start : start + length]


def _swaps(word: str, by_frame: Mapping[tuple[str, str], list[str]]) -> dict[tuple[str, str], str]:
    """The swaps that make a frequent word of this one, as short as they can be told, each with that word."""
    found: dict[tuple[str, str], str] = {}
    for (head, tail), letters in _frames(word):
        for other in by_frame.get((head, tail), ()):
            own = other[len(head) : len(other) - len(tail)]
            # The same letter at either side tells nothing: a shorter swap says it.
            if own and own != letters and own[0] != letters[0] and own[-1] != letters[-1]:
                found.setdefault((letters, own), other)
    return found
