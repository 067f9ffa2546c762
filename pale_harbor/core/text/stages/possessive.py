"""The token stage `possessive`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Final

from pale_harbor.core.text.tokens import Token

_APOSTROPHES: Final = "'’ʼ＇"


@dataclass(frozen=True, slots=True)
class Possessive:
    """Takes the possessive ending off a word: 's, or the apostrophe after an s."""

    example: ClassVar[str] = "keeper's and keepers' become keeper and keepers"

    def __call__(self, token: Token) -> Iterator[Token]:
        text = token.text
        if len(text) > 2 and text[-1] in "sS" and text[-2] in _APOSTROPHES:
            text = text[:-2]
        elif len(text) > 2 and text[-1] in _APOSTROPHES and text[-2] in "sS":
            text = text[:-1]
        yield token.with_text(text)
