"""Ranking: BM25 over readings, ranked lists, score columns, and why."""

from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.columns import candidates, score_columns, weighted_sum
from pale_harbor.core.ranking.equals import FieldValue, order_of_equals
from pale_harbor.core.ranking.prepared import PreparedQuery, prepare
from pale_harbor.core.ranking.ranker import FieldOrder, Ranker, Reading
from pale_harbor.core.ranking.search import RankedList, Workspace, search
from pale_harbor.core.ranking.why import ReadingPart, TermPart, Why, why

__all__ = [
    "FieldOrder",
    "FieldValue",
    "PreparedQuery",
    "RankedList",
    "Ranker",
    "Reading",
    "ReadingPart",
    "TermPart",
    "Why",
    "Workspace",
    "candidates",
    "inverse_document_frequency",
    "order_of_equals",
    "prepare",
    "score_columns",
    "search",
    "weighted_sum",
    "why",
]
