"""The token stage `as_is`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import WordSet


@dataclass(frozen=True, slots=True)
class AsIs:
    """Words of a list stay as they are: no later stage changes or drops them."""

    words: WordSet
    example: ClassVar[str] = "as_is(@names) > stem(en), with constancy listed: constancy stays, fancies becomes fanci"

    def __call__(self, token: Token) -> Iterator[Token]:
        yield token._replace(kept=True) if token.text in self.words.words else token
