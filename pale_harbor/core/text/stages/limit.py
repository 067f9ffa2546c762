"""The token stage `limit`."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.parameters import Between
from pale_harbor.core.text.tokens import Token, TokenTable


@dataclass(frozen=True, slots=True)
class Limit:
    """Takes the first tokens of a text, so many and no more, kept ones included."""

    tokens: Annotated[int, Between(1, 1_000_000)]
    example: ClassVar[str] = "limit(2): fog bell and horn gives fog and bell"

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        return [(token, number) for number, token in enumerate(tokens[: self.tokens])]

    def concerns(self, token: Token) -> bool:
        return True

    def plain_texts(self, table: TokenTable) -> IntArray:
        return np.zeros(0, np.int32)

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        first_of_text = np.searchsorted(table.text_ids, table.text_ids, side="left")
        return table.rows(np.flatnonzero(np.arange(table.text_ids.size) - first_of_text < self.tokens))
