"""Ranking: BM25 over readings, ranked lists, score columns, and why."""

from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.columns import candidates, score_columns, weighted_sum
from pale_harbor.core.ranking.equals import FieldValue, order_of_equals, place_of_value
from pale_harbor.core.ranking.joined import JoinedList, Placed, joined
from pale_harbor.core.ranking.prepared import (
    Alive,
    PreparedQuery,
    ReadingStatistics,
    prepare,
    prepare_slabs,
    statistics_of,
)
from pale_harbor.core.ranking.ranker import FieldOrder, Ranker, Reading
from pale_harbor.core.ranking.search import RankedList, Workspace, search
from pale_harbor.core.ranking.why import ReadingPart, TermPart, Why, why

__all__ = [
    "Alive",
    "FieldOrder",
    "FieldValue",
    "JoinedList",
    "Placed",
    "PreparedQuery",
    "RankedList",
    "Ranker",
    "Reading",
    "ReadingPart",
    "ReadingStatistics",
    "TermPart",
    "Why",
    "Workspace",
    "candidates",
    "inverse_document_frequency",
    "joined",
    "order_of_equals",
    "place_of_value",
    "prepare",
    "prepare_slabs",
    "score_columns",
    "search",
    "statistics_of",
    "weighted_sum",
    "why",
]
