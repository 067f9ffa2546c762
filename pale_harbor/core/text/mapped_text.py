"""Text on its way through text stages, with the way back to the original value.

A text stage may lengthen, shorten or replace; every code point of its result keeps the stretch of
the original value it came from, so that a mark on the screen is always on the right letters.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.arrays import IntArray


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

    def exact(self, start: int, end: int) -> bool:
        """Whether each letter of `text[start:end]` came from one letter, each next to the one before."""
        if self.origin_starts is None or self.origin_ends is None:
            return True
        starts, ends = self.origin_starts[start:end], self.origin_ends[start:end]
        return bool((starts == np.arange(end - start) + starts[0]).all() and (ends == starts + 1).all())

    def with_replaced(self, replaced: Iterable[tuple[str, int, int]]) -> "MappedText":
        """The text with some of its stretches replaced, from left to right; the rest stays as it is."""
        pieces: list[tuple[str, int, int]] = []
        at = 0
        for new, start, end in replaced:
            if start > at:
                pieces.append((self.text[at:start], at, start))
            pieces.append((new, start, end))
            at = end
        if not pieces:
            return self
        pieces.append((self.text[at:], at, len(self.text)))
        return self.rewritten(pieces)

    def rewritten(self, pieces: Iterable[tuple[str, int, int]]) -> "MappedText":
        """The text made of (new text, start, end) pieces that replace stretches of this one.

        The pieces cover this text from its start to its end. A piece that leaves its stretch as it
        is maps letter by letter, any other maps whole; what is put in where nothing stood maps to
        the letter before it, or to the first one.
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
                first = start - 1 if start == end and start > 0 else start
                starts.extend([first] * len(new))
                ends.extend([max(end, first + 1)] * len(new))
        new_starts, new_ends = np.array(starts, np.int32), np.array(ends, np.int32)
        if self.origin_starts is not None and self.origin_ends is not None:
            new_starts, new_ends = self.origin_starts[new_starts], self.origin_ends[new_ends - 1]
        return MappedText("".join(texts), new_starts, new_ends)
