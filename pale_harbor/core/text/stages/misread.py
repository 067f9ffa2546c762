"""The token stage `misread`."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import ClassVar, Final

import regex

from pale_harbor.core.text.tokens import Token

_LONGEST: Final = 3
_MOST: Final = 40
_LONGEST_IN_THE_END: Final = 12


@dataclass(frozen=True, slots=True)
class Misread:
    """Makes letters one that a machine takes for each other on scanned pages, in words: 1amp and lamp are one."""

    pairs: str = "rn=m ſ=s 0=o 1=l"
    example: ClassVar[str] = 'misread("rn=m f=s"): modern becomes modem and fresh sresh, in records and queries alike'

    def __post_init__(self) -> None:
        _pairs(self.pairs)

    def __call__(self, token: Token) -> Iterator[Token]:
        # A number is none that a machine took for a word.
        if not any(letter.isalpha() for letter in token.text):
            yield token
            return
        letters, pattern = _pairs(self.pairs)
        yield token.with_text(pattern.sub(lambda found: letters[found.group()], token.text))


@cache
def _pairs(told: str) -> "tuple[dict[str, str], regex.Pattern[str]]":
    """What becomes what in the end, and a pattern that finds the longest of these. Raises ValueError."""
    letters: dict[str, str] = {}
    for pair in told.split():
        read, sign, meant = pair.partition("=")
        if not sign or not 1 <= len(read) <= _LONGEST or not 1 <= len(meant) <= _LONGEST or read == meant:
            raise ValueError(
                f'"{pair}" is no pair: up to {_LONGEST} letters that are read, "=", and up to {_LONGEST} others, as in '
                "rn=m."
            )
        letters[read] = meant
    if not 1 <= len(letters) <= _MOST:
        raise ValueError(f"there are {len(letters)} pairs; from 1 to {_MOST} may stand here, with blanks between.")
    longest_first = sorted(letters, key=len, reverse=True)
    pattern = regex.compile("|".join(map(regex.escape, longest_first)))
    return {read: _in_the_end(read, letters, pattern) for read in letters}, pattern


def _in_the_end(read: str, letters: dict[str, str], pattern: "regex.Pattern[str]") -> str:
    """What letters become where pairs lead on to one another: f=s and s=c make all three one. Raises ValueError."""
    meant = letters[read]
    for _ in letters:
        further = pattern.sub(lambda found: letters[found.group()], meant)
        if further == meant:
            return meant
        meant = further
        if len(meant) > _LONGEST_IN_THE_END:
            break
    raise ValueError(f'"{read}={letters[read]}" leads back to itself by way of the other pairs.')
