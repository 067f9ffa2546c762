"""What arrays hold, by name."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

IntArray = NDArray[np.integer[Any]]
FloatArray = NDArray[np.float64]
# Of whatever precision.
Floats = NDArray[np.floating[Any]]
# Which of them.
Mask = NDArray[np.bool_]
