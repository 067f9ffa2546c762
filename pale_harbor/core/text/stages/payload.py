"""The token stage `payload`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar

from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Payload:
    """Parts a token at its last separator: what follows is kept with the token and not matched."""

    separator: str
    example: ClassVar[str] = 'spaces > payload("|"): whaler|0.8 gives whaler, and 0.8 with it'

    def __post_init__(self) -> None:
        if not self.separator:
            raise ValueError("the separator is empty.")

    def __call__(self, token: Token) -> Iterator[Token]:
        text, separator, payload = token.text.rpartition(self.separator)
        if separator and text:
            yield replace(token.part(0, len(text)), payload=payload)
        else:
            yield token
