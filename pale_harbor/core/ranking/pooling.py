"""Pooled readings: a term's occurrences in all fields count as if they stood in one.

    pooled = Σ over readings: weight · worth · frequency / (1 − b + b · length / average)
    part   = idf · times · pooled · (k1 + 1) / (pooled + k1)

Terms are one where they are the same letters and came about in the same way. idf counts the records that
hold the term in any reading.

Source: S. Robertson, H. Zaragoza and M. Taylor, "Simple BM25 extension to multiple weighted fields", 2004.
"""

from collections.abc import Sequence

import numpy as np

from pale_harbor.core.arrays import distinct
from pale_harbor.core.ranking.bm25 import inverse_document_frequency
from pale_harbor.core.ranking.prepared import PooledPart, PooledTerm, PreparedQuery, TermKind


def pool_terms(slabs: Sequence[PreparedQuery]) -> list[tuple[PooledTerm, ...]]:
    """The pooled terms of every slab of one query, in the order in which readings and query say them first."""
    # Terms that stand in for another are one, however they were found.
    alike = {TermKind.SIMILAR: TermKind.SPELLING}
    names: dict[tuple[TermKind, str], None] = {}
    by_slab: list[dict[tuple[TermKind, str], list[PooledPart]]] = []
    for query in slabs:
        own: dict[tuple[TermKind, str], list[PooledPart]] = {}
        for prepared in query.readings:
            for term in prepared.terms:
                name = (alike.get(term.kind, term.kind) if term.worth else TermKind.ENOUGH, term.text)
                own.setdefault(name, []).append(PooledPart(prepared, term))
                names[name] = None
        by_slab.append(own)
    pools: list[list[PooledTerm]] = [[] for _ in slabs]
    for name in names:
        holding = sum(_count_holding(query, own[name]) for query, own in zip(slabs, by_slab, strict=True))
        count = max(part.prepared.statistics.record_count for part in by_slab[0][name])
        for own, pool in zip(by_slab, pools, strict=True):
            parts = own[name]
            times = max(part.term.times for part in parts)
            # Words near each other are weighed by the words themselves, not by how rare their meeting is; what stands
            # in for a word by no more than the word.
            idf = (
                min(part.term.idf for part in parts)
                if name[0] in (TermKind.NEAR, TermKind.SPELLING, TermKind.SYNONYM)
                else inverse_document_frequency(count, holding)
            )
            kind, text = name
            pool.append(PooledTerm(kind=kind, text=text, times=times, holding=holding, idf=idf, parts=tuple(parts)))
    return [tuple(pool) for pool in pools]


def _count_holding(query: PreparedQuery, parts: Sequence[PooledPart]) -> int:
    found = [part.term.found.record_ids for part in parts if part.term.found is not None]
    if not found:
        return 0
    record_ids = found[0] if len(found) == 1 else distinct(np.concatenate(found))
    return record_ids.size if query.alive is None else int(np.count_nonzero(query.alive[record_ids]))
