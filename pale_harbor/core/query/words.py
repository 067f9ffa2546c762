"""The words of a query, as they are counted: by the word boundaries of Unicode, whatever chains make of them."""

from functools import cache, lru_cache
from re import finditer
from typing import Final
from unicodedata import category

from pale_harbor.core.text.chain import Chain, chain_of

# Longer texts are looked through each time.
_SHORT: Final = 200


@cache
def counting_chain() -> Chain:
    """What cuts a query into the words that are counted."""
    return chain_of("words")


@cache
def literal_chain() -> Chain:
    """How quoted words are read, in records and queries alike: whole words, any case, nothing else changed."""
    return chain_of("nfkc > words > lower")


@cache
def value_chain() -> Chain:
    """How whole values are compared: whatever their case, their accents and the blanks around them."""
    return chain_of(r"nfkc > split_at(/^\s+|\s+$/) > casefold > accents")


def word_stretches(text: str) -> list[tuple[int, int]]:
    """Start and end of each word, in code points. Signs by themselves are words only where there are no others.

    >>> word_stretches("a toggle-head & harpoon")
    [(0, 1), (2, 8), (9, 13), (16, 23)]
    >>> word_stretches("&")
    [(0, 1)]
    """
    return _words(text) or [piece.span() for piece in finditer(r"\S+", text)]


def holds_words(text: str) -> bool:
    """Whether there is anything but blanks and signs."""
    return bool(_words(text))


def _words(text: str) -> list[tuple[int, int]]:
    return list(_words_lately(text) if len(text) <= _SHORT else _found(text))


# One query is asked for its words over and over on its way.
@lru_cache(1_000)
def _words_lately(text: str) -> tuple[tuple[int, int], ...]:
    return _found(text)


def _found(text: str) -> tuple[tuple[int, int], ...]:
    words = [(token.start, token.end) for token in counting_chain().run(text)]
    pictures = [
        piece.span()
        for piece in finditer(r"\S+", text)
        if any(category(sign) == "So" for sign in piece[0])
        and not any(start < piece.end() and piece.start() < end for start, end in words)
    ]
    return tuple(sorted(words + pictures))
