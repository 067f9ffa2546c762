"""Arrays in files of NumPy's own format, mapped into memory without a file descriptor for each.

A mapping of the standard library keeps its file open as long as it is there: a few dozen for each slab of each
collection, and a process may have a thousand. The system needs none of them once a file is mapped (POSIX, mmap).
"""

import ctypes
import mmap
import os
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

_LIBC: Final = ctypes.CDLL(None, use_errno=True)
_LIBC.mmap.restype = ctypes.c_void_p
_LIBC.mmap.argtypes = [
    *(ctypes.c_void_p, ctypes.c_size_t, ctypes.c_int, ctypes.c_int, ctypes.c_int, ctypes.c_long),
]
_LIBC.munmap.argtypes = [ctypes.c_void_p, ctypes.c_size_t]
_FAILED: Final = ctypes.c_void_p(-1).value


class _Mapping:
    """A file in memory, read-only, as long as an array looks at it."""

    def __init__(self, path: Path) -> None:
        with path.open("rb") as file:
            version = np.lib.format.read_magic(file)
            read = np.lib.format.read_array_header_1_0 if version == (1, 0) else np.lib.format.read_array_header_2_0
            self.shape, fortran, self.dtype = read(file)
            start, self._size = file.tell(), os.fstat(file.fileno()).st_size
            needed = int(np.prod(self.shape, dtype=np.int64)) * self.dtype.itemsize
            if fortran or self.dtype.hasobject or self.dtype.fields is not None or not needed:
                raise ValueError(f"{path} cannot be mapped.")
            if self._size < start + needed:
                raise ValueError(f"{path} is shorter than it says.")
            self._address = _LIBC.mmap(None, self._size, mmap.PROT_READ, mmap.MAP_SHARED, file.fileno(), 0)
        if self._address == _FAILED:
            self._address = None
            number = ctypes.get_errno()
            raise OSError(number, os.strerror(number), str(path))
        self._start = start

    @property
    def __array_interface__(self) -> dict[str, Any]:
        assert self._address is not None
        return {
            "data": (self._address + self._start, True),
            "shape": self.shape,
            "typestr": self.dtype.str,
            "version": 3,
        }

    def __del__(self, _munmap: Any = _LIBC.munmap) -> None:
        if getattr(self, "_address", None) is not None:
            _munmap(self._address, self._size)


def mapped_array(path: Path) -> NDArray[Any]:
    """The array of a `.npy` file, read-only; mapped where it can be, else read.

    Raises OSError, and ValueError for what is no such file.
    """
    try:
        return np.asarray(_Mapping(path))
    except ValueError:
        # An array of no elements cannot be mapped; a damaged file is refused here as well.
        array = np.load(path, allow_pickle=False)
        array.setflags(write=False)
        return np.asarray(array)
