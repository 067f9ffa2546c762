"""The tokenizer `words`."""

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts
from pale_harbor.core.text.word_boundaries import word_break_table, word_stretches


@dataclass(frozen=True, slots=True)
class Words:
    """Cuts at the word boundaries of Unicode; punctuation and blanks are left out."""

    example: ClassVar[str] = "Sold for 1,250.00 at St. Osmer's quay gives Sold, for, 1,250.00, at, St, Osmer's, quay"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        starts, ends, text_ids = (np.empty(codes.size, np.int32) for _ in range(3))
        count = word_stretches(codes, text_firsts, word_break_table(), starts, ends, text_ids)
        return Cuts(text_ids[:count].copy(), starts[:count].copy(), ends[:count].copy())
