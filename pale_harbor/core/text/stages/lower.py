"""The token stage `lower`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar

from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Lower:
    """Turns capitals into small letters, in every script that has them."""

    example: ClassVar[str] = "HARBOR and ΟΔΌΣ become harbor and οδός, with the sigma of a word's end"

    def __call__(self, token: Token) -> Iterator[Token]:
        lowered = token.text.lower()
        yield token if lowered == token.text else replace(token, text=lowered)
