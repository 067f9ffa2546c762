"""The token stage `stopwords`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar, Final

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stop_words import (
    danish,
    dutch,
    english,
    finnish,
    french,
    german,
    hungarian,
    italian,
    norwegian,
    portuguese,
    romanian,
    russian,
    spanish,
    swedish,
)
from pale_harbor.core.text.tokens import Token
from pale_harbor.core.text.word_lists import WordSet

STOP_WORDS: Final = {
    Language.ENGLISH: english.STOP_WORDS,
    Language.GERMAN: german.STOP_WORDS,
    Language.FRENCH: french.STOP_WORDS,
    Language.SPANISH: spanish.STOP_WORDS,
    Language.ITALIAN: italian.STOP_WORDS,
    Language.PORTUGUESE: portuguese.STOP_WORDS,
    Language.DUTCH: dutch.STOP_WORDS,
    Language.SWEDISH: swedish.STOP_WORDS,
    Language.NORWEGIAN: norwegian.STOP_WORDS,
    Language.DANISH: danish.STOP_WORDS,
    Language.FINNISH: finnish.STOP_WORDS,
    Language.RUSSIAN: russian.STOP_WORDS,
    Language.ROMANIAN: romanian.STOP_WORDS,
    Language.HUNGARIAN: hungarian.STOP_WORDS,
}


@dataclass(frozen=True, slots=True)
class StopWords:
    """Drops the small words of a language, or those of a list; what it drops leaves a gap in the positions."""

    words: Language | WordSet
    example: ClassVar[str] = "stopwords(en): the log of a whaler gives log, whaler"

    def __call__(self, token: Token) -> Iterator[Token]:
        dropped = self.words.words if isinstance(self.words, WordSet) else STOP_WORDS[self.words]
        if token.text not in dropped:
            yield token
