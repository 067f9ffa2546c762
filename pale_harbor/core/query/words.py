"""The words of a query, as they are counted: by the word boundaries of Unicode, whatever chains make of them."""

from functools import cache
from re import finditer

from pale_harbor.core.text.chain import Chain, chain_of


@cache
def counting_chain() -> Chain:
    """What cuts a query into the words that are counted."""
    return chain_of("words")


@cache
def literal_chain() -> Chain:
    """How quoted words are read, in records and queries alike: whole words, any case, nothing else changed."""
    return chain_of("nfkc > words > lower")


def word_stretches(text: str) -> list[tuple[int, int]]:
    """Start and end of each word, in code points. Signs that stand by themselves are words too.

    >>> word_stretches("a toggle-head harpoon")
    [(0, 1), (2, 8), (9, 13), (14, 21)]
    """
    words = [(token.start, token.end) for token in counting_chain().run(text)]
    lone = [
        piece.span()
        for piece in finditer(r"\S+", text)
        if not any(start < piece.end() and piece.start() < end for start, end in words)
    ]
    return sorted(words + lone)
