"""The token stage `lemmas`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import Replacements


@dataclass(frozen=True, slots=True)
class Lemmas:
    """Replaces a whole token by what a list reads it as, such as a form by its dictionary word."""

    replacements: Replacements
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "lemmas(@irregular), where geese stands for goose: geese becomes goose"

    def __call__(self, token: Token) -> Iterator[Token]:
        # What a list reads as nothing stays as it is: dropping is for stopwords.
        yield token.with_text(self.replacements.by_word.get(token.text) or token.text)
