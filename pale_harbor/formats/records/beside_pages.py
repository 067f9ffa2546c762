"""What lies beside scanned pages: their pictures, the order of a thing's pages (METS, IIIF), a table of the things."""

import re
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from posixpath import normpath
from tempfile import TemporaryDirectory
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.iiif.reading import manifest_in
from pale_harbor.formats.pages.mets import mets_in
from pale_harbor.formats.records.conversion import converted_value
from pale_harbor.formats.records.delimited import Delimited
from pale_harbor.formats.records.guessing import Evidence
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.plan import ImportPlan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow
from pale_harbor.formats.records.several_files import FileRead, files_of, is_several, names_in

PICTURES: Final = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".gif")
PAGES: Final = (".xml", ".alto", ".hocr", ".html", ".htm", ".xhtml", ".pdf")
_TABLES: Final = ("things.csv", "things.tsv")
# The column of the table that says where a manifest of the thing is.
_MANIFEST: Final = "manifest"
_ADDRESSES: Final = ("https://", "http://")
# What a page says itself.
_OWN: Final = ("thing", "file", "page", "page_label", "text", "confidence", "picture", "places")
_TRAILING_NUMBER: Final = re.compile(r"[\W_]*\d+$")


@dataclass(frozen=True, slots=True)
class PageOf:
    """What a page is a page of: the name of the thing, its title where that is known; number: which of its pages, from
    1; label: what the page is called there, None where nobody says."""

    thing: str
    title: str | None
    number: int
    label: str | None


@dataclass(frozen=True, slots=True)
class _Ordered:
    """A page's place in a METS file, and the files that show it, by their names in the source."""

    thing: str
    title: str | None
    number: int
    label: str | None
    files: tuple[str, ...]


