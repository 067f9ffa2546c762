"""Plain-text, Markdown and PDF files: one of them, a folder, or a zip. A text is a record, a PDF's page is one."""

import io
import logging
from collections.abc import Iterator
from pathlib import PurePosixPath
from typing import Final

from charset_normalizer import from_bytes
from pypdf import PdfReader
from pypdf.errors import PyPdfError

from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow
from pale_harbor.formats.records.several_files import FileRead, MostRead, files_of, is_several

_PDF: Final = b"%PDF-"
TEXTS: Final = (".txt", ".text", ".md", ".markdown")
_LARGEST_PDF: Final = 256_000_000
_MOST_PAGES: Final = 20_000

# The reader tells of every oddity of a PDF; what matters is told in the rejected rows.
logging.getLogger("pypdf").setLevel(logging.CRITICAL)


class TextFiles:
    """Text, Markdown and PDF files. The key is the file's name, with the page of a PDF: `log.pdf#page=3` (RFC 8118)."""

    name = "text_files"
    title = "Text, Markdown and PDF files"
    mended_by: str | None = None

    def recognises(self, source: Source, head: bytes) -> bool:
        if is_several(source, head) or head.startswith(_PDF):
            return True
        return source.name.lower().removesuffix(".gz").endswith(TEXTS)

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"key": plan.key or "file"})

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        for line, row in enumerate(_rows(source), start=1):
            yield RawRow(line, row.values, row.reason, row.raw)


def _rows(source: Source) -> Iterator[RawRow]:
    for file in files_of(source, _most_read(source)):
        if file.reason:
            yield file.refused()
        else:
            yield from _file(file)


def _most_read(source: Source) -> MostRead:
    """What a name promises is believed of a zip's files alone: the others take up what they take up."""
    in_zip = not source.is_folder and is_several(source, source.head(4))
    return lambda name: LONGEST_ROW if in_zip and not name.lower().endswith(".pdf") else _LARGEST_PDF


def _file(file: FileRead) -> Iterator[RawRow]:
    name, content = file.name, file.content
    if content.startswith(_PDF):
        yield from _pages(name, content)
    elif not name.lower().endswith(TEXTS):
        yield file.refused(f"{name} is neither text (.txt), Markdown (.md) nor PDF.")
    elif len(content) > LONGEST_ROW:
        yield file.refused(f"{name} is longer than {LONGEST_ROW:,} bytes.", content[:LONGEST_ROW])
    else:
        text = _text(content)
        if text is None:
            yield file.refused(f"{name} is not text of any encoding that could be told.", content)
        elif not text.strip():
            yield file.refused(f"{name} is empty.")
        else:
            yield RawRow(0, {"file": name, "title": _title(name, text), "text": text}, raw=content)


def _text(content: bytes) -> str | None:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        found = from_bytes(content[:200_000]).best()
        try:
            return None if found is None else content.decode(found.encoding)
        except UnicodeDecodeError:
            return None


def _title(name: str, text: str) -> str:
    """A Markdown heading or the first line, if it is as short as a title; else the file's name."""
    first = next(line for line in text.splitlines() if line.strip()).strip().lstrip("#").strip()
    return first if 0 < len(first) <= 150 else PurePosixPath(name).stem


def _pages(name: str, content: bytes) -> Iterator[RawRow]:
    if len(content) > _LARGEST_PDF:
        yield RawRow(0, None, f"{name} is larger than {_LARGEST_PDF:,} bytes.", name.encode())
        return
    try:
        reader = PdfReader(io.BytesIO(content))
        if reader.is_encrypted and not reader.decrypt(""):
            yield RawRow(0, None, f"{name} is protected by a password.", name.encode())
            return
        count = len(reader.pages)
    except (PyPdfError, ValueError, KeyError, RecursionError, OSError, TypeError, AttributeError) as error:
        yield RawRow(0, None, f"{name} cannot be read as PDF: {error}.", name.encode())
        return
    if count > _MOST_PAGES:
        yield RawRow(0, None, f"{name} has {count:,} pages; {_MOST_PAGES:,} are read at most.", name.encode())
        return
    stem = PurePosixPath(name).stem
    for page in range(1, count + 1):
        label = f"{name}#page={page}".encode("utf-8", "replace")
        try:
            text = reader.pages[page - 1].extract_text().replace("\x00", "")
        except Exception as error:  # a damaged page raises anything at all, and must not cost the others
            yield RawRow(0, None, f"page {page} of {name} cannot be read: {error}.", label)
            continue
        if not text.strip():
            yield RawRow(0, None, f"page {page} of {name} holds no text; it may be a picture of a page.", label)
            continue
        values = {"file": f"{name}#page={page}", "title": f"{stem}, page {page}", "page": page, "text": text}
        yield RawRow(0, values, raw=label)
