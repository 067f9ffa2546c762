"""The file of a backup: a zip with each table's rows as PostgreSQL's text, and what is told of them as JSON.

`tables/NAME.copy` holds a table's rows as `COPY … TO STDOUT` writes them. `backup.json`, written last, tells of which
version of the tables they are, their columns, how many rows they are and their SHA-256, so that a file that was cut off
or changed is known as one.
"""

import zipfile
import zlib
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Final, Self

import orjson
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from pale_harbor.errors import BadInput

FORMAT: Final = 1
_TOLD: Final = "backup.json"
_LARGEST_TOLD: Final = 50_000_000
_PIECE: Final = 1 << 20


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class KeptTable(_Part):
    """A table in a backup. digest: the SHA-256 of its text, in hexadecimal digits."""

    name: str
    columns: list[str]
    rows: int
    size: int
    digest: str


class KeptCounter(_Part):
    """How far a column that numbers its rows had counted."""

    table: str
    column: str
    last: int | None


class KeptCollection(_Part):
    """A collection in a backup. fingerprint: of all its records."""

    name: str
    records: int
    fingerprint: str


class BackupTold(_Part):
    """What a backup tells of itself. made_at: as ISO 8601; migrations: those that made its tables."""

    format: int = Field(ge=1)
    program: str
    made_at: str
    migrations: list[str] = Field(min_length=1)
    tables: list[KeptTable]
    counters: list[KeptCounter]
    collections: list[KeptCollection]


class BackupWriter:
    """A backup that is being written."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self._archive = archive

    @contextmanager
    def table(self, name: str) -> Generator[IO[bytes]]:
        """Where a table's rows go."""
        with self._archive.open(_member(name), "w", force_zip64=True) as member:
            yield member

    def tell(self, told: BackupTold) -> None:
        """What makes it whole; said last."""
        self._archive.writestr(_TOLD, orjson.dumps(told.model_dump(), option=orjson.OPT_INDENT_2))


@contextmanager
def writing_backup(file: IO[bytes]) -> Generator[BackupWriter]:
    """A backup written into a file."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
        yield BackupWriter(archive)


class BackupReader:
    """A backup that is read. told: what it says of itself. Use it in a `with`. Raises BadInput where it is none."""

    def __init__(self, path: Path) -> None:
        self._path = path
        try:
            self._archive = zipfile.ZipFile(path)
        except OSError as error:
            raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
        except zipfile.BadZipFile as error:
            raise BadInput(f"{path} is no backup, or was cut off while it was written.") from error
        self.told = self._read_told()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._archive.close()

    def pieces(self, table: str) -> Iterator[bytes]:
        """A table's rows, piece by piece. Raises BadInput where they are missing or damaged."""
        try:
            with self._archive.open(_member(table)) as member:
                while piece := member.read(_PIECE):
                    yield piece
        except (KeyError, OSError, EOFError, zlib.error, zipfile.BadZipFile) as error:
            raise BadInput(f'{self._path} is damaged: the rows of "{table}" cannot be read.') from error

    def _read_told(self) -> BackupTold:
        try:
            if self._archive.getinfo(_TOLD).file_size > _LARGEST_TOLD:
                raise BadInput(f"{self._path} is no backup: what it tells of itself is too long.")
            written = orjson.loads(self._archive.read(_TOLD))
        except (KeyError, OSError, EOFError, zlib.error, orjson.JSONDecodeError, zipfile.BadZipFile) as error:
            self._archive.close()
            raise BadInput(f"{self._path} is no backup, or is damaged: {_TOLD} cannot be read in it.") from error
        if isinstance(written, dict) and isinstance(made := written.get("format"), int) and made > FORMAT:
            raise BadInput(f"{self._path} was made by a newer version of Pale Harbor. Restore it with that one.")
        try:
            return BackupTold.model_validate(written)
        except ValidationError as error:
            place = ".".join(str(part) for part in error.errors()[0]["loc"])
            raise BadInput(f"{self._path} is damaged: {_TOLD} does not tell {place} as it should.") from error


def _member(table: str) -> str:
    return f"tables/{table}.copy"
