"""Words as a machine read them off the picture of a page, each with its box."""

from dataclasses import dataclass
from typing import Literal

Part = Literal["first", "second"]


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle on a page, in the page's own units, from its upper left corner."""

    x: float
    y: float
    width: float
    height: float

    @property
    def is_empty(self) -> bool:
        """Whether it covers nothing.

        >>> Box(4, 4, 0, 9).is_empty, Box(4, 4, 1, 9).is_empty
        (True, False)
        """
        return not (self.width > 0 and self.height > 0)

    def lies_within(self, width: float, height: float) -> bool:
        """Whether it keeps to a page of that size, its edges included.

        >>> Box(0, 0, 10, 10).lies_within(10, 10), Box(1, 0, 10, 10).lies_within(10, 10)
        (True, False)
        """
        right, bottom = self.x + self.width, self.y + self.height
        return self.x >= 0 and self.y >= 0 and right <= width and bottom <= height


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadWord:
    """A word as it was read.

    letters: as they stand on the page. box: None where the file gives none that can be used. line, block: numbers of
    the line and of the block of text that it is in; where a block ends, so does a paragraph. confidence: of the
    machine, 0 to 1, None where it says nothing. part: which part it is of a word that is parted at the end of a line;
    whole: that word, where the file tells it.
    """

    letters: str
    box: Box | None
    line: int
    block: int
    confidence: float | None = None
    part: Part | None = None
    whole: str | None = None
