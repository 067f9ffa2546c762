"""Pages that a machine read (ALTO, hOCR, PDF with a text behind its pictures), alone, or in a folder or a zip with
their pictures: a page is a record."""

from collections import deque
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.alto import looks_like_alto
from pale_harbor.formats.pages.hocr import looks_like_hocr
from pale_harbor.formats.pages.page_made import TEXT, PageMade, page_made, pages_made
from pale_harbor.formats.pages.page_read import Fault
from pale_harbor.formats.pages.pdf import LARGEST_PDF, MAGIC, is_scan, pdf_pages, pdf_pictures
from pale_harbor.formats.pages.pictures import LARGEST_PICTURE
from pale_harbor.formats.records.beside_pages import PAGES, PICTURES, BesidePages, PageOf
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, PictureNamed, RawRow
from pale_harbor.formats.records.several_files import FileRead, files_of, is_several, names_in
from pale_harbor.formats.records.text_files import TEXTS

_HEAD: Final = 65_536
_LOOKED_AT: Final = 20
_PDFS_LOOKED_AT: Final = 3
# Blanks, byte order marks, and the halves of letters in UTF-16.
_BEFORE_MARKUP: Final = b" \t\r\n\x00\xef\xbb\xbf\xfe\xff"
_FAULTS_TOLD: Final = 10
# So many pages are worth to be read side by side.
_MANY: Final = 200


class ScannedPages:
    """Pages that a machine read. The key is the file's name, with the page where a file has several:
    `log.hocr#page=3`."""

    name = "scanned_pages"
    title = "Scanned pages (ALTO, hOCR, PDF)"
    mended_by: str | None = None

    def recognises(self, source: Source, head: bytes) -> bool:
        # Nothing of it counts as read yet.
        own = Source(source.path, source.name)
        if not is_several(source, head):
            if head.startswith(MAGIC):
                return any(is_scan(file.content) for file in files_of(own, lambda _: LARGEST_PDF))
            return _looks_like_pages(head)
        names = names_in(own)
        # Where texts lie beside them, PDF files are texts too.
        takes_pdf = not any(name.lower().endswith(TEXTS) for name in names)
        looked_at = [name for name in names if _is_page(name) and (takes_pdf or not _is_pdf(name))][:_LOOKED_AT]
        pdfs = [name for name in looked_at if _is_pdf(name)][:_PDFS_LOOKED_AT]
        most = {name: _HEAD for name in looked_at if not _is_pdf(name)} | dict.fromkeys(pdfs, LARGEST_PDF)
        for file in files_of(own, lambda name: most.get(name, 0)):
            if file.name in most and (is_scan(file.content) if _is_pdf(file.name) else _looks_like_pages(file.content)):
                return True
        return False

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"key": plan.key or "file"})

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        for line, row in enumerate(_rows(source), start=1):
            yield replace(row, line=line)


def _rows(source: Source) -> Iterator[RawRow]:
    beside = BesidePages(source)
    yield from beside.notes
    files = (file for file in files_of(source, _most_read) if _is_read(file, beside))
    for file, pages in _read(source, files, many=beside.pages >= _MANY and not beside.has_pdf):
        if file.reason:
            yield file.refused()
        elif file.content.startswith(MAGIC):
            yield from _of_pdf(file, beside)
        else:
            yield from _of_file(file, pages, beside)
    yield from beside.unmet()


def _is_read(file: FileRead, beside: BesidePages) -> bool:
    return bool(file.reason) or not (file.name.lower().endswith(PICTURES) or file.name in beside.taken)


def _read(source: Source, files: Iterator[FileRead], *, many: bool) -> Iterator[tuple[FileRead, list[PageMade] | str]]:
    """Files with the pages that they hold, of ALTO and hOCR. many: whether it is worth to read them side by side."""
    handed: deque[FileRead] = deque()

    def contents() -> Iterator[bytes]:
        for file in files:
            handed.append(file)
            # What is no such page is not handed on.
            yield file.content if not file.reason and _is_fit(file) else b""

    side_by_side = source.in_order if many and source.in_order is not None else map
    for pages in side_by_side(pages_made, contents()):
        yield handed.popleft(), pages


def _is_fit(file: FileRead) -> bool:
    return len(file.content) <= LONGEST_ROW and _looks_like_pages(file.content[:_HEAD])


