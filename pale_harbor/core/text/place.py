"""Where in a piece of notation something stands, so that it can be underlined."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Place:
    """A stretch of notation. Lines and columns count from 1, in code points."""

    line: int
    column: int
    length: int

    def __str__(self) -> str:
        return f"line {self.line}, column {self.column}"


def place_of(source: str, start: int, end: int) -> Place:
    """The place of `source[start:end]`; at least one code point long, so that it can be seen.

    >>> place_of("words >\\n lowr", 9, 13)
    Place(line=2, column=2, length=4)
    """
    line_start = source.rfind("\n", 0, start) + 1
    return Place(source.count("\n", 0, start) + 1, start - line_start + 1, max(1, end - start))
