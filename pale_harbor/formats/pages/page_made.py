"""A page with its text made and its places written: all that a record takes of a file, and small enough to be handed
from process to process."""

from dataclasses import dataclass
from typing import Final

from pale_harbor.core.pages import PagePlaces, composed
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.alto import alto_pages, looks_like_alto
from pale_harbor.formats.pages.hocr import hocr_pages
from pale_harbor.formats.pages.page_read import Fault, PageRead
from pale_harbor.formats.pages.places_text import places_text

# The field that a page's text is kept in.
TEXT: Final = "text"
_HEAD: Final = 65_536


@dataclass(frozen=True, slots=True, kw_only=True)
class PageMade:
    """width, height, picture, language, faults: as in what was read; text: "" where the page holds no words; places: of
    the text, written; confidence: of the machine on the whole, None where it says nothing."""

    name: str
    width: float
    height: float
    picture: str | None
    language: str | None
    faults: tuple[Fault, ...]
    text: str
    places: str
    confidence: float | None


def page_made(page: PageRead) -> PageMade:
    """A page that was read, made."""
    made = composed(page.words)
    sure = [one.confidence for one in page.words if one.confidence is not None]
    return PageMade(
        name=page.name,
        width=page.width,
        height=page.height,
        picture=page.picture,
        language=page.language,
        faults=page.faults,
        text=made.text,
        places=places_text(TEXT, made.text, PagePlaces(page.width, page.height, made.places)),
        confidence=round(sum(sure) / len(sure), 3) if sure else None,
    )


def pages_made(content: bytes) -> list[PageMade] | str:
    """The pages of a file of ALTO or hOCR, made; why it cannot be read, where it cannot."""
    try:
        read = alto_pages(content) if looks_like_alto(content[:_HEAD]) else hocr_pages(content)
    except BadInput as error:
        return str(error)
    return [page_made(page) for page in read]