class BesidePages:
    """The files of a source that tell of its pages. notes: what is wrong with these; taken: their names; pages: how
    many files there are that may be pages; has_pdf: whether PDF files are among them, which may be very large.

    Pages are in the order of a METS file, else of a manifest, else of their names.
    """

    def __init__(self, source: Source) -> None:
        several = is_several(source, source.head(4))
        names = names_in(source) if several else []
        pictures = [name for name in names if name.lower().endswith(PICTURES)]
        # Where there is none at all nobody looks for one.
        self._looks_for_pictures = bool(pictures)
        self._by_name = {name.casefold(): name for name in pictures}
        self._by_stem = {stem_of(name).casefold(): name for name in pictures}
        self._numbers: Counter[str] = Counter()
        self._ordered: dict[str, _Ordered] = {}
        self._things: dict[str, dict[str, Any]] = {}
        self._met: set[str] = set()
        self.notes: list[RawRow] = []
        self.taken: set[str] = set()
        self._pages = [name for name in names if name.lower().endswith(PAGES)]
        self.pages = len(self._pages)
        self.has_pdf = any(name.lower().endswith(".pdf") for name in names)
        # By thing, what was read of its manifest, and where that was.
        self._manifests: dict[str, tuple[str, bytes]] = {}
        if several:
            # Nothing of it counts as read yet.
            self._read(Source(source.path, source.name), source.fetch)

    def page_of(self, name: str, *, several: bool) -> PageOf:
        """What a page is a page of, by its file's name; several: whether the file holds several pages."""
        ordered = self._ordered.get(name.casefold())
        if ordered is not None and not several:
            self._met.add(ordered.thing)
            title = self._title(ordered.thing) or ordered.title
            return PageOf(ordered.thing, title, ordered.number, ordered.label)
        thing = thing_of(name, several=several)
        self._met.add(thing)
        self._numbers[thing] += 1
        return PageOf(thing, self._title(thing), self._numbers[thing], None)

    def told_of(self, thing: str) -> dict[str, Any]:
        """What the table says of a thing, but for its title."""
        return {name: value for name, value in self._things.get(thing, {}).items() if name != "title"}

    def picture(self, name: str, told: str | None, *, several: bool) -> tuple[str | None, bool, str]:
        """The picture of a page, whether it is here, and what is wrong with it, if anything.

        told: in the page's file; several: whether that holds several pages. A part of the file itself begins with #.
        """
        if told is not None and told.startswith("#"):
            return f"{name}{told}", True, ""
        base = None if told is None else PurePosixPath(told.replace("\\", "/")).name
        if not self._looks_for_pictures:
            return base, False, ""
        ordered = self._ordered.get(name.casefold())
        of_page = () if ordered is None or several else ordered.files
        found = next((own for file in of_page if (own := self._by_name.get(file.casefold()))), None)
        if found is None and not several:
            found = self._by_stem.get(stem_of(name).casefold())
        if found is None and base is not None:
            found = self._by_name.get((PurePosixPath(name).parent / base).as_posix().casefold())
        if found is not None:
            return found, True, ""
        if base is not None:
            return base, False, f'its picture "{base[:200]}" is not beside it'
        return None, False, "no picture of it is beside it"

    def unmet(self) -> Iterator[RawRow]:
        """Things of the table of which no page came, once all pages did."""
        for thing in self._things:
            if thing not in self._met:
                yield RawRow(0, None, f'The table tells of "{thing[:200]}", of which there is no page.', thing.encode())

    def _title(self, thing: str) -> str | None:
        title = self._things.get(thing, {}).get("title")
        return None if title is None else str(title)

    def _read(self, source: Source, fetch: Callable[[str], bytes] | None) -> None:
        for file in files_of(source, lambda name: LONGEST_ROW if _tells(name) else 0):
            if not _tells(file.name) or file.reason:
                continue
            if PurePosixPath(file.name).name.lower() in _TABLES:
                self.taken.add(file.name)
                self._take_table(file)
            elif file.name.lower().endswith(".json"):
                self.taken.add(file.name)
                folder = PurePosixPath(file.name).parent
                for thing in {thing_of(name, several=False) for name in self._pages if _lies_in(name, folder)}:
                    self._manifests.setdefault(thing, (file.name, file.content))
            elif b"http://www.loc.gov/METS/" in file.content[:65_536]:
                self.taken.add(file.name)
                self._take_order(file)
        for thing, told in self._things.items():
            address = str(told.pop(_MANIFEST, "") or "").strip()
            if address.startswith(_ADDRESSES):
                self._fetch(thing, address, fetch)
            elif address:
                self._note(address, "an address begins with https:// or http://.")
        for thing, (name, content) in self._manifests.items():
            self._take_manifest(thing, name, content)

    def _fetch(self, thing: str, address: str, fetch: Callable[[str], bytes] | None) -> None:
        try:
            if fetch is None:
                raise BadInput("addresses are not asked here.")
            self._manifests[thing] = (address, fetch(address))
        except BadInput as error:
            self._note(address, str(error))

    def _take_manifest(self, thing: str, name: str, content: bytes) -> None:
        """The order of a thing's pages by its manifest: canvases and pages are paired by the names of files."""
        try:
            manifest = manifest_in(content)
        except BadInput as error:
            self._note(name, str(error))
            return
        pages = {
            PurePosixPath(stem_of(page)).name.casefold(): page
            for page in self._pages
            if page.casefold() not in self._ordered and thing_of(page, several=False) == thing
        }
        unmet = 0
        for number, canvas in enumerate(manifest.canvases, start=1):
            page = next((pages.pop(own) for one in canvas.names if (own := one.casefold()) in pages), None)
            if page is None:
                unmet += 1
            else:
                own = _Ordered(thing, manifest.title, number, canvas.label, (page,))
                self._ordered[page.casefold()] = own
        if unmet == len(manifest.canvases):
            self._note(name, "none of its pages has a name that a page here has.")
        elif unmet:
            self.notes.append(
                RawRow(0, None, f"{name}: {unmet:,} of its pages are not here.", name.encode("utf-8", "replace"))
            )

    def _note(self, name: str, what: str) -> None:
        told = f"{name[:300]}: {what} Pages come in the order of their names."
        self.notes.append(RawRow(0, None, told, name.encode("utf-8", "replace")))

    def _take_order(self, file: FileRead) -> None:
        try:
            mets = mets_in(file.content)
        except BadInput as error:
            self.notes.append(file.refused(f"{file.name}: {error} Pages come in the order of their names."))
            return
        folder = PurePosixPath(file.name).parent
        thing = folder.as_posix() if folder.as_posix() != "." else _without_mets(file.name)
        for number, page in enumerate(mets.pages, start=1):
            files = tuple(normpath((folder / one).as_posix()) for one in page.files)
            own = _Ordered(thing, mets.title, number, page.label, files)
            for one in files:
                if one.lower().endswith(PAGES):
                    self._ordered[one.casefold()] = own

    def _take_table(self, file: FileRead) -> None:
        folder = PurePosixPath(file.name).parent
        rows = _rows_of_table(file)
        seen = Evidence()
        for row in rows:
            seen.note(row.values or {})
        plans = seen.guess("thing")
        for row in rows:
            thing = str((row.values or {}).get("thing") or "").strip()
            if row.values is None or not thing:
                reason = row.reason or 'the column "thing" is missing or empty.'
                self.notes.append(RawRow(0, None, f"{file.name}, line {row.line}: {reason}", row.raw))
                continue
            own = {
                one.name: converted_value(value, one)
                for one in plans
                if one.name not in _OWN and (value := row.values.get(one.name)) not in (None, "")
            }
            self._things[normpath((folder / thing).as_posix())] = own


