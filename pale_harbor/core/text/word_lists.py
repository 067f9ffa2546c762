"""Word lists: what stages read from a named, versioned list.

Three kinds: words (stop words, kept words, parts of compounds), replacements (one writing read as
another) and synonyms (words of one meaning). Their entries stand as they are written.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from hashlib import sha256
from typing import Final

MOST_ENTRIES: Final = 200_000
LONGEST_ENTRY: Final = 200


class ListKind(StrEnum):
    WORDS = "words"
    REPLACEMENTS = "replacements"
    SYNONYMS = "synonyms"


@dataclass(frozen=True)
class WordSet:
    """Words, each by itself."""

    words: frozenset[str]

    @cached_property
    def digest(self) -> str:
        """The same for the same words, in whatever order."""
        return _digest(sorted(self.words))


@dataclass(frozen=True)
class Replacements:
    """Pairs of what is written and what it is read as."""

    pairs: tuple[tuple[str, str], ...]

    @cached_property
    def by_word(self) -> Mapping[str, str]:
        """What each word becomes."""
        return dict(self.pairs)

    @cached_property
    def digest(self) -> str:
        """The same for the same replacements in the same order."""
        return _digest([part for pair in self.pairs for part in pair])


@dataclass(frozen=True, slots=True)
class SynonymRule:
    """What one row says: each of `words` also means each of `means`; both ways, all mean one another.

    Every entry may be of several words, separated by blanks.
    """

    words: tuple[str, ...]
    means: tuple[str, ...]
    both_ways: bool = True


@dataclass(frozen=True)
class Synonyms:
    """Rules of words that mean the same.

    >>> rules = Synonyms((SynonymRule(("foghorn",), ("fog horn",)),))
    >>> rules.meanings["fog", "horn"]
    (('foghorn',),)
    """

    rules: tuple[SynonymRule, ...]

    @cached_property
    def meanings(self) -> Mapping[tuple[str, ...], tuple[tuple[str, ...], ...]]:
        """For each sequence of words the other sequences it also means, in the order of the rules."""
        found: dict[tuple[str, ...], dict[tuple[str, ...], None]] = {}
        for rule in self.rules:
            if rule.both_ways:
                every = (*rule.words, *rule.means)
                pairs = [(word, other) for word in every for other in every]
            else:
                pairs = [(word, other) for word in rule.words for other in rule.means]
            for word, other in pairs:
                split, means = tuple(word.split()), tuple(other.split())
                if split and means and split != means:
                    found.setdefault(split, {})[means] = None
        return {split: tuple(others) for split, others in found.items()}

    @cached_property
    def longest(self) -> Mapping[str, int]:
        """For each first word the most words that an entry beginning with it has."""
        longest: dict[str, int] = {}
        for split in self.meanings:
            longest[split[0]] = max(longest.get(split[0], 0), len(split))
        return longest

    @cached_property
    def digest(self) -> str:
        """The same for the same rules in the same order."""
        return _digest([f"{rule.words}{rule.means}{rule.both_ways}" for rule in self.rules])


WordList = WordSet | Replacements | Synonyms
NO_LISTS: Final[Mapping[str, WordList]] = {}


def kind_of_list(word_list: WordList) -> ListKind:
    """The kind of a word list."""
    match word_list:
        case WordSet():
            return ListKind.WORDS
        case Replacements():
            return ListKind.REPLACEMENTS
        case Synonyms():
            return ListKind.SYNONYMS


def entries_of(word_list: WordList) -> list[str]:
    """What the list looks for in a text, each entry once, in order."""
    match word_list:
        case WordSet():
            return sorted(word_list.words)
        case Replacements():
            return list(word_list.by_word)
        case Synonyms():
            return [" ".join(split) for split in word_list.meanings]


def _digest(parts: list[str]) -> str:
    return sha256("\0".join(parts).encode("utf-8", "surrogatepass")).hexdigest()[:32]
