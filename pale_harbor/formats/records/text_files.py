"""Plain-text, Markdown and PDF files: one of them, a folder, or a zip. A text is a record, a PDF's page is one."""

import io
import logging
import zipfile
from collections.abc import Iterator
from pathlib import PurePosixPath
from typing import Final

from charset_normalizer import from_bytes
from pypdf import PdfReader
from pypdf.errors import PyPdfError

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source, Unfolding
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow

_ZIP: Final = b"PK\x03\x04"
_EMPTY_ZIP: Final = b"PK\x05\x06"
_PDF: Final = b"%PDF-"
_TEXTS: Final = (".txt", ".text", ".md", ".markdown")
_MOST_FILES: Final = 200_000
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
        if source.is_folder or head.startswith((_ZIP, _EMPTY_ZIP, _PDF)):
            return True
        return source.name.lower().removesuffix(".gz").endswith(_TEXTS)

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan.model_copy(update={"key": plan.key or "file"})

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        for line, row in enumerate(_rows(source), start=1):
            yield RawRow(line, row.values, row.reason, row.raw)


def _rows(source: Source) -> Iterator[RawRow]:
    if source.is_folder:
        yield from _folder(source)
        return
    head = source.head(8)
    if head.startswith((_ZIP, _EMPTY_ZIP)):
        yield from _zip(source)
        return
    with source.open() as file:
        name = source.name.removesuffix(".gz")
        yield from _file(name, file.read(_LARGEST_PDF + 1))


def _folder(source: Source) -> Iterator[RawRow]:
    files = sorted(path for path in source.path.rglob("*") if path.is_file())
    read = 0
    for path in files:
        name = path.relative_to(source.path).as_posix()
        if path.is_symlink():
            yield RawRow(0, None, f"{name} is a link, and links are not followed.", name.encode())
            continue
        with path.open("rb") as file:
            yield from _file(name, file.read(_LARGEST_PDF + 1))
        read += path.stat().st_size
        source.bytes_read = read


def _zip(source: Source) -> Iterator[RawRow]:
    try:
        with zipfile.ZipFile(source.path) as archive:
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            if len(entries) > _MOST_FILES:
                raise BadInput(f"{source.name} holds {len(entries):,} files; {_MOST_FILES:,} are read at most.")
            size = source.path.stat().st_size
            if sum(entry.compress_size for entry in entries) > size:
                raise BadInput(f"{source.name} is no honest zip file: its entries lie over one another.")
            unfolds = Unfolding(source)
            for place, entry in enumerate(sorted(entries, key=lambda entry: entry.filename), start=1):
                source.bytes_read = size * place // len(entries)
                yield from _entry(archive, entry, unfolds)
    except zipfile.BadZipFile as error:
        raise BadInput(f"{source.name} is a damaged zip file: {error}.") from error


def _entry(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, unfolds: Unfolding) -> Iterator[RawRow]:
    name = entry.filename
    path = PurePosixPath(name)
    if path.is_absolute() or ".." in path.parts or "\\" in name:
        yield RawRow(0, None, f'"{name}" points outside the zip file.', name.encode("utf-8", "replace"))
        return
    if entry.flag_bits & 1:
        yield RawRow(0, None, f"{name} is encrypted.", name.encode())
        return
    most = _LARGEST_PDF if name.lower().endswith(".pdf") else LONGEST_ROW
    try:
        # What an entry says of its size is not believed: a bomb says little.
        with archive.open(entry) as file:
            content = file.read(most + 1)
    except (zipfile.BadZipFile, OSError, NotImplementedError, EOFError) as error:
        yield RawRow(0, None, f"{name} cannot be unzipped: {error}.", name.encode())
        return
    unfolds.by(len(content))
    yield from _file(name, content)


def _file(name: str, content: bytes) -> Iterator[RawRow]:
    if content.startswith(_PDF):
        yield from _pages(name, content)
    elif not name.lower().endswith(_TEXTS):
        reason = f"{name} is neither text (.txt), Markdown (.md) nor PDF."
        yield RawRow(0, None, reason, name.encode("utf-8", "replace"))
    elif len(content) > LONGEST_ROW:
        yield RawRow(0, None, f"{name} is longer than {LONGEST_ROW:,} bytes.", content[:LONGEST_ROW])
    else:
        text = _text(content)
        if text is None:
            yield RawRow(0, None, f"{name} is not text of any encoding that could be told.", content)
        elif not text.strip():
            yield RawRow(0, None, f"{name} is empty.", name.encode("utf-8", "replace"))
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
