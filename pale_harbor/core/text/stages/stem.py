"""The token stage `stem`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stemmers import (
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

STEMMERS: Final = {
    Language.ENGLISH: english.stem,
    Language.GERMAN: german.stem,
    Language.FRENCH: french.stem,
    Language.SPANISH: spanish.stem,
    Language.ITALIAN: italian.stem,
    Language.PORTUGUESE: portuguese.stem,
    Language.DUTCH: dutch.stem,
    Language.SWEDISH: swedish.stem,
    Language.NORWEGIAN: norwegian.stem,
    Language.DANISH: danish.stem,
    Language.FINNISH: finnish.stem,
    Language.RUSSIAN: russian.stem,
    Language.ROMANIAN: romanian.stem,
    Language.HUNGARIAN: hungarian.stem,
}


@dataclass(frozen=True, slots=True)
class Stem:
    """Cuts endings off words of a language, so that their forms meet; wants small letters."""

    language: Language
    example: ClassVar[str] = "stem(en): sailing, sails and sailed all become sail"

    def __call__(self, token: Token) -> Iterator[Token]:
        yield replace(token, text=STEMMERS[self.language](token.text) or token.text)
