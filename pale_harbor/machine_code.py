"""Where the kernels' machine code is kept: beside the program, or at home where nothing may be written there."""

import os
import time
from collections.abc import Iterable
from pathlib import Path
from shutil import rmtree
from typing import Final

_BESIDE: Final = Path(__file__).parent / "__pycache__" / "kernels"
_AT_HOME: Final = Path.home() / ".cache" / "pale-harbor" / "kernels"
# So long code is kept that nobody used: another state of the program left it, which may come back.
_KEPT_SECONDS: Final = 7 * 24 * 3_600


def choose_folder() -> None:
    """Tells the compiler, which is not loaded yet, unless somebody chose a folder. Must come before any kernel."""
    for folder in (_BESIDE, _AT_HOME):
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(folder, os.W_OK):
            os.environ.setdefault("NUMBA_CACHE_DIR", str(folder))
            return


def clear_unused(used: Iterable[str]) -> None:
    """Removes what no process has used for a week. used: the folders that this one uses."""
    for own in map(Path, used):
        if own.is_dir():
            os.utime(own)
            module, _ = own.name.rsplit("-", 1)
            for other in own.parent.glob(f"{module}-*"):
                if other != own and other.stat().st_mtime < time.time() - _KEPT_SECONDS:
                    rmtree(other, ignore_errors=True)
