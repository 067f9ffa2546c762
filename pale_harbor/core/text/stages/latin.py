"""The token stage `latin`.

What each letter becomes is the table of the package anyascii, which follows what is usual in print for each script.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import ClassVar, Final

import regex
from anyascii import anyascii

from pale_harbor.core.text.tokens import Token

# Letters and marks of all scripts but the Latin one, which `accents` knows.
_OTHERS: Final = regex.compile(r"[[\p{L}\p{M}]--[\p{Latin}\p{Common}\p{Inherited}]]", regex.V1)


@dataclass(frozen=True, slots=True)
class Latin:
    """Writes letters of other scripts in Latin ones, as they sound; before lower, since it may make capitals."""

    example: ClassVar[str] = "Петров, Παππάς and 北京 become Petrov, Pappas and BeiJing"

    def __call__(self, token: Token) -> Iterator[Token]:
        text = token.text
        yield token if text.isascii() else token.with_text(latin(text))


def latin(text: str) -> str:
    """A text with its letters of other scripts written in Latin ones.

    >>> latin("Ольга Щукина, Ölga")
    'Olga Shchukina, Ölga'
    """
    return _OTHERS.sub(lambda letter: _letter(letter[0]), text)


@cache
def _letter(letter: str) -> str:
    """One letter; a sign that only softens another leaves nothing, since nobody types an apostrophe for it."""
    return anyascii(letter).replace("'", "")
