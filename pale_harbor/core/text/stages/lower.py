"""The token stage `lower`.

Source: Unicode Standard, section 3.13, "Default Case Algorithms", and SpecialCasing.txt.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

from pale_harbor.core.text.tokens import Token


class DottedLanguage(StrEnum):
    """A language that tells i with a dot from i without one."""

    TURKISH = "tr"
    AZERBAIJANI = "az"


@dataclass(frozen=True, slots=True)
class Lower:
    """Turns capitals into small letters, in every script that has them; lower(tr) knows the Turkish i."""

    language: DottedLanguage | None = None
    example: ClassVar[str] = "HARBOR and ΟΔΌΣ become harbor and οδός; lower(tr): IŞIK and İZ become ışık and iz"

    def __call__(self, token: Token) -> Iterator[Token]:
        text = token.text
        if self.language is not None:
            text = text.replace("I\u0307", "i").replace("İ", "i").replace("I", "ı")
        yield token.with_text(text.lower())
