"""Judging: what judges are shown, how far they agree, which grade counts, and what is expected without grades."""

from pale_harbor.core.judging.agreement import agreement, drifts, krippendorff_alpha, weighted_kappa, widest_gap
from pale_harbor.core.judging.expectations import (
    Expectation,
    ExpectationKind,
    Unexpectable,
    expectation,
    instead_of,
)
from pale_harbor.core.judging.pooling import PoolItem, draw_pool, shared_out
from pale_harbor.core.judging.settling import GivenGrade, Settling, settled_grade

__all__ = [
    "Expectation",
    "ExpectationKind",
    "GivenGrade",
    "PoolItem",
    "Settling",
    "Unexpectable",
    "agreement",
    "draw_pool",
    "drifts",
    "expectation",
    "instead_of",
    "krippendorff_alpha",
    "settled_grade",
    "shared_out",
    "weighted_kappa",
    "widest_gap",
]
