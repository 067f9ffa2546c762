"""How many files the server may have open at once: as many as the system lets it."""

import resource
from typing import Final

# More than that only makes some programs slow that close all they might have open.
ENOUGH: Final = 65_536


def allow_open_files() -> int:
    """Raises this process's own limit as far as it may by itself; returns what holds now."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = ENOUGH if hard == resource.RLIM_INFINITY else min(ENOUGH, hard)
    if soft != resource.RLIM_INFINITY and soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
        return wanted
    return soft
