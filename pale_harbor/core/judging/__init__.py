"""Judging: what judges are shown, how far they agree, and which grade counts."""

from pale_harbor.core.judging.agreement import agreement, drift, krippendorff_alpha, weighted_kappa, widest_gap
from pale_harbor.core.judging.pooling import PoolItem, pooled, shared_out
from pale_harbor.core.judging.settling import GivenGrade, Settling, settled

__all__ = [
    "GivenGrade",
    "PoolItem",
    "Settling",
    "agreement",
    "drift",
    "krippendorff_alpha",
    "pooled",
    "settled",
    "shared_out",
    "weighted_kappa",
    "widest_gap",
]
