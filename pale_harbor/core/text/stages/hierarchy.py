"""The tokenizer `hierarchy`."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import ClassVar, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts, cuts_of_each

# Each level repeats all above it: without an end a long text of separators would fill the memory.
MOST_LEVELS: Final = 64


@dataclass(frozen=True, slots=True)
class Hierarchy:
    """Makes of a path every path above it, and the path itself, so that each level is found; 64 levels at most."""

    separator: str = "/"
    example: ClassVar[str] = "coast/harbor/quay gives coast, coast/harbor and coast/harbor/quay"

    def __post_init__(self) -> None:
        if not self.separator:
            raise ValueError("the separator is empty.")

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        cuts = cuts_of_each(codes, text_firsts, self._stretches)
        return replace(cuts, positions=np.zeros(cuts.starts.size, np.int32))

    def _stretches(self, text: str) -> Iterator[tuple[int, int]]:
        start = 0
        while text.startswith(self.separator, start):
            start += len(self.separator)
        at = start
        levels = 0
        while at < len(text) and levels < MOST_LEVELS:
            found = text.find(self.separator, at)
            end = len(text) if found < 0 else found
            if end > at:
                levels += 1
                yield start, end
            at = end + len(self.separator)
