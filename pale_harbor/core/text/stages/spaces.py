"""The tokenizer `spaces`."""

from dataclasses import dataclass
from functools import cache
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts


@dataclass(frozen=True, slots=True)
class Spaces:
    """Cuts at white space only; punctuation stays with its word."""

    example: ClassVar[str] = "SKR-2070b, two copies gives SKR-2070b, (with its comma), two and copies"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        # A text's edges count as blanks, so that no token runs from one text into the next.
        solid = ~np.isin(codes, _white_space())
        starts_here = solid.copy()
        starts_here[1:] &= ~solid[:-1]
        ends_here = solid.copy()
        ends_here[:-1] &= ~solid[1:]
        firsts = np.unique(text_firsts)
        inner = firsts[(firsts > 0) & (firsts < codes.size)]
        starts_here[inner] = solid[inner]
        ends_here[inner - 1] = solid[inner - 1]
        starts = np.flatnonzero(starts_here)
        text_ids = np.searchsorted(text_firsts, starts, side="right") - 1
        return Cuts(
            text_ids.astype(np.int32),
            starts.astype(np.int32),
            (np.flatnonzero(ends_here) + 1).astype(np.int32),
        )


@cache
def _white_space() -> NDArray[np.uint32]:
    """The code points with the property White_Space; Python adds four controls of old terminals."""
    blanks = [code for code in range(0x3001) if chr(code).isspace() and not 0x1C <= code <= 0x1F]
    return np.array(blanks, np.uint32)
