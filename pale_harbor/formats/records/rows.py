"""What a reader of records gives: rows as they stand in the source, good and bad."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final, Protocol

from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan

# A row longer than this (in bytes) is rejected; so is what is written in one cell.
LONGEST_ROW: Final = 16_000_000
# Of what could not be read so much is kept, in characters.
LONGEST_RAW: Final = 1_000_000


@dataclass(frozen=True, slots=True)
class PictureNamed:
    """A picture that a row names and its source holds. name: within the source; width, height: of the page that it is
    the picture of, in the page's units, 0 where nobody knows."""

    name: str
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class RawRow:
    """A row before its values are converted.

    line: where it begins, from 1 (the page of a PDF, the place in an array or table). values: None
    for a row that cannot be read, for the reason given. raw: what stands there, if it is text. picture: that comes
    with it. deletes: whether it says that the record of its key is gone. made_places: whether a reader has just made
    the places in it, so that nobody need check them.
    """

    line: int
    values: dict[str, Any] | None
    reason: str = ""
    raw: bytes | None = None
    picture: PictureNamed | None = None
    deletes: bool = False
    made_places: bool = False

    @property
    def raw_text(self) -> str:
        """What stands there as text that can be kept, other bytes as \\xNN; its beginning, if very long."""
        text = (self.raw or b"")[: 4 * LONGEST_RAW].decode("utf-8", "backslashreplace")
        return text[:LONGEST_RAW].replace("\x00", "\\x00")


class RecordFormat(Protocol):
    """A kind of file that records are read from.

    mended_by: the kind that the text of one row alone is read by once somebody has mended it, its own or JSON Lines;
    None where rows are files, which are mended themselves.
    """

    name: str
    title: str
    mended_by: str | None

    def recognises(self, source: Source, head: bytes) -> bool:
        """Whether a source whose (unzipped) content begins with `head` is of this kind."""
        ...

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        """The plan with what this kind leaves open (delimiter, encoding) told from the content."""
        ...

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        """Every row in order. Raises BadInput where the source as a whole cannot be read."""
        ...
