"""The tokenizer `whole`."""

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts


@dataclass(frozen=True, slots=True)
class Whole:
    """Leaves the text in one piece: one token, or none where the text is empty."""

    example: ClassVar[str] = "Gull Sound gives Gull Sound"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        starts, ends = text_firsts[:-1], text_firsts[1:]
        filled = np.flatnonzero(ends > starts)
        return Cuts(filled.astype(np.int32), starts[filled].astype(np.int32), ends[filled].astype(np.int32))
