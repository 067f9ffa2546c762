"""The token stage `unique`."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.text.kinds import Made
from pale_harbor.core.text.tokens import Token, TokenTable


@dataclass(frozen=True, slots=True)
class Unique:
    """Leaves of equal tokens in a text the first one only, so that repeating a word gains nothing."""

    example: ClassVar[str] = "fog fog bell fog gives fog and bell"

    def __call__(self, tokens: Sequence[Token]) -> list[Made]:
        seen: set[str] = set()
        made: list[Made] = []
        for number, token in enumerate(tokens):
            if token.text not in seen:
                seen.add(token.text)
                made.append((token, number))
        return made

    def concerns(self, token: Token) -> bool:
        return True

    def plain_texts(self, table: TokenTable) -> IntArray:
        return np.zeros(0, np.int32)

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        numbers: dict[str, int] = {}
        by_text = np.array([numbers.setdefault(text, len(numbers)) for text in table.terms], np.int64)
        pairs = table.text_ids.astype(np.int64) * max(len(numbers), 1) + by_text[table.term_ids]
        _, firsts = np.unique(pairs, return_index=True)
        return table.rows(np.sort(firsts))
