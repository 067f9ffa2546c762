"""The token stage `stem`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from pale_harbor.core.text.kinds import Language
from pale_harbor.core.text.stemmers import english
from pale_harbor.core.text.tokens import Token

STEMMERS: Final = {Language.ENGLISH: english.stem}


@dataclass(frozen=True, slots=True)
class Stem:
    """Cuts endings off words of a language, so that their forms meet; wants small letters."""

    language: Language
    example: ClassVar[str] = "stem(en): sailing, sails and sailed all become sail"

    def __call__(self, token: Token) -> Iterator[Token]:
        yield replace(token, text=STEMMERS[self.language](token.text) or token.text)
