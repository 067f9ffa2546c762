"""Files that appear whole or not at all."""

import os
from collections.abc import Generator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Final

from pale_harbor.errors import BadInput

USUAL: Final = 0o666
# Only its owner can read it.
PRIVATE: Final = 0o600


@contextmanager
def written_whole(path: Path, mode: int = USUAL) -> Generator[IO[bytes]]:
    """Where a file's content goes; it takes its name when the `with` ends well. mode: as for `open(2)`.

    Raises BadInput where it cannot be written.
    """
    unfinished = path.with_name(f"{path.name}.unfinished")
    try:
        with os.fdopen(os.open(unfinished, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        unfinished.replace(path)
    except OSError as error:
        raise BadInput(f"{path} cannot be written: {error.strerror}.") from error
    finally:
        unfinished.unlink(missing_ok=True)
