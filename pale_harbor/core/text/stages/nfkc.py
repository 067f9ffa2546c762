"""The text stage `nfkc`.

Source: Unicode Standard Annex 15, "Unicode Normalization Forms".
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import ClassVar
from unicodedata import combining, decomposition, is_normalized, normalize

from pale_harbor.core.text.mapped_text import MappedText

_HANGUL_SYLLABLES = range(0xAC00, 0xD7A4)
# Vowels and final consonants that join a Hangul letter before them.
_JOINING_JAMO = frozenset(map(chr, (*range(0x1161, 0x1176), *range(0x11A8, 0x11C3))))


@dataclass(frozen=True, slots=True)
class Nfkc:
    """One form for characters that mean the same: full-width letters, ligatures, marks set apart."""

    example: ClassVar[str] = "ﬁsh № 2², with its ligature and its raised 2, becomes fish No 22"

    def __call__(self, text: MappedText) -> MappedText:
        if is_normalized("NFKC", text.text):
            return text
        return text.rewritten(
            (normalize("NFKC", text.text[start:end]), start, end) for start, end in _independent(text.text)
        )


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
