"""The token stage `casefold`.

Source: Unicode Standard, section 3.13, "Default Case Folding".
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Casefold:
    """Makes letters alike whatever their case, more thoroughly than lower: for matching, not for reading."""

    example: ClassVar[str] = "STRASSE and Straße both become strasse; ὈΔΥΣΣΕΎΣ ends with the same σ as within"

    def __call__(self, token: Token) -> Iterator[Token]:
        yield token.with_text(token.text.casefold())
