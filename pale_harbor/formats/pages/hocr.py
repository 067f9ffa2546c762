"""hOCR: pages that a machine read, as HTML with classes and titles (T. Breuel, "The hOCR Microformat for OCR Workflow
and Results", 2007, and the specification, version 1.2)."""

import re
from dataclasses import dataclass, field
from html.parser import HTMLParser
from typing import Final

from pale_harbor.core.pages import Box, ReadWord
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.page_read import Fault, PageRead, box_fault, number_said

_LOOKS_LIKE: Final = re.compile(rb"class\s*=\s*[\"']?(?:[\w-]+\s+)*ocr_page\b")
_WORDS: Final = frozenset({"ocrx_word", "ocr_word"})
_LINES: Final = frozenset({"ocr_line", "ocrx_line", "ocr_header", "ocr_footer", "ocr_caption", "ocr_textfloat"})
_BLOCKS: Final = frozenset({"ocr_par", "ocr_carea", "ocrx_block"})
# Elements that nothing can stand in, by the HTML standard.
_VOID: Final = frozenset("area base br col embed hr img input link meta source track wbr".split())
_DEEPEST: Final = 200


def looks_like_hocr(head: bytes) -> bool:
    """Whether a file that begins so may be hOCR.

    >>> looks_like_hocr(b"<div class='ocr_page' id='page_1'>")
    True
    """
    return _LOOKS_LIKE.search(head) is not None


def hocr_pages(content: bytes) -> list[PageRead]:
    """The pages of a file, with their words as they stand. Raises BadInput where it is no text or has no page."""
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(f"it is no UTF-8 text (byte {error.start + 1}).") from error
    reading = _Reading()
    reading.feed(text)
    reading.close()
    if not reading.pages:
        raise BadInput('it has no page: an element of the class "ocr_page" was looked for.')
    return [page.read() for page in reading.pages]


@dataclass(slots=True)
class _Page:
    name: str
    box: Box | None
    picture: str | None
    words: list[ReadWord] = field(default_factory=list[ReadWord])
    faults: list[Fault] = field(default_factory=list[Fault])
    languages: dict[str, int] = field(default_factory=dict[str, int])

    def read(self) -> PageRead:
        width, height = (0.0, 0.0) if self.box is None else (self.box.width, self.box.height)
        faults = (
            self.faults if width > 0 and height > 0 else [(0, "the page does not say how large it is"), *self.faults]
        )
        return PageRead(
            name=self.name,
            width=width,
            height=height,
            words=tuple(self.words),
            picture=self.picture,
            language=max(self.languages, key=lambda one: self.languages[one], default=None),
            faults=tuple(faults),
        )


@dataclass(slots=True)
class _Open:
    """An element that is not closed yet."""

    tag: str
    classes: frozenset[str]
    title: dict[str, str]
    language: str | None


class _Reading(HTMLParser):
    """Walks through a file. HTML may leave elements open; whatever closes an outer one closes those within."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.pages: list[_Page] = []
        self._open: list[_Open] = []
        self._line = 0
        self._block = -1
        self._letters: list[str] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in _VOID:
            return
        if len(self._open) >= _DEEPEST:
            raise BadInput(f"elements lie more than {_DEEPEST} deep in one another.")
        said = {name: value or "" for name, value in attrs}
        around = self._open[-1].language if self._open else None
        one = _Open(
            tag,
            frozenset(said.get("class", "").split()),
            title_properties(said.get("title", "")),
            said.get("lang") or said.get("xml:lang") or around,
        )
        self._open.append(one)
        if "ocr_page" in one.classes:
            self.pages.append(_Page(said.get("id", ""), _box(one.title), _picture(one.title)))
            self._line = 0
        if one.classes & _BLOCKS:
            self._block += 1
        if one.classes & _LINES:
            self._line += 1
        if one.classes & _WORDS:
            self._letters = []

    def handle_endtag(self, tag: str) -> None:
        if not any(one.tag == tag for one in self._open):
            return
        while True:
            one = self._open.pop()
            if one.classes & _WORDS and self._letters is not None:
                self._word(one, "".join(self._letters))
                self._letters = None
            if one.tag == tag:
                return

    def handle_data(self, data: str) -> None:
        if self._letters is not None:
            self._letters.append(data)

    def _word(self, one: _Open, letters: str) -> None:
        if not self.pages:
            return
        page = self.pages[-1]
        letters = " ".join(letters.split())
        if not letters:
            page.faults.append((self._line, "a word has no letters"))
            return
        size = (0.0, 0.0) if page.box is None else (page.box.width, page.box.height)
        box = _box(one.title)
        if box is not None and page.box is not None:
            # Boxes count from the corner of the picture; a page may be a part of it.
            box = Box(box.x - page.box.x, box.y - page.box.y, box.width, box.height)
        wrong = box_fault(box, *size)
        if wrong is not None:
            page.faults.append((self._line, f'the box of "{letters[:60]}" {wrong}'))
        if one.language:
            page.languages[one.language] = page.languages.get(one.language, 0) + 1
        page.words.append(
            ReadWord(
                letters=letters,
                box=None if box is None or box.is_empty else box,
                line=max(0, self._line - 1),
                block=max(0, self._block),
                confidence=_confidence(one.title),
            )
        )


def title_properties(title: str) -> dict[str, str]:
    """The properties that a title tells, by name; a `;` in quotes ends none.

    >>> title_properties('image "a;b.png"; bbox 0 0 100 200; x_wconf 93')
    {'image': '"a;b.png"', 'bbox': '0 0 100 200', 'x_wconf': '93'}
    """
    parts = re.findall(r"(?:\"[^\"]*\"|'[^']*'|[^;\"']|[\"'])+", title)
    told = (part.strip().split(None, 1) for part in parts)
    return {one[0]: one[1].strip() if len(one) > 1 else "" for one in told if one}


def _box(title: dict[str, str]) -> Box | None:
    sides = [number_said(side) for side in title.get("bbox", "").split()]
    if len(sides) != 4 or None in sides:
        return None
    left, top, right, bottom = (side for side in sides if side is not None)
    return Box(left, top, right - left, bottom - top)


def _picture(title: dict[str, str]) -> str | None:
    return title.get("image", "").strip("\"' ") or None


def _confidence(title: dict[str, str]) -> float | None:
    found = number_said(title.get("x_wconf"))
    return found / 100 if found is not None and 0 <= found <= 100 else None
