"""A map of a space: vectors laid on the two directions in which they differ most.

Source: principal components, K. Pearson, "On lines and planes of closest fit to systems of points in space", 1901.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, eq=False)
class Plane:
    """middle: float64 (dimensions,); axes: float64 (2, dimensions), at right angles, of length 1.

    kept: how much of all difference the two directions show, from 0 to 1.
    """

    middle: FloatArray
    axes: FloatArray
    kept: float

    def place(self, vectors: NDArray[np.floating]) -> FloatArray:
        """Where vectors lie on the map: float64 (vectors, 2)."""
        return (vectors.astype(np.float64) - self.middle) @ self.axes.T


def plane_of(vectors: NDArray[np.floating]) -> Plane:
    """The plane of these vectors, (vectors, dimensions), the same at every run: its directions' signs are settled."""
    own = vectors.astype(np.float64)
    dimensions = own.shape[1]
    middle = own.mean(axis=0) if own.shape[0] else np.zeros(dimensions)
    apart = own - middle
    values, directions = np.linalg.eigh(apart.T @ apart)
    axes = np.zeros((2, dimensions))
    strongest = np.argsort(-values, kind="stable")[:2]
    axes[: strongest.size] = directions[:, strongest].T
    for number in range(2):
        if axes[number, np.abs(axes[number]).argmax()] < 0:
            axes[number] *= -1
    total = float(values.clip(min=0).sum())
    return Plane(middle, axes, float(values[strongest].clip(min=0).sum()) / total if total > 0 else 0.0)
