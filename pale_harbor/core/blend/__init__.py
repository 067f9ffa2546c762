"""Blend: one list from several, and which of them each row owes its place to."""

from pale_harbor.core.blend.blending import blended
from pale_harbor.core.blend.formula import Formula, FormulaError, WorkedStep, formula_of, shown_name
from pale_harbor.core.blend.fusion import (
    Blended,
    Listed,
    Normalisation,
    filled_up,
    normalised,
    reciprocal_rank_fusion,
    reordered,
    weighted_sum,
)
from pale_harbor.core.blend.recipe import Blend, BlendHow, Queries, QueryKind, SecondStage, SpaceUse, kind_of
from pale_harbor.core.blend.second_stage import Restaged, restaged

__all__ = [
    "Blend",
    "BlendHow",
    "Blended",
    "Formula",
    "FormulaError",
    "Listed",
    "Normalisation",
    "Queries",
    "QueryKind",
    "Restaged",
    "SecondStage",
    "SpaceUse",
    "WorkedStep",
    "blended",
    "filled_up",
    "formula_of",
    "kind_of",
    "normalised",
    "reciprocal_rank_fusion",
    "reordered",
    "restaged",
    "shown_name",
    "weighted_sum",
]
