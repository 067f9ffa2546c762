"""Ranking: from a plan and postings to ranked lists, score columns, and why."""

from pale_harbor.core.ranking.as_typed import Typing, TypingWhen
from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.columns import score_columns, shares
from pale_harbor.core.ranking.equals import FieldValue, order_of_equals, place_of_value
from pale_harbor.core.ranking.joined import JoinedList, Placed, join
from pale_harbor.core.ranking.looked_up import LookedUp, lookup_name
from pale_harbor.core.ranking.plan import LookedFor, QueryPlan, looked_for, plan_of
from pale_harbor.core.ranking.prepared import (
    Alive,
    PreparedQuery,
    ReadingStatistics,
    TermKind,
    statistics_of,
)
from pale_harbor.core.ranking.preparing import SlabView, look_up, prepare, prepare_slabs
from pale_harbor.core.ranking.ranker import (
    ANY,
    Combine,
    CombineHow,
    FieldOrder,
    Nearness,
    Need,
    Ranker,
    Reading,
    SlackWhen,
    Spelling,
)
from pale_harbor.core.ranking.rules import RuledQuery, apply_rules, in_force
from pale_harbor.core.ranking.search import (
    Adjustments,
    RankedList,
    Scored,
    Workspace,
    adjust,
    best,
    matching_records,
    permitted_records,
    search,
)
from pale_harbor.core.ranking.signals import Shape, Signal, SignalBasis, SignalHow, basis_of, signal_values
from pale_harbor.core.ranking.why import ReadingPart, TermPart, Why, why

__all__ = [
    "ANY",
    "Adjustments",
    "Alive",
    "Combine",
    "CombineHow",
    "FieldOrder",
    "FieldValue",
    "JoinedList",
    "LookedFor",
    "LookedUp",
    "Nearness",
    "Need",
    "Placed",
    "PreparedQuery",
    "QueryPlan",
    "RankedList",
    "Ranker",
    "Reading",
    "ReadingPart",
    "ReadingStatistics",
    "RuledQuery",
    "Scored",
    "Shape",
    "Signal",
    "SignalBasis",
    "SignalHow",
    "SlabView",
    "SlackWhen",
    "Spelling",
    "TermKind",
    "TermPart",
    "Typing",
    "TypingWhen",
    "Why",
    "Workspace",
    "adjust",
    "apply_rules",
    "basis_of",
    "best",
    "in_force",
    "inverse_document_frequency",
    "join",
    "look_up",
    "looked_for",
    "lookup_name",
    "matching_records",
    "order_of_equals",
    "permitted_records",
    "place_of_value",
    "plan_of",
    "prepare",
    "prepare_slabs",
    "score_columns",
    "search",
    "shares",
    "signal_values",
    "statistics_of",
    "why",
]
