"""A prepared query with the terms that feedback adds to its readings."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Final

from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.found import found_of
from pale_harbor.core.ranking.plan import MOST_BITS, AtLeast, Demand, Each, Holds, One
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading, QueryTerm, TermKind

# The one bit that no word of a query has.
FED_BACK: Final = MOST_BITS


def with_feedback(
    slabs: Sequence[PreparedQuery], added: Mapping[int, Sequence[tuple[str, float]]], share: float, finds: bool
) -> list[PreparedQuery]:
    """The query with more terms, in every slab. slabs: with all that the query demands, without pools and sheets.

    added: by place among the readings the terms and their weights, which sum to 1; share: of the query that they are
    together; finds: whether holding one of them is enough for a record that meets the visitor's signs.
    """
    terms = {number: _terms(slabs, number, own, share, finds) for number, own in added.items() if own}
    if not terms:
        return list(slabs)
    return [
        replace(
            query,
            readings=tuple(
                replace(own, terms=(*own.terms, *terms[number][slab])) if number in terms else own
                for number, own in enumerate(query.readings)
            ),
            demand=_or_fed_back(query.demand) if finds and query.demand is not None else query.demand,
            words=query.words | 1 << FED_BACK if finds else query.words,
        )
        for slab, query in enumerate(slabs)
    ]


def _terms(
    slabs: Sequence[PreparedQuery], number: int, added: Sequence[tuple[str, float]], share: float, finds: bool
) -> list[list[QueryTerm]]:
    """By slab the terms of one reading."""
    typed = sum(term.times for term in slabs[0].readings[number].terms if term.kind is TermKind.TERM and term.worth)
    by_slab: list[list[QueryTerm]] = [[] for _ in slabs]
    for text, weight in added:
        found = [found_of(query.readings[number].index.postings(text)) for query in slabs]
        holding = holding_of(slabs, number, text)
        record_count = slabs[0].readings[number].statistics.record_count
        for own, one in zip(by_slab, found, strict=True):
            own.append(
                QueryTerm(
                    kind=TermKind.FEEDBACK,
                    text=text,
                    said=text,
                    times=1,
                    worth=weight * share / (1 - share) * typed,
                    bits=1 << FED_BACK if finds else 0,
                    holding=holding,
                    idf=inverse_document_frequency(record_count, holding),
                    found=one,
                )
            )
    return by_slab


def holding_of(slabs: Sequence[PreparedQuery], number: int, text: str) -> int:
    """How many living records hold a term in one of the readings."""
    count = 0
    for query in slabs:
        postings = query.readings[number].index.postings(text)
        if postings is not None:
            ids = postings.record_ids
            count += ids.size if query.alive is None else int(query.alive[ids].sum())
    return count


def can_be_fed(prepared: PreparedReading) -> bool:
    """Whether feedback adds terms to a reading: one whose terms are words that the query was typed with."""
    return (
        not prepared.literal
        and prepared.reading.share == 0
        and any(term.kind is TermKind.TERM and term.worth for term in prepared.terms)
    )


def _or_fed_back(demand: Demand) -> Demand:
    """The demand of words, met by terms of feedback too; what signs demand stays."""
    match demand:
        case AtLeast():
            return One((demand, Holds(FED_BACK)))
        case Each((AtLeast() as words, *signs)):
            return Each((One((words, Holds(FED_BACK))), *signs))
        case _:
            return demand
