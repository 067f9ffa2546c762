"""The token stage `keep`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar

from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import WordSet


@dataclass(frozen=True, slots=True)
class Keep:
    """Marks the words of a list as kept: later stages leave them as they are."""

    words: WordSet
    example: ClassVar[str] = "keep(@names) > stem(en), with constancy listed: constancy stays, fancies becomes fanci"

    def __call__(self, token: Token) -> Iterator[Token]:
        yield replace(token, kept=True) if token.text in self.words.words else token
