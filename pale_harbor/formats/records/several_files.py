"""The files of a source: the one that it is, or those of a folder or a zip, by name, where 2 comes before 10.

What is hostile is told, not read.
"""

import re
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.opening import Source, Unfolding
from pale_harbor.formats.records.rows import RawRow

_ZIPS: Final = (b"PK\x03\x04", b"PK\x05\x06")
_MOST_FILES: Final = 200_000
_DIGITS: Final = re.compile(r"([0-9]{1,18})")


@dataclass(frozen=True, slots=True)
class FileRead:
    """A file with its content, or why that cannot be read. name: within its folder or zip, with `/`."""

    name: str
    content: bytes = b""
    reason: str = ""

    def refused(self, reason: str = "", raw: bytes | None = None) -> RawRow:
        """The row that says why there is none. raw: what stands there, its name where that says enough."""
        named = self.name.encode("utf-8", "replace")
        return RawRow(0, None, reason or self.reason, named if raw is None else raw)


# How much of a file of some name is read, in bytes; one more tells that there is more.
MostRead = Callable[[str], int]


def is_several(source: Source, head: bytes) -> bool:
    """Whether a source is a folder or a zip."""
    return source.is_folder or head.startswith(_ZIPS)


def names_in(source: Source) -> list[str]:
    """The names of a source's files, in order. Raises BadInput where a zip is damaged or no honest one."""
    if source.is_folder:
        return [name for name, _ in _of_paths(source)]
    with _opened(source) as archive:
        return [entry.filename for entry in _entries(source, archive)]


def files_of(source: Source, most: MostRead) -> Iterator[FileRead]:
    """Every file of a source, in the order of their names, as far as `most` says and one byte more; a file of which
    nothing is to be read is told by its name. Raises BadInput as `names_in`, and for a zip that unfolds without end.
    """
    if source.is_folder:
        yield from _of_folder(source, most)
    elif source.head(4).startswith(_ZIPS):
        with _opened(source) as archive:
            entries = _entries(source, archive)
            unfolds = Unfolding(source)
            size = source.path.stat().st_size
            for place, entry in enumerate(entries, start=1):
                source.bytes_read = size * place // len(entries)
                yield _of_zip(archive, entry, unfolds, most)
    else:
        name = source.name.removesuffix(".gz")
        with source.open() as file:
            yield FileRead(name, file.read(most(name) + 1))


def _of_folder(source: Source, most: MostRead) -> Iterator[FileRead]:
    read = 0
    for name, path in _of_paths(source):
        if path.is_symlink():
            yield FileRead(name, reason=f"{name} is a link, and links are not followed.")
            continue
        with path.open("rb") as file:
            yield FileRead(name, file.read(most(name) + 1) if most(name) else b"")
        read += path.stat().st_size
        source.bytes_read = read


def _of_paths(source: Source) -> list[tuple[str, Path]]:
    named = [(path.relative_to(source.path).as_posix(), path) for path in source.path.rglob("*") if path.is_file()]
    return sorted(named, key=lambda one: in_order(one[0]))


def in_order(name: str) -> list[str | tuple[int, str]]:
    """What names are put in order by: numbers in them by what they count.

    >>> sorted(["p10.xml", "p2.xml", "p02.xml", "a"], key=in_order)
    ['a', 'p02.xml', 'p2.xml', 'p10.xml']
    """
    # Letters and numbers take turns, so like is compared with like.
    return [(int(part), part) if place % 2 else part for place, part in enumerate(_DIGITS.split(name))]


def _opened(source: Source) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(source.path)
    except zipfile.BadZipFile as error:
        raise BadInput(f"{source.name} is a damaged zip file: {error}.") from error


def _entries(source: Source, archive: zipfile.ZipFile) -> list[zipfile.ZipInfo]:
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    if len(entries) > _MOST_FILES:
        raise BadInput(f"{source.name} holds {len(entries):,} files; {_MOST_FILES:,} are read at most.")
    if sum(entry.compress_size for entry in entries) > source.path.stat().st_size:
        raise BadInput(f"{source.name} is no honest zip file: its entries lie over one another.")
    return sorted(entries, key=lambda entry: in_order(entry.filename))


def _of_zip(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, unfolds: Unfolding, most: MostRead) -> FileRead:
    name = entry.filename
    path = PurePosixPath(name)
    if path.is_absolute() or ".." in path.parts or "\\" in name:
        return FileRead(name, reason=f'"{name}" points outside the zip file.')
    if entry.flag_bits & 1:
        return FileRead(name, reason=f"{name} is encrypted.")
    if not most(name):
        return FileRead(name)
    try:
        # What an entry says of its size is not believed: a bomb says little.
        with archive.open(entry) as file:
            content = file.read(most(name) + 1)
    except (zipfile.BadZipFile, OSError, NotImplementedError, EOFError) as error:
        return FileRead(name, reason=f"{name} cannot be unzipped: {error}.")
    unfolds.by(len(content))
    return FileRead(name, content)
