"""Where the kernels' machine code is kept: beside the program, at home where nothing may be written there, or not at
all where nothing may be written at home either: then every start compiles anew, in a folder of its own.
"""

import os
import time
from collections.abc import Iterable
from pathlib import Path
from shutil import rmtree
from tempfile import mkdtemp
from typing import Final

_BESIDE: Final = Path(__file__).parent / "__pycache__" / "kernels"
_AT_HOME: Final = Path("~/.cache/pale-harbor/kernels")
# So long code is kept that nobody used: another state of the program left it, which may come back.
_KEPT_SECONDS: Final = 7 * 24 * 3_600


def choose_folder() -> None:
    """Tells the compiler, which is not loaded yet, unless somebody chose a folder. Must come before any kernel."""
    if "NUMBA_CACHE_DIR" not in os.environ:
        # Never a folder that others may write to: what lies there is run.
        found = _writable(_BESIDE) or _writable(_AT_HOME) or mkdtemp(prefix="pale-harbor-kernels-")
        os.environ["NUMBA_CACHE_DIR"] = str(found)


def _writable(folder: Path) -> Path | None:
    try:
        # Whoever runs a service may have no home.
        made = folder.expanduser()
        made.mkdir(parents=True, exist_ok=True)
    except (OSError, RuntimeError):
        return None
    return made if os.access(made, os.W_OK) else None


def clear_unused(used: Iterable[str]) -> None:
    """Removes what no process has used for a week. used: the folders that this one uses."""
    for own in map(Path, used):
        if own.is_dir():
            os.utime(own)
            module, _ = own.name.rsplit("-", 1)
            for other in own.parent.glob(f"{module}-*"):
                if other != own and other.stat().st_mtime < time.time() - _KEPT_SECONDS:
                    rmtree(other, ignore_errors=True)
