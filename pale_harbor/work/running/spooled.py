"""What is made faster than it is taken: kept in a file meanwhile, so that a slow reader holds nothing but that.

An export reads the database; a reader on a slow line, or one that stalls, is not to hold a connection for it.
"""

import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Condition
from typing import Final

from pale_harbor.work.running.background import in_background

_PIECE: Final = 1 << 18


class _Spool:
    """How far a file is written, by one thread for another."""

    def __init__(self) -> None:
        self.changed = Condition()
        self.written = 0
        self.ended = self.left = False
        self.error: Exception | None = None

    def more(self, count: int) -> None:
        with self.changed:
            self.written += count
            self.changed.notify_all()

    def end(self, error: Exception | None) -> None:
        with self.changed:
            self.ended, self.error = True, error
            self.changed.notify_all()

    def waited(self, read: int) -> bool:
        """Waits for something that was not read yet; False where no more is to come. Raises what went wrong."""
        with self.changed:
            self.changed.wait_for(lambda: self.written > read or self.ended)
            if self.written > read:
                return True
            if self.error is not None:
                raise self.error
            return False


def spooled(pieces: Callable[[], Iterator[bytes]]) -> Iterator[bytes]:
    """The pieces in order, made in the background at their own pace.

    Raises what making them raises, after what was made before. Whoever stops reading ends the making.
    """
    spool = _Spool()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "spool"
        path.touch()

        def write() -> None:
            error: Exception | None = None
            try:
                with path.open("wb", buffering=0) as file:
                    for piece in pieces():
                        if spool.left:
                            break
                        file.write(piece)
                        spool.more(len(piece))
            except Exception as wrong:  # whoever reads is told
                error = wrong
            spool.end(error)

        read = 0
        try:
            with path.open("rb") as file:
                in_background("spooled", write)
                while spool.waited(read):
                    piece = file.read(_PIECE)
                    read += len(piece)
                    yield piece
        finally:
            spool.left = True
