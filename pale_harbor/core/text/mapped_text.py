"""Text on its way through text stages, with the way back to the original value.

A text stage may lengthen, shorten or replace; every code point of its result keeps the stretch of
the original value it came from, so that a mark on the screen is always on the right letters.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.text.tokens import IntArray


@dataclass(frozen=True, slots=True)
class MappedText:
    """A text and, for each of its code points, the stretch of the original value it came from.

    origin_starts, origin_ends: shape (len(text),), int32; both None while nothing has moved.
    """

    text: str
    origin_starts: IntArray | None = None
    origin_ends: IntArray | None = None

    def origin(self, start: int, end: int) -> tuple[int, int]:
        """The stretch of the original value that `text[start:end]` came from; it may not be empty."""
        if self.origin_starts is None or self.origin_ends is None:
            return start, end
        return int(self.origin_starts[start]), int(self.origin_ends[end - 1])

    def rewritten(self, pieces: Iterable[tuple[str, int, int]]) -> "MappedText":
        """The text made of (new text, start, end) pieces that replace stretches of this one.

        The pieces cover this text from its start to its end. A piece as long as its stretch that
        leaves it as it is maps letter by letter, any other maps whole.
        """
        texts: list[str] = []
        starts: list[int] = []
        ends: list[int] = []
        for new, start, end in pieces:
            texts.append(new)
            if new == self.text[start:end]:
                starts.extend(range(start, end))
                ends.extend(range(start + 1, end + 1))
            else:
                starts.extend([start] * len(new))
                ends.extend([end] * len(new))
        new_starts, new_ends = np.array(starts, np.int32), np.array(ends, np.int32)
        if self.origin_starts is not None and self.origin_ends is not None:
            new_starts, new_ends = self.origin_starts[new_starts], self.origin_ends[new_ends - 1]
        return MappedText("".join(texts), new_starts, new_ends)
