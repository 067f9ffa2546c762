"""The token stage `stopwords`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Final

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stop_words import english
from pale_harbor.core.text.tokens import Token

STOP_WORDS: Final = {Language.ENGLISH: english.STOP_WORDS}


@dataclass(frozen=True, slots=True)
class StopWords:
    """Drops the small words of a language; what it drops leaves a gap in the positions."""

    language: Language
    example: ClassVar[str] = "stopwords(en): the log of a whaler gives log, whaler"

    def __call__(self, token: Token) -> Iterator[Token]:
        if token.text not in STOP_WORDS[self.language]:
            yield token
