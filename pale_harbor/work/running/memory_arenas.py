"""How many stores of free memory the C library keeps for a program's threads."""

import ctypes
from contextlib import suppress
from typing import Final

# Threads of one interpreter take turns anyway, and hardly ever want memory in the same moment.
FEW: Final = 2
# As malloc.h of glibc names it.
_ARENA_MAX: Final = -8


def keep_few_arenas(count: int = FEW) -> bool:
    """Has all threads that begin from now on share so many stores; False where this C library has no such setting.

    By itself glibc gives nearly every thread its own, up to eight for each processor: what one of them let go of,
    no other one takes, and it stays with the program (mallopt(3), M_ARENA_MAX).
    """
    with suppress(OSError, AttributeError):
        return bool(ctypes.CDLL(None).mallopt(_ARENA_MAX, count))
    return False
