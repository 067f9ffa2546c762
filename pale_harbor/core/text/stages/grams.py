"""The tokenizer and the token stage `grams`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts
from pale_harbor.core.text.parameters import Between
from pale_harbor.core.text.tokens import Token

LONGEST_GRAM: Final = 40
GramLength = Annotated[int, Between(1, LONGEST_GRAM)]


def check_lengths(least: int, most: int) -> None:
    """Raises ValueError where no length lies between the two."""
    if least > most:
        raise ValueError(f"min is {least} and max is {most}: nothing is that long.")


@dataclass(frozen=True, slots=True)
class Grams:
    """All pieces of a token that are so many letters long, wherever in it they begin."""

    min: GramLength = 3
    max: GramLength = 3
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "grams(3, 3): harbor gives har, arb, rbo and bor"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def __call__(self, token: Token) -> Iterator[Token]:
        text = token.text
        for start in range(len(text) - self.min + 1):
            for length in range(self.min, min(self.max, len(text) - start) + 1):
                yield token.part(start, start + length)._replace(kept=False)


@dataclass(frozen=True, slots=True)
class TextGrams:
    """All pieces of the whole text that are so many characters long, blanks included."""

    min: GramLength = 3
    max: GramLength = 3
    cuts_words: ClassVar[bool] = True
    example: ClassVar[str] = "grams(3, 3): fog bell gives fog, og␣, g␣b, ␣be, bel and ell"

    def __post_init__(self) -> None:
        check_lengths(self.min, self.max)

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        text_ids = np.repeat(np.arange(text_firsts.size - 1), np.diff(text_firsts))
        room = text_firsts[text_ids + 1] - np.arange(codes.size)
        makes = np.maximum(np.minimum(room, self.max) - self.min + 1, 0)
        starts = np.repeat(np.arange(codes.size), makes)
        lengths = self.min + np.arange(starts.size) - np.repeat(np.cumsum(makes) - makes, makes)
        return Cuts(
            text_ids[starts].astype(np.int32),
            starts.astype(np.int32),
            (starts + lengths).astype(np.int32),
            (starts - text_firsts[text_ids[starts]]).astype(np.int32),
        )
