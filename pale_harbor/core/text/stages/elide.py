"""The text stage `elide`."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, ClassVar, Final

import regex

from pale_harbor.core.text.mapped_text import MappedText


class ElidingLanguage(StrEnum):
    """A language that joins small words to the next by an apostrophe."""

    FRENCH = "fr"
    ITALIAN = "it"
    CATALAN = "ca"

    def without(self, text: str) -> str:
        """A text without its elided words."""
        return _PATTERNS[self].sub("", text)


_SMALL_WORDS: Final = {
    ElidingLanguage.FRENCH: "c d j l m n s t qu jusqu lorsqu puisqu quoiqu",
    ElidingLanguage.ITALIAN: (
        "c d l m s t v un gl all agl dall dagl dell degl nell negl sull sugl coll pell quest quell"
    ),
    ElidingLanguage.CATALAN: "d l m n s t",
}


def _before_apostrophe(words: str) -> Any:
    return regex.compile(rf"(?<![\w’'ʼ])(?:{'|'.join(words.split())})['’ʼ](?=\p{{L}})", regex.IGNORECASE)


_PATTERNS: Final = {language: _before_apostrophe(words) for language, words in _SMALL_WORDS.items()}


@dataclass(frozen=True, slots=True)
class Elide:
    """Drops small words that an apostrophe joins to the next word."""

    language: ElidingLanguage
    example: ClassVar[str] = "elide(fr): l’amarre d’un canot becomes amarre un canot"

    def __call__(self, text: MappedText) -> MappedText:
        return text.with_replaced(("", *found.span()) for found in _PATTERNS[self.language].finditer(text.text))