def _rows_of_table(file: FileRead) -> list[RawRow]:
    reader = Delimited()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "things"
        path.write_bytes(file.content)
        source = Source(path, file.name)
        try:
            return list(reader.rows(source, reader.complete_plan(source, ImportPlan())))
        except BadInput as error:
            return [RawRow(1, None, str(error))]


def _lies_in(name: str, folder: PurePosixPath) -> bool:
    """Whether a file lies in a folder, or below it."""
    return folder.as_posix() == "." or folder in PurePosixPath(name).parents


def _tells(name: str) -> bool:
    own = PurePosixPath(name).name.lower()
    return own in _TABLES or (own.endswith(".xml") and "mets" in own) or (own.endswith(".json") and "manifest" in own)


def _without_mets(name: str) -> str:
    """
    >>> _without_mets("log-1846-mets.xml"), _without_mets("mets.xml")
    ('log-1846', 'mets')
    """
    stem = PurePosixPath(name).stem
    return re.sub(r"(?i)[\W_]*mets[\W_]*", "", stem) or stem


def thing_of(name: str, *, several: bool) -> str:
    """What a page is a page of by its file's name: its folder, else its name without the number at its end.

    >>> thing_of("letters/orla/3.xml", several=False), thing_of("log-1846-003.xml", several=False)
    ('letters/orla', 'log-1846')
    >>> thing_of("log-1846.hocr", several=True)
    'log-1846'
    """
    stem = stem_of(name)
    if several:
        return stem
    folder = PurePosixPath(name).parent.as_posix()
    if folder != ".":
        return folder
    return _TRAILING_NUMBER.sub("", stem) or stem


def stem_of(name: str) -> str:
    """A name without its folders' last word of format: `a/3.alto.xml` and `a/3.png` are of the same page.

    >>> stem_of("a/3.alto.xml"), stem_of("a/3.png"), stem_of("a/no.3.png")
    ('a/3', 'a/3', 'a/no.3')
    """
    path = PurePosixPath(name)
    if path.suffix.lower() in (*PAGES, *PICTURES):
        path = path.with_suffix("")
    if path.suffix.lower() in (".alto", ".hocr", ".ocr"):
        path = path.with_suffix("")
    return path.as_posix()
