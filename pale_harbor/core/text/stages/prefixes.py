"""The tokenizer and the token stage `prefixes`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts
from pale_harbor.core.text.stages.grams import GramLength, check_lengths
from pale_harbor.core.text.tokens import Token


@dataclass(frozen=True, slots=True)
class Prefixes:
    """A token's beginnings, so that it is found before it is typed to its end; for the record side."""

    min: GramLength = 1
    max: GramLength = 12
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "prefixes(2, 4): harbor gives ha, har and harb"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def __call__(self, token: Token) -> Iterator[Token]:
        for length in range(self.min, min(self.max, len(token.text)) + 1):
            yield token.part(0, length)


@dataclass(frozen=True, slots=True)
class TextPrefixes:
    """The beginnings of the whole text, blanks included."""

    min: GramLength = 1
    max: GramLength = 12
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "prefixes(2, 4): fog bell gives fo, fog and fog␣"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        makes = np.maximum(np.minimum(np.diff(text_firsts), self.max) - self.min + 1, 0)
        text_ids = np.repeat(np.arange(makes.size), makes)
        starts = text_firsts[text_ids]
        lengths = self.min + np.arange(text_ids.size) - np.repeat(np.cumsum(makes) - makes, makes)
        return Cuts(
            text_ids.astype(np.int32),
            starts.astype(np.int32),
            (starts + lengths).astype(np.int32),
            np.zeros(text_ids.size, np.int32),
        )
