"""The token stage `stem`."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar, Final

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stemmers import (
    danish,
    dutch,
    english,
    english_light,
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
LIGHT_STEMMERS: Final = {Language.ENGLISH: english_light.stem}


class Strength(StrEnum):
    """How much of a word's ending goes."""

    FULL = "full"
    LIGHT = "light"


@dataclass(frozen=True, slots=True)
class Stem:
    """Cuts endings off words of a language, so that their forms meet; wants small letters. Light: plurals only."""

    language: Language
    strength: Strength = Strength.FULL
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "stem(en): sailing, sails and sailed become sail; stem(en, light): only sails does"

    def __post_init__(self) -> None:
        if self.strength is Strength.LIGHT and self.language not in LIGHT_STEMMERS:
            raise ValueError(f"there is a light stemmer for {', '.join(LIGHT_STEMMERS)} only.")

    def __call__(self, token: Token) -> Iterator[Token]:
        stemmers = LIGHT_STEMMERS if self.strength is Strength.LIGHT else STEMMERS
        yield token.with_text(stemmers[self.language](token.text) or token.text)
