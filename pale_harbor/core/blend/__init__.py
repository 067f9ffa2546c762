"""Blend: one list from several, and which of them each row owes its place to."""

from pale_harbor.core.blend.blending import blend_lists
from pale_harbor.core.blend.formula import Formula, FormulaError, WorkedStep, formula_of, shown_name
from pale_harbor.core.blend.fusion import (
    Blended,
    Listed,
    Normalisation,
    comparable_scores,
    filled_up,
    reciprocal_rank_fusion,
    reorder,
    weighted_sum,
)
from pale_harbor.core.blend.recipe import Blend, BlendHow, Queries, QueryKind, SecondStage, SpaceUse, kind_of
from pale_harbor.core.blend.second_stage import Restaged, second_stage_order

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
    "blend_lists",
    "comparable_scores",
    "filled_up",
    "formula_of",
    "kind_of",
    "reciprocal_rank_fusion",
    "reorder",
    "second_stage_order",
    "shown_name",
    "weighted_sum",
]
