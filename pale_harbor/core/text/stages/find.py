"""The tokenizer `find`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts, cuts_of_each
from pale_harbor.core.text.patterns import SafePattern


@dataclass(frozen=True, slots=True)
class Find:
    """Makes a token of whatever a regular expression finds; where it has a group, of its first group."""

    pattern: SafePattern
    example: ClassVar[str] = "find(/[A-Z]+-\\d+/): see SMC-1907 and QX-3 gives SMC-1907 and QX-3"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        return cuts_of_each(codes, text_firsts, self._stretches)

    def _stretches(self, text: str) -> Iterator[tuple[int, int]]:
        for found in self.pattern.matches(text):
            start, end = found.span(1) if found.re.groups else found.span()
            if end > start:
                yield start, end
