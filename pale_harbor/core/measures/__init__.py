"""Measures: numbers computed from ranked lists and grades."""

from pale_harbor.core.measures.bands import Band, band
from pale_harbor.core.measures.judged_list import (
    HIGHEST_GRADE,
    UNJUDGED,
    JudgedList,
    TypedKeys,
    TypedLists,
    in_list_order,
    judged_list,
)
from pale_harbor.core.measures.measure import TELLS_OF_JUDGMENTS, Measure, UnknownMeasure, measure
from pale_harbor.core.measures.measured import Measured, measure_judged, measure_lists, value_of, weighted_mean
from pale_harbor.core.measures.rules import (
    USUAL_RULES,
    MeasureRules,
    Ties,
    Unjudged,
    WithoutRelevant,
    stretches,
    with_ties,
)

__all__ = [
    "HIGHEST_GRADE",
    "TELLS_OF_JUDGMENTS",
    "UNJUDGED",
    "USUAL_RULES",
    "Band",
    "JudgedList",
    "Measure",
    "MeasureRules",
    "Measured",
    "Ties",
    "TypedKeys",
    "TypedLists",
    "Unjudged",
    "UnknownMeasure",
    "WithoutRelevant",
    "band",
    "in_list_order",
    "judged_list",
    "measure",
    "measure_judged",
    "measure_lists",
    "stretches",
    "value_of",
    "weighted_mean",
    "with_ties",
]
