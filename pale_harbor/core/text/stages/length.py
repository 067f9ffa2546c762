"""The token stage `length`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, ClassVar

from pale_harbor.core.text.parameters import Between
from pale_harbor.core.text.stages.grams import check_lengths
from pale_harbor.core.text.tokens import Token

TokenLength = Annotated[int, Between(1, 10_000)]


@dataclass(frozen=True, slots=True)
class Length:
    """Drops tokens that are shorter or longer, counted in characters."""

    min: TokenLength = 1
    max: TokenLength = 100
    example: ClassVar[str] = "length(3, 8): an old lighthouse gives old"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def __call__(self, token: Token) -> Iterator[Token]:
        if self.min <= len(token.text) <= self.max:
            yield token
