"""Pages that a machine read (ALTO, hOCR), alone, or in a folder or a zip with their pictures: a page is a record."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, Final

from pale_harbor.core.pages import PagePlaces, composed
from pale_harbor.errors import BadInput
from pale_harbor.formats.pages.alto import alto_pages, looks_like_alto
from pale_harbor.formats.pages.hocr import hocr_pages, looks_like_hocr
from pale_harbor.formats.pages.page_read import Fault, PageRead
from pale_harbor.formats.pages.places_text import places_text
from pale_harbor.formats.records.beside_pages import PAGES, PICTURES, BesidePages, PageOf
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, PictureNamed, RawRow
from pale_harbor.formats.records.several_files import FileRead, files_of, is_several

_HEAD: Final = 65_536
_LOOKED_AT: Final = 20
# Blanks, byte order marks, and the halves of letters in UTF-16.
_BEFORE_MARKUP: Final = b" \t\r\n\x00\xef\xbb\xbf\xfe\xff"
_FAULTS_TOLD: Final = 10


class ScannedPages:
    """Pages that a machine read. The key is the file's name, with the page where a file has several:
    `log.hocr#page=3`."""

    name = "scanned_pages"
    title = "Scanned pages (ALTO, hOCR)"
    mended_by: str | None = None

    def recognises(self, source: Source, head: bytes) -> bool:
        if not is_several(source, head):
            return _looks_like_pages(head)
        looked_at = 0
        # Nothing of it counts as read yet.
        for file in files_of(Source(source.path, source.name), lambda name: _HEAD if _is_page(name) else 0):
            if _is_page(file.name):
                looked_at += 1
                if _looks_like_pages(file.content):
                    return True
                if looked_at == _LOOKED_AT:
                    break
        return False

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"key": plan.key or "file"})

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        for line, row in enumerate(_rows(source), start=1):
            yield replace(row, line=line)


def _rows(source: Source) -> Iterator[RawRow]:
    beside = BesidePages(source)
    yield from beside.notes
    for file in files_of(source, lambda name: 0 if name.lower().endswith(PICTURES) else LONGEST_ROW):
        if file.reason:
            yield file.refused()
        elif not file.name.lower().endswith(PICTURES) and file.name not in beside.taken:
            yield from _of_file(file, beside)
    yield from beside.unmet()


def _of_file(file: FileRead, beside: BesidePages) -> Iterator[RawRow]:
    head = file.content[:_HEAD]
    if not _looks_like_pages(head):
        yield file.refused(f"{file.name} is neither a page (ALTO, hOCR) nor a picture of one.")
        return
    if len(file.content) > LONGEST_ROW:
        yield file.refused(f"{file.name} is longer than {LONGEST_ROW:,} bytes.", head)
        return
    try:
        pages = alto_pages(file.content) if looks_like_alto(head) else hocr_pages(file.content)
    except BadInput as error:
        yield file.refused(f"{file.name}: {error}", head)
        return
    several = len(pages) > 1
    for place, page in enumerate(pages, start=1):
        label = f"{file.name}#page={place}" if several else file.name
        of = beside.page_of(file.name, several=several)
        picture, is_here, missing = beside.picture(file.name, page.picture, several=several)
        faults = [*page.faults, *([(0, missing)] if missing else [])]
        if faults:
            yield RawRow(0, None, _told(label, faults), label.encode("utf-8", "replace"))
        if not page.words:
            yield RawRow(0, None, f"{label} holds no words.", label.encode("utf-8", "replace"))
            continue
        values = beside.told_of(of.thing) | _values(label, of, page, picture)
        named = PictureNamed(picture, page.width, page.height) if picture is not None and is_here else None
        yield RawRow(0, values, raw=label.encode("utf-8", "replace"), picture=named)


def _values(label: str, of: PageOf, page: PageRead, picture: str | None) -> dict[str, Any]:
    made = composed(page.words)
    sure = [one.confidence for one in page.words if one.confidence is not None]
    places = PagePlaces(page.width, page.height, made.places)
    values: dict[str, Any] = {
        "file": label,
        "thing": of.thing,
        "page": of.number,
        "page_label": of.label,
        "title": f"{of.title or of.thing}, page {of.label or of.number}",
        "text": made.text,
        "language": page.language,
        "confidence": round(sum(sure) / len(sure), 3) if sure else None,
        "picture": picture,
        "places": places_text("text", made.text, places),
    }
    return {name: value for name, value in values.items() if value is not None}


def _told(label: str, faults: list[Fault]) -> str:
    told = [f"line {line}: {what}" if line else what for line, what in faults[:_FAULTS_TOLD]]
    more = len(faults) - len(told)
    rest = f"; and {more:,} more" if more else ""
    return f"{label}: {'; '.join(told)}{rest}. The rest of the page is taken."


def _is_page(name: str) -> bool:
    return name.lower().endswith(PAGES)


def _looks_like_pages(head: bytes) -> bool:
    # A record of another kind may well speak of such elements.
    if not head.lstrip(_BEFORE_MARKUP).startswith(b"<"):
        return False
    return looks_like_alto(head) or looks_like_hocr(head)
