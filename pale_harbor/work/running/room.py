"""Room on the disk where the data is: seen when it runs out, and told in words."""

import errno
from pathlib import Path
from typing import Final

import psutil
import psycopg

NO_ROOM: Final = (
    "There is no room left on the disk where the data is: nothing more can be kept. What was kept before is all there. "
    "Make room, and do it again."
)
# With less than that a server says that it is not ready: the next import or index would fail.
LEAST_FREE_BYTES: Final = 50_000_000


def is_for_want_of_room(error: BaseException) -> bool:
    """Whether something went wrong because a disk, or what one may use of it, is full; the database's too.

    >>> is_for_want_of_room(OSError(errno.ENOSPC, "No space left on device"))
    True
    >>> is_for_want_of_room(OSError(errno.EACCES, "Permission denied"))
    False
    """
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return isinstance(error, psycopg.errors.DiskFull)


def no_room_told(error: BaseException) -> str:
    """What a command says of it, with the file that could not be written, if it is known.

    >>> no_room_told(OSError(errno.ENOSPC, "No space left on device", "/ships/log.csv"))
    'There is no room left on the disk, and /ships/log.csv could not be written. Make room, and do it again.'
    """
    if isinstance(error, OSError) and error.filename:
        return (
            f"There is no room left on the disk, and {error.filename} could not be written. Make room, and do it again."
        )
    return NO_ROOM


def free_bytes(folder: Path) -> int:
    """Bytes that are left on the disk of a folder, or of where it will be."""
    there = next(one for one in (folder, *folder.parents) if one.exists())
    return psutil.disk_usage(str(there)).free


def too_little_room(folder: Path) -> str | None:
    """What a server says where hardly any room is left for its data, None where there is some."""
    free = free_bytes(folder)
    if free >= LEAST_FREE_BYTES:
        return None
    return (
        f"Only {free // 1_000_000} MB are left on the disk where the data is: hardly anything more can be kept. Make "
        "room; what was kept before is all there."
    )
