"""What is wrong with a vector, asked at the door: nothing that cannot be compared is let in."""

from collections.abc import Sequence
from enum import IntEnum
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray


class Fault(IntEnum):
    """Why a record has no vector, or not all of them.

    NOTHING_TO_READ: none of the space's fields holds a text. NOT_MADE: nobody has made it yet.
    """

    NOTHING_TO_READ = 0
    NOT_MADE = 1
    WRONG_DIMENSION = 2
    NOT_FINITE = 3
    ZERO = 4
    NO_KNOWN_WORD = 5


SAID: Final = {
    Fault.NOTHING_TO_READ: "has no text in the fields of the space",
    Fault.NOT_MADE: "has no vector yet",
    Fault.WRONG_DIMENSION: "has a vector of another dimension",
    Fault.NOT_FINITE: "has a vector that holds something that is no number",
    Fault.ZERO: "has a vector of nothing but zeros, which points nowhere",
    Fault.NO_KNOWN_WORD: "has a text without any word that the space knows",
}


def faults_of(vectors: Sequence[Any], dimensions: int) -> list[Fault | None]:
    """What is wrong with each of some vectors, None where nothing is.

    >>> faults_of([[1.0, 0.0], [0.0, 0.0], [1.0], [float("nan"), 1.0]], 2)
    [None, <Fault.ZERO: 4>, <Fault.WRONG_DIMENSION: 2>, <Fault.NOT_FINITE: 3>]
    """
    return [_fault(vector, dimensions) for vector in vectors]


def _fault(vector: Any, dimensions: int) -> Fault | None:
    try:
        with np.errstate(over="ignore"):
            numbers: NDArray[np.float32] = np.asarray(vector, np.float32)
    except (TypeError, ValueError, OverflowError):
        return Fault.NOT_FINITE
    if numbers.shape != (dimensions,):
        return Fault.WRONG_DIMENSION
    if not np.isfinite(numbers).all():
        return Fault.NOT_FINITE
    return None if numbers.any() else Fault.ZERO
