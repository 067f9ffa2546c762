"""Unicode normal forms that keep the way back to the original value.

Source: Unicode Standard Annex 15, "Unicode Normalization Forms".
"""

from collections.abc import Iterator
from functools import cache, lru_cache
from typing import Final, Literal
from unicodedata import combining, decomposition, is_normalized, normalize

from pale_harbor.core.text.mapped_text import MappedText

# Vowels and final consonants that join a Hangul letter before them.
_JOINING_JAMO: Final = frozenset(map(chr, (*range(0x1161, 0x1176), *range(0x11A8, 0x11C3))))


def normalise(text: MappedText, form: Literal["NFC", "NFKC"]) -> MappedText:
    """The text in a normal form."""
    if is_normalized(form, text.text):
        return text
    return text.rewritten((normalize(form, text.text[start:end]), start, end) for start, end in _independent(text.text))


def _independent(text: str) -> Iterator[tuple[int, int]]:
    """Stretches that normalise on their own: none ever joins with the one before it."""
    start = 0
    for i in range(1, len(text)):
        if _begins_anew(text[i]):
            yield start, i
            start = i
    if text:
        yield start, len(text)


@lru_cache(maxsize=65_536)
def _begins_anew(character: str) -> bool:
    """Whether nothing before the character can change, or be changed by, its normal form."""
    first = normalize("NFKD", character)[0]
    return combining(first) == 0 and first not in _joining_starters()


@cache
def _joining_starters() -> frozenset[str]:
    """Characters of combining class 0 that nevertheless join the one before them."""
    pairs = (decomposition(chr(code_point)).split() for code_point in range(0x00C0, 0x1E000))
    seconds = {chr(int(pair[1], 16)) for pair in pairs if len(pair) == 2 and not pair[0].startswith("<")}
    return _JOINING_JAMO | {second for second in seconds if combining(second) == 0}
