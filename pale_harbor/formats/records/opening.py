"""Opens a file or a folder for reading: gzipped or not, counted, and safe from bombs."""

import gzip
import io
import zlib
from collections.abc import Callable, Generator, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Final, cast

from pale_harbor.errors import BadInput

_GZIP: Final = b"\x1f\x8b"
# Text shrinks to a tenth, logs to a fiftieth; what grows by more than this is no collection.
_MOST_GROWTH: Final = 1_000
_SMALL_ENOUGH: Final = 64_000_000


@dataclass(slots=True)
class Source:
    """A file or folder that records are read from. name: what people call it.

    bytes_read: how far reading has come in the file as it lies on disk, out of bytes_in_all. fetch: gets what lies at
    an address that a file of it names, and raises BadInput where it cannot be had; in_order: gives what a function
    gives for each of many things, side by side; both None where nobody does.
    """

    path: Path
    name: str = ""
    bytes_read: int = 0
    fetch: Callable[[str], bytes] | None = None
    in_order: Callable[[Callable[[Any], Any], Iterable[Any]], Iterator[Any]] | None = None
    _at: Callable[[], int] = field(default=lambda: 0)

    def __post_init__(self) -> None:
        self.name = self.name or self.path.name

    @property
    def is_folder(self) -> bool:
        """Whether it is a folder of files."""
        return self.path.is_dir()

    @property
    def bytes_in_all(self) -> int:
        """How much there is to read, 0 where it cannot be known."""
        if self.is_folder:
            return sum(file.stat().st_size for file in self.path.rglob("*") if file.is_file())
        return self.path.stat().st_size

    def head(self, size: int = 65_536) -> bytes:
        """The beginning of the content, unzipped."""
        if self.is_folder:
            return b""
        with self.open() as file:
            return file.read(size)

    @contextmanager
    def open(self) -> Generator[BinaryIO]:
        """The content, unzipped as it is read. Raises BadInput where it cannot be read."""
        try:
            with self.path.open("rb") as file:
                is_gzip = file.peek(2).startswith(_GZIP)
                raw = _Counting(file, self)
                if not is_gzip:
                    yield cast(BinaryIO, io.BufferedReader(raw, 1 << 18))
                    return
                with gzip.GzipFile(fileobj=io.BufferedReader(raw, 1 << 18)) as unzipped:
                    yield cast(BinaryIO, io.BufferedReader(_Bounded(unzipped, self), 1 << 18))
        except OSError as error:
            raise BadInput(f"{self.name} cannot be read: {error.strerror or error}.") from error
        except (EOFError, zlib.error) as error:
            raise BadInput(f"{self.name} is a damaged gzip file: {error}.") from error


class Unfolding:
    """How far a packed file has unfolded: one that unfolds without end is no collection."""

    def __init__(self, source: Source) -> None:
        self._source = source
        self._most = max(_SMALL_ENOUGH, _MOST_GROWTH * source.path.stat().st_size)
        self._given = 0

    def by(self, count: int) -> None:
        """So many bytes more. Raises BadInput where they are too many for the file that they are in."""
        self._given += count
        if self._given > self._most:
            raise BadInput(
                f"{self._source.name} unfolds to more than {_MOST_GROWTH:,} times its size, as no real collection "
                "does. Unpack it yourself if it is one."
            )


class _Counting(io.RawIOBase):
    """Counts what is read of a file."""

    def __init__(self, file: Any, source: Source) -> None:
        self.file = file
        self.source = source
        source.bytes_read = 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any, /) -> int:
        size = self.file.readinto(buffer)
        self.source.bytes_read += size
        return size

    def seekable(self) -> bool:
        return False


class _Bounded(io.RawIOBase):
    """Stops where a small gzip file unfolds without end."""

    def __init__(self, file: Any, source: Source) -> None:
        self.file = file
        self.unfolds = Unfolding(source)

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any, /) -> int:
        data = self.file.read(len(buffer))
        buffer[: len(data)] = data
        self.unfolds.by(len(data))
        return len(data)
