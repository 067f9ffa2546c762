"""The tokenizer `split_at`."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.kinds import Cuts, cuts_of_each
from pale_harbor.core.text.patterns import SafePattern


@dataclass(frozen=True, slots=True)
class SplitAt:
    """Cuts wherever a regular expression matches; what matches is left out."""

    pattern: SafePattern
    example: ClassVar[str] = "split_at(/\\s*;\\s*/): oak; elm ;iron gives oak, elm and iron"

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        return cuts_of_each(codes, text_firsts, self._stretches)

    def _stretches(self, text: str) -> Iterator[tuple[int, int]]:
        at = 0
        for found in self.pattern.matches(text):
            start, end = found.span()
            if start > at:
                yield at, start
            at = end
        if at < len(text):
            yield at, len(text)
