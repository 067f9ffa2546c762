"""Kernels: functions over arrays that are compiled for tight loops, with the types that they are written with."""

from collections.abc import Callable
from typing import ParamSpec, TypeVar, cast

from numba import njit

P = ParamSpec("P")
R = TypeVar("R")


def kernel(function: Callable[P, R]) -> Callable[P, R]:
    """Compiled when it is first called with types that it has not met, and kept on disk. Other threads run beside it.

    Within it numba goes by what it is called with: `IntArray` may be of any width there.
    """
    return cast("Callable[P, R]", njit(cache=True, nogil=True)(function))


def inlined(function: Callable[P, R]) -> Callable[P, R]:
    """A kernel that becomes part of the kernels that call it."""
    return cast("Callable[P, R]", njit(cache=True, nogil=True, inline="always")(function))
