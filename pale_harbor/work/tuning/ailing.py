"""The queries that a ranker serves worst, each with what ails it and the good records that are missed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.measures.judged_list import RELEVANT_FROM
from pale_harbor.core.ranking import Placed, Ranker, TermKind, shares
from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.tuning.ailments import Ailment, Ails, MissedGood, ailment_of, outranking_part, why_missed
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_to_measure
from pale_harbor.work.ranking.asked import Asked
from pale_harbor.work.ranking.asking import Answer, candidates, first_rows
from pale_harbor.work.ranking.searching import WhyRecord, rank_of, source_scores, sources_of, why_in
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.spaces.open_space import OpenSpace

# Queries that come out below this are looked into, the worst so many of them.
WELL_SERVED: Final = 0.9
MOST_AILING: Final = 100
# Good records of a query that are explained, the best ones.
MOST_EXPLAINED: Final = 8
# A good record is to be among so many first ones.
DEPTH: Final = 10


@dataclass(frozen=True, slots=True, eq=False)
class MissedWhy:
    """A good record that is missed. ails: why; rank: None where it is in no list; why: its arithmetic."""

    key: str
    grade: int
    rank: int | None
    ailment: Ailment
    why: WhyRecord

    @property
    def lacked(self) -> list[str]:
        """The words of the query that it lacks."""
        return [word.word for word in self.why.why.words if word.counted and not word.held]


@dataclass(frozen=True, slots=True, eq=False)
class AilingQuery:
    """A query with its value by the measure, and what ails it. missed: the best grades first."""

    query: SetQuery
    value: float
    ailment: Ailment
    missed: list[MissedWhy]


def ailing_queries(
    opened: OpenCollection, ranker: Ranker, judged: Judged, values: Mapping[str, float], *, is_complete: bool = False
) -> list[AilingQuery]:
    """The worst served open queries, the worst first; of equals by id. Those without good records are left out.

    values: by query, of the measure; is_complete: whether an unjudged record is known not to be good.
    """
    queries = {query.query_id: query for query in judged.queries}
    low = sorted((value, query_id) for query_id, value in values.items() if value < WELL_SERVED)
    spaces = ask_spaces_ahead(opened, ranker, judged.queries)
    found: list[AilingQuery] = []
    for value, query_id in low:
        check_wanted()
        one = _ailing(opened, ranker, queries[query_id], judged.grades.get(query_id, {}), value, spaces, is_complete)
        if one is not None:
            found.append(one)
        if len(found) == MOST_AILING:
            break
    return found


def _ailing(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    grades: Mapping[str, int],
    value: float,
    spaces: Mapping[str, OpenSpace] | None,
    is_complete: bool,
) -> AilingQuery | None:
    good = sorted((key for key in grades if grades[key] >= RELEVANT_FROM), key=lambda key: (-grades[key], key))
    if not good:
        return None
    asked = asked_to_measure(opened, ranker, query, spaces)
    listed = candidates(opened, asked, asked.filters)
    answer = first_rows(opened, asked, listed, DEPTH)
    first = opened.keys_of(answer.rows)
    worse = [place for place, key in enumerate(first) if grades.get(key, 0) < RELEVANT_FROM]
    places = {key: placed for key in good if (placed := opened.find(key)) is not None}
    ranks = {key: rank_of(opened, asked, placed, listed) for key, placed in places.items()}
    missed = [key for key in places if key not in first]
    if not missed:
        # All are there, but below worse ones.
        missed = [key for key in places if worse and first.index(key) > worse[0]]
    told: list[MissedWhy] = []
    for key in missed[:MOST_EXPLAINED]:
        why = why_in(opened, asked, listed, places[key])
        ails = _why_missed(asked, why)
        part = ""
        if ails is Ails.OUTRANKED and worse:
            part = _outranked_by(asked, answer, answer.rows[worse[0]], why)
        told.append(MissedWhy(key, grades[key], ranks[key], Ailment(ails, part), why))
    unjudged = 0 if is_complete else sum(key not in grades for key in first)
    ailment = ailment_of([MissedGood(one.ailment, one.grade) for one in told], unjudged, len(first))
    return None if ailment is None else AilingQuery(query, value, ailment, told)


def _why_missed(asked: Asked, why: WhyRecord) -> Ails:
    words = [word for word in why.why.words if word.counted]
    known = _known_words(asked)
    return why_missed(
        is_listed=why.rank is not None,
        is_shut_out=why.hidden or bool(why.failed_filters),
        counted=len(words),
        held=sum(word.held for word in words),
        unknown=sum(not word.held and word.word not in known for word in words),
    )


def _known_words(asked: Asked) -> set[str]:
    """The words of the query that some record holds as they were typed, in any reading."""
    bits = 0
    for reading in asked.prepared[0].readings if asked.prepared else ():
        for term in reading.terms:
            if term.holding and term.kind not in (TermKind.SPELLING, TermKind.SIMILAR, TermKind.FEEDBACK):
                bits |= term.bits
    return {
        leaf.text[start:end]
        for leaf in asked.plan.leaves
        if isinstance(leaf, WordRun)
        for start, end, bit in leaf.words
        if bit >= 0 and bits >> bit & 1
    }


def _outranked_by(asked: Asked, answer: Answer, above: Placed, why: WhyRecord) -> str:
    """The name of the part by which a worse record stands above a good one."""
    sources = sources_of(asked, answer.blended)
    good = Placed(why.placed.slab, why.placed.record_id, why.why.score)
    names = [_said(one.kind, one.name) for one in sources]
    return outranking_part(_amounts(asked, answer, above), _amounts(asked, answer, good), names)


def _said(kind: str, name: str) -> str:
    return name if kind in ("reading", "words", "formula") else f"{kind} {name}"


def _amounts(asked: Asked, answer: Answer, row: Placed) -> Sequence[float]:
    parts: list[float] = []
    if answer.blended is None:
        parts = shares(asked.prepared[row.slab], np.array([row.record_id], np.int32))[0].tolist()
    return source_scores(asked, row, answer.blended, parts)
