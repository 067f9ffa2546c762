"""PDF files of scanned pages: the text that lies behind each picture, word by word with its box, and the picture itself
(by PDFium, through the package pypdfium2)."""

import ctypes
import io
from collections.abc import Generator, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from statistics import median
from threading import Lock
from typing import Any, Final

import pypdfium2
from pypdfium2 import raw

from pale_harbor.core.pages import Box, ReadWord
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.page_read import PageRead

MAGIC: Final = b"%PDF-"
LARGEST_PDF: Final = 256_000_000
MOST_PAGES: Final = 20_000
# Units of a page's size: hundredths of a point, so that boxes keep what they know.
_UNITS: Final = 10
# A picture that covers so much of a page is what was scanned.
_COVERS: Final = 0.5
# The longer side of a page's picture in dots, where the scan itself has more.
_LONGEST_SIDE: Final = 2_400
_USUAL_SCALE: Final = 150 / 72
# Lines that stand farther apart than so many of their heights are of different blocks.
_PARAGRAPH: Final = 1.6
# What PDFium gives for the hyphen that parts a word at the end of a line.
_HYPHENS: Final = "\x02\ufffe\u00ad"
_MOST_LETTERS: Final = 200_000
# PDFium works for one thread at a time.
_alone = Lock()


@dataclass(frozen=True, slots=True)
class _Letter:
    letter: str
    box: Box | None


def is_scan(content: bytes, looked_at: int = 3) -> bool:
    """Whether the first pages of a PDF are pictures with text behind them. False for what cannot be opened."""
    try:
        with _opened(content) as document:
            for number in range(min(looked_at, len(document))):
                page = document[number]
                if _scanned(page) is not None and _letters(page, 20):
                    return True
    except BadInput:
        return False
    return False


def pdf_pages(content: bytes) -> Iterator[PageRead]:
    """The pages of a PDF with their words, in the order in which the text stands in the file; sizes and boxes are in
    tenths of a point, as the page is seen.

    Raises BadInput where it is no PDF, is damaged or protected, or has too many pages.
    """
    with _opened(content) as document:
        count = len(document)
        if count > MOST_PAGES:
            raise BadInput(f"it has {count:,} pages; {MOST_PAGES:,} are read at most.")
    for number in range(count):
        yield _page_of(content, number)


def pdf_pictures(content: bytes, numbers: Sequence[int]) -> Iterator[tuple[int, bytes]]:
    """The pictures of some pages, numbered from 1, as JPEG: as fine as what was scanned, up to 2,400 dots.

    Raises BadInput as `pdf_pages`.
    """
    for number in numbers:
        with _opened(content) as document:
            if not 1 <= number <= len(document):
                continue
            page = document[number - 1]
            width, height = page.get_size()
            scale = _scanned(page) or _USUAL_SCALE
            scale = min(scale, _LONGEST_SIDE / max(width, height, 1))
            image = page.render(scale=scale).to_pil().convert("RGB")
        made = io.BytesIO()
        image.save(made, "JPEG", quality=85)
        yield number, made.getvalue()


def _page_of(content: bytes, number: int) -> PageRead:
    with _opened(content) as document:
        page = document[number]
        width, height = (max(1, round(side * _UNITS)) for side in page.get_size())
        letters = _letters(page, _MOST_LETTERS)
        is_pictured = _scanned(page) is not None
    return PageRead(
        name=str(number + 1),
        width=float(width),
        height=float(height),
        words=tuple(_words(letters)),
        picture=f"#page={number + 1}" if is_pictured else None,
        language=None,
        faults=(),
    )


@contextmanager
def _opened(content: bytes) -> Generator[Any]:
    """A PDF, opened for as long as nobody else has one open. Raises BadInput."""
    with _alone:
        try:
            document = pypdfium2.PdfDocument(content)
        except pypdfium2.PdfiumError as error:
            is_locked = "password" in str(error).casefold()
            told = "is protected by a password" if is_locked else f"cannot be read as PDF: {error}"
            raise BadInput(f"it {told}.") from error
        try:
            yield document
        except pypdfium2.PdfiumError as error:
            raise BadInput(f"it is damaged: {error}.") from error
        finally:
            document.close()


