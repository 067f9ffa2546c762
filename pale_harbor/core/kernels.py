"""Kernels: functions over arrays that are compiled for tight loops, with the types that they are written with.

Machine code is kept on disk, in a folder for each module of kernels. The folder is named by all that its code was made
of: the module's text, the numbers that it knows by name, the modules whose kernels it calls, and the compiler. The
compiler's own look at the module's file alone would keep code in which another file's old formula lives on.
"""

import hashlib
import inspect
import sys
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar, cast

import numba
import numpy as np
from numba import njit
from numba.core import config
from numba.core.dispatcher import Dispatcher

P = ParamSpec("P")
R = TypeVar("R")

_base = str(config.CACHE_DIR)  # pyright: ignore[reportAttributeAccessIssue]
# By module: which state of it this is.
_states: dict[str, str] = {}


def kernel(function: Callable[P, R]) -> Callable[P, R]:
    """Compiled when it is first called with types that it has not met, and kept on disk. Other threads run beside it.

    Within it numba goes by what it is called with: `IntArray` may be of any width there.
    """
    return _compiled(function)


def inlined(function: Callable[P, R]) -> Callable[P, R]:
    """A kernel that becomes part of the kernels that call it."""
    return _compiled(function, inline="always")


def code_folders() -> list[str]:
    """The folders of the machine code that this process uses, as far as their modules are loaded."""
    return [_folder_of(module) for module in _states]


def _compiled(function: Callable[P, R], **more: Any) -> Callable[P, R]:
    config.CACHE_DIR = _folder_of(function.__module__)  # pyright: ignore[reportAttributeAccessIssue]
    return cast("Callable[P, R]", njit(cache=True, nogil=True, **more)(function))


def _folder_of(module: str) -> str:
    return f"{_base}/{module}-{_state_of(module)}"


def _state_of(module: str) -> str:
    """What the machine code of a module's kernels is made of, in sixteen letters."""
    if module not in _states:
        known = sys.modules[module]
        parts = [numba.__version__, np.__version__, sys.version, inspect.getsource(known)]
        for name, value in sorted(vars(known).items()):
            # Its imports stand above the module's first kernel: whatever comes from elsewhere is there by now.
            if isinstance(value, Dispatcher):
                other = str(value.py_func.__module__)
                parts.append(_state_of(other) if other != module else "")
            elif isinstance(value, int | float | str | tuple) and not name.startswith("__"):
                parts.append(f"{name}={value!r}")
            elif isinstance(value, np.ndarray):
                parts.append(f"{name}={value.dtype}{value.tobytes()!r}")
        _states[module] = hashlib.sha256("\0".join(parts).encode("utf-8", "surrogatepass")).hexdigest()[:16]
    return _states[module]
