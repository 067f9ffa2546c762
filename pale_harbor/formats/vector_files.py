"""Vectors as files: a `.npy` array of one vector a row, and a text file that names the rows, one name a line."""

from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.errors import BadInput

LONGEST_NAME: Final = 10_000


def read_vectors(path: Path, shown: str) -> NDArray[Any]:
    """The array of a `.npy` file, mapped: (rows, dimensions) of some kind of number. Raises BadInput."""
    try:
        array: Any = np.load(path, mmap_mode="r", allow_pickle=False)
    except (ValueError, OSError, EOFError) as error:
        raise BadInput(f"{shown} is no .npy file that can be read: {error}.") from error
    if not isinstance(array, np.ndarray) or array.ndim != 2 or array.dtype.kind not in "fiu":
        raise BadInput(f"{shown} must hold numbers in rows and columns, one vector a row.")
    return array


def read_names(path: Path, shown: str, rows: int) -> list[str]:
    """The names of so many rows, one a line. Raises BadInput where there are more or fewer."""
    try:
        text = path.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"{shown} cannot be read as UTF-8 text: {error}.") from error
    names = [line.rstrip("\r") for line in text.split("\n")]
    if names and not names[-1]:
        names.pop()
    if len(names) != rows:
        raise BadInput(f"{shown} names {len(names):,} rows, but there are {rows:,} vectors. One name a line.")
    too_long = next((i for i, name in enumerate(names, start=1) if len(name) > LONGEST_NAME), None)
    if too_long is not None:
        raise BadInput(f"{shown}, line {too_long}: a name has {LONGEST_NAME:,} characters at most.")
    return names
