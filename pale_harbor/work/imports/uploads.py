"""Files that came in over HTTP and wait to be looked at and imported."""

import os
import re
import time
from collections.abc import AsyncIterable
from pathlib import Path
from typing import Final
from uuid import uuid4

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.records import Source

LARGEST_UPLOAD: Final = 8_000_000_000
_KEPT_SECONDS: Final = 7 * 24 * 3600
_ID: Final = re.compile("[0-9a-f]{32}")


class Uploads:
    """A folder of uploaded files, each under an id of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    async def keep(self, name: str, pieces: AsyncIterable[bytes]) -> str:
        """Writes a file as it comes in; returns its id. Raises BadInput where it is too large."""
        upload_id = uuid4().hex
        folder = self.folder / upload_id
        folder.mkdir(parents=True)
        path = folder / _file_name(name)
        size = 0
        unfinished = path.with_name(f"{path.name}.unfinished")
        with unfinished.open("wb") as file:
            async for piece in pieces:
                size += len(piece)
                if size > LARGEST_UPLOAD:
                    unfinished.unlink()
                    raise BadInput(
                        f"A file may hold {LARGEST_UPLOAD:,} bytes. Load a larger one with ./paleharbor load."
                    )
                file.write(piece)
            file.flush()
            os.fsync(file.fileno())
        unfinished.rename(path)
        return upload_id

    def source(self, upload_id: str) -> Source:
        """The uploaded file. Raises NotFound."""
        if _ID.fullmatch(upload_id) is not None:
            for path in (self.folder / upload_id).glob("*"):
                if not path.name.endswith(".unfinished"):
                    return Source(path)
        raise NotFound("This upload is no longer there. Drop the file again.")

    def tidy(self, needed: set[str]) -> None:
        """Removes uploads older than a week that no unfinished import reads."""
        for folder in self.folder.glob("*"):
            is_old = time.time() - folder.stat().st_mtime > _KEPT_SECONDS
            if is_old and not any(path.startswith(f"{folder}{os.sep}") for path in needed):
                for path in folder.iterdir():
                    path.unlink()
                folder.rmdir()


def _file_name(name: str) -> str:
    """The last part of a name that a browser gave, fit for a file system."""
    plain = re.sub(r"[\x00-\x1f/\\]", " ", name.replace("\\", "/").rsplit("/", 1)[-1]).strip(" .")
    return plain.encode("utf-8", "replace")[:200].decode("utf-8", "ignore") or "file"
