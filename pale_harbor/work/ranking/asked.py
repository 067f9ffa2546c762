"""A question made ready to be answered, and the records that match its words."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from pale_harbor.core.arrays import Mask
from pale_harbor.core.fields import Filter, passing_records
from pale_harbor.core.query import ParsedQuery
from pale_harbor.core.ranking import (
    Adjustments,
    FieldOrder,
    Placed,
    PreparedQuery,
    QueryPlan,
    Ranker,
    RuledQuery,
    Scored,
    adjust,
    matching_records,
)
from pale_harbor.errors import BadInput
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.corrected import DidYouMean
from pale_harbor.work.ranking.meaning import Meaning


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked: the visitor's words, and what they narrowed the list to.

    language: of the words, guessed where it is None. sort: by fields instead of by score. is_typed: whether the words
    are being typed, so that of the last one only the beginning may be there. as_said: whether no correction is taken.
    """

    text: str
    filters: tuple[Filter, ...] = ()
    language: str | None = None
    sort: tuple[FieldOrder, ...] = ()
    is_typed: bool = False
    as_said: bool = False


@dataclass(frozen=True, slots=True)
class FedTerm:
    """A term that feedback added to a reading of a field. weight: its part of all that it added there."""

    field: str
    term: str
    weight: float


@dataclass(frozen=True, slots=True)
class FedBack:
    """What a query's own first records added to it. records: their keys, best first."""

    records: tuple[str, ...]
    terms: tuple[FedTerm, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A question made ready: by slab its prepared query, adjustments, and which records rules hide.

    fed_back: what feedback added to the prepared query; None where the ranker has none. corrected: what the query may
    have meant where that is asked instead.
    """

    question: Question
    ranker: Ranker
    ruled: RuledQuery
    parsed: ParsedQuery
    plan: QueryPlan
    prepared: list[PreparedQuery]
    adjustments: list[Adjustments]
    pinned: list[Placed]
    hidden: frozenset[tuple[int, int]]
    meaning: Meaning | None = None
    fed_back: FedBack | None = None
    corrected: DidYouMean | None = None

    @property
    def notes(self) -> tuple[str, ...]:
        """What of the question could not be taken as it was meant."""
        slow = (f"Rule {number + 1} took too long and was passed over." for number in self.ruled.slow)
        return (*self.plan.notes, *slow, *(self.meaning.notes if self.meaning is not None else ()))

    @property
    def filters(self) -> tuple[Filter, ...]:
        """Everything that narrows the list: the ranker's filters, those of rules, the visitor's."""
        return (*self.ranker.filters, *self.ruled.filters, *self.question.filters)


def score_records(opened: OpenCollection, asked: Asked) -> list[Scored]:
    """By slab, every record that matches the words, with its score, before filters.

    Raises BadInput where signals and lifts make scores of no size.
    """
    found: list[Scored] = []
    for slab, (live, query) in enumerate(zip(opened.slabs, asked.prepared, strict=True)):
        with live.slab.workspace() as workspace:
            plain = matching_records(query, workspace)
        with np.errstate(over="ignore", invalid="ignore"):
            own = adjust(plain, asked.adjustments[slab])
        if not np.isfinite(own.scores).all():
            raise BadInput("Scores become too large to be numbers. Give signals less weight, or rules a smaller lift.")
        hidden = [record_id for of_slab, record_id in asked.hidden if of_slab == slab]
        found.append(own.where(~np.isin(own.record_ids, hidden)) if hidden else own)
    return found


def allowed_records(opened: OpenCollection, slab: int, filters: Sequence[Filter]) -> Mask | None:
    """Which records of a slab pass every filter; None where there is none."""
    mask: Mask | None = None
    for one in filters:
        own = passing_records(one, opened.column(slab, one.field))
        mask = own if mask is None else mask & own
    return mask


def filter_records(opened: OpenCollection, found: Sequence[Scored], filters: Sequence[Filter]) -> list[Scored]:
    """The records that pass every filter."""
    if not filters:
        return list(found)
    masks = [allowed_records(opened, slab, filters) for slab in range(len(found))]
    return [own if mask is None else own.where(mask[own.record_ids]) for own, mask in zip(found, masks, strict=True)]
