"""The tokenizer `blanks`."""

from dataclasses import dataclass
from functools import cache
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts, runs_of


@dataclass(frozen=True, slots=True)
class Blanks:
    """Cuts at white space only; punctuation stays with its word."""

    example: ClassVar[str] = "SKR-2070b, two copies gives SKR-2070b, (with its comma), two and copies"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        return runs_of(~np.isin(codes, _white_space()), text_firsts)


@cache
def _white_space() -> NDArray[np.uint32]:
    """The code points with the property White_Space; Python adds four controls of old terminals."""
    blanks = [code for code in range(0x3001) if chr(code).isspace() and not 0x1C <= code <= 0x1F]
    return np.array(blanks, np.uint32)
