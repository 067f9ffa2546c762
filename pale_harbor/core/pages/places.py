"""Where the letters of a text stand on the picture of its page.

Places are kept by the letters' offsets and beside the text, so that whatever a chain makes of the text leads back to
them: a token knows which letters it came from (its stretch), and letters know their boxes.
"""

from dataclasses import dataclass

from pale_harbor.core.pages.read_words import Box


@dataclass(frozen=True, slots=True)
class Place:
    """Letters of a text with the box around them: start to before end, in code points.

    line: the number of the line on the page. confidence: 0 to 1, None where nobody knows.
    """

    start: int
    end: int
    box: Box
    line: int
    confidence: float | None = None


@dataclass(frozen=True, slots=True)
class PagePlaces:
    """The places of a page's text, in the order of its letters; no two share one. width, height: of the page."""

    width: float
    height: float
    places: tuple[Place, ...]

    def of(self, start: int, end: int) -> tuple[Place, ...]:
        """Those of a stretch of the text: whatever holds one of its letters.

        >>> both = (Place(0, 5, Box(90, 10, 30, 9), 0), Place(5, 10, Box(10, 24, 30, 9), 1))
        >>> [place.line for place in PagePlaces(120, 200, both).of(4, 6)]
        [0, 1]
        >>> PagePlaces(120, 200, both).of(4, 4)
        ()
        """
        if start >= end:
            return ()
        return tuple(one for one in self.places if one.start < end and start < one.end)