def pictures_of(source: Source, names: frozenset[str]) -> Iterator[FileRead]:
    """The pictures that rows of a source name, each once: files of their own, and pages of PDF files."""
    pages: dict[str, list[int]] = {}
    for name in names:
        file, _, page = name.rpartition("#page=")
        if _is_pdf(file) and page.isdecimal():
            pages.setdefault(file, []).append(int(page))

    def most(name: str) -> int:
        return LARGEST_PICTURE if name in names else LARGEST_PDF if name in pages else 0

    for file in files_of(source, most):
        if file.name in pages and not file.reason:
            try:
                for page, content in pdf_pictures(file.content, sorted(pages[file.name])):
                    yield FileRead(f"{file.name}#page={page}", content)
            except BadInput as error:
                yield FileRead(file.name, reason=str(error))
        elif file.name in names:
            yield file


def _most_read(name: str) -> int:
    if name.lower().endswith(PICTURES):
        return 0
    return LARGEST_PDF if _is_pdf(name) else LONGEST_ROW


def _of_pdf(file: FileRead, beside: BesidePages) -> Iterator[RawRow]:
    if len(file.content) > LARGEST_PDF:
        yield file.refused(f"{file.name} is larger than {LARGEST_PDF:,} bytes.")
        return
    try:
        for page in pdf_pages(file.content):
            yield from _of_page(file.name, f"{file.name}#page={page.name}", page_made(page), beside, several=True)
    except BadInput as error:
        yield file.refused(f"{file.name}: {error}")


def _of_file(file: FileRead, pages: list[PageMade] | str, beside: BesidePages) -> Iterator[RawRow]:
    head = file.content[:_HEAD]
    if not _looks_like_pages(head):
        yield file.refused(f"{file.name} is neither a page (ALTO, hOCR, PDF) nor a picture of one.")
        return
    if len(file.content) > LONGEST_ROW:
        yield file.refused(f"{file.name} is longer than {LONGEST_ROW:,} bytes.", head)
        return
    if isinstance(pages, str):
        yield file.refused(f"{file.name}: {pages}", head)
        return
    several = len(pages) > 1
    for place, page in enumerate(pages, start=1):
        label = f"{file.name}#page={place}" if several else file.name
        yield from _of_page(file.name, label, page, beside, several=several)


def _of_page(name: str, label: str, page: PageMade, beside: BesidePages, *, several: bool) -> Iterator[RawRow]:
    """A page's row, and what is wrong with it. name: of its file; several: whether that may hold several pages."""
    of = beside.page_of(name, several=several)
    picture, is_here, missing = beside.picture(name, page.picture, several=several)
    faults = [*page.faults, *([(0, missing)] if missing else [])]
    raw = label.encode("utf-8", "replace")
    if faults:
        yield RawRow(0, None, _told(label, faults), raw)
    if not page.text:
        yield RawRow(0, None, f"{label} holds no words.", raw)
        return
    values = beside.told_of(of.thing) | _values(label, of, page, picture)
    named = PictureNamed(picture, page.width, page.height) if picture is not None and is_here else None
    yield RawRow(0, values, raw=raw, picture=named, made_places=True)


def _values(label: str, of: PageOf, page: PageMade, picture: str | None) -> dict[str, Any]:
    values: dict[str, Any] = {
        "file": label,
        "thing": of.thing,
        "page": of.number,
        "page_label": of.label,
        "title": f"{of.title or of.thing}, page {of.label or of.number}",
        TEXT: page.text,
        "language": page.language,
        "confidence": page.confidence,
        "picture": picture,
        "places": page.places,
    }
    return {name: value for name, value in values.items() if value is not None}


def _told(label: str, faults: list[Fault]) -> str:
    told = [f"line {line}: {what}" if line else what for line, what in faults[:_FAULTS_TOLD]]
    more = len(faults) - len(told)
    rest = f"; and {more:,} more" if more else ""
    return f"{label}: {'; '.join(told)}{rest}. The rest of the page is taken."


def _is_pdf(name: str) -> bool:
    return name.lower().endswith(".pdf")


def _is_page(name: str) -> bool:
    return name.lower().endswith(PAGES)


def _looks_like_pages(head: bytes) -> bool:
    # A record of another kind may well speak of such elements.
    if not head.lstrip(_BEFORE_MARKUP).startswith(b"<"):
        return False
    return looks_like_alto(head) or looks_like_hocr(head)
