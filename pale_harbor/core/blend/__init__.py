"""Blend: one list from several, and which of them each row owes its place to."""

from pale_harbor.core.blend.fusion import (
    Blended,
    Listed,
    Normalisation,
    filled_up,
    reciprocal_rank_fusion,
    reordered,
    weighted_sum,
)

__all__ = [
    "Blended",
    "Listed",
    "Normalisation",
    "filled_up",
    "reciprocal_rank_fusion",
    "reordered",
    "weighted_sum",
]
