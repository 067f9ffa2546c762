"""The token stage `reverse`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import regex

from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Reverse:
    """Writes a token back to front, so that with prefixes after it words are found by their endings."""

    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "harbor becomes robrah"

    def __call__(self, token: Token) -> Iterator[Token]:
        # By what a reader takes for one character: a mark stays on its letter.
        text = "".join(reversed(regex.findall(r"\X", token.text)))
        yield token if text == token.text else token.loosen(text)
