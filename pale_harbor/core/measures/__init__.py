"""Measures: numbers computed from ranked lists and grades."""

from pale_harbor.core.measures.judged_list import JudgedList, in_list_order, judged_list
from pale_harbor.core.measures.measure import Measure, UnknownMeasure, measure
from pale_harbor.core.measures.measured import Measured, measured

__all__ = [
    "JudgedList",
    "Measure",
    "Measured",
    "UnknownMeasure",
    "in_list_order",
    "judged_list",
    "measure",
    "measured",
]