def _scanned(page: Any) -> float | None:
    """How many dots a point the picture has that covers a page; None where none does."""
    width, height = page.get_size()
    best: float | None = None
    for one in page.get_objects(filter=[raw.FPDF_PAGEOBJ_IMAGE], max_depth=3):
        left, bottom, right, top = one.get_bounds()
        if abs((right - left) * (top - bottom)) >= _COVERS * width * height:
            dots = max(one.get_px_size())
            best = max(best or 0.0, dots / max(right - left, top - bottom, 1e-6))
    return best


def _letters(page: Any, most: int) -> list[_Letter]:
    """The letters of a page in the order of the file, with their boxes as the page is seen."""
    text = page.get_textpage()
    width, height = (round(side * _UNITS) for side in page.get_size())
    count = min(most, text.count_chars())
    found: list[_Letter] = []
    sides = [ctypes.c_double() for _ in range(4)]
    left, right, bottom, top = sides
    x, y = ctypes.c_int(), ctypes.c_int()

    def seen(across: float, up: float) -> tuple[int, int]:
        raw.FPDF_PageToDevice(page, 0, 0, width, height, 0, across, up, x, y)
        return x.value, y.value

    for number in range(count):
        code = raw.FPDFText_GetUnicode(text, number)
        letter = chr(code) if 0 < code < 0x11_0000 else "\ufffd"
        if letter.isspace() or not raw.FPDFText_GetCharBox(text, number, left, right, bottom, top):
            found.append(_Letter(letter, None))
            continue
        (x1, y1), (x2, y2) = seen(left.value, bottom.value), seen(right.value, top.value)
        box = Box(float(min(x1, x2)), float(min(y1, y2)), float(abs(x2 - x1)), float(abs(y2 - y1)))
        found.append(_Letter(letter, None if box.is_empty else box))
    return found


def _words(letters: Sequence[_Letter]) -> Iterator[ReadWord]:
    """Letters between blanks, with the rectangle around them; lines and blocks by where these stand."""
    words: list[tuple[str, Box | None, int]] = []
    line, current = 0, list[_Letter]()

    def end() -> None:
        if current:
            text = "".join("-" if one.letter in _HYPHENS else one.letter for one in current)
            words.append((text, _around([one.box for one in current if one.box is not None]), line))
            current.clear()

    for one in letters:
        if one.letter.isspace():
            end()
            line += one.letter in "\n\u2028"
        else:
            current.append(one)
            if one.letter in _HYPHENS:
                # It stands in place of the line's end.
                end()
                line += 1
    end()
    yield from _in_blocks(words)


def _in_blocks(words: Sequence[tuple[str, Box | None, int]]) -> Iterator[ReadWord]:
    heights = [box.height for _, box, _ in words if box is not None]
    usual = median(heights) if heights else 0.0
    block, before, numbers = 0, None, dict[int, int]()
    for text, box, line in words:
        if box is not None:
            if before is not None and line != before[0]:
                gap = box.y - (before[1].y + before[1].height)
                # Farther down than the next line, or up again to another column.
                block += gap > _PARAGRAPH * usual or box.y + box.height < before[1].y - usual
            before = (line, box)
        number = numbers.setdefault(line, len(numbers))
        yield ReadWord(letters=text, box=box, line=number, block=block)


def _around(boxes: Sequence[Box]) -> Box | None:
    if not boxes:
        return None
    left, top = min(one.x for one in boxes), min(one.y for one in boxes)
    right, bottom = max(one.x + one.width for one in boxes), max(one.y + one.height for one in boxes)
    return Box(left, top, right - left, bottom - top)
