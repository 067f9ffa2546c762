"""What a ranker misses: judged-good records that it does not find, or finds too far down, each with its reason."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from math import inf
from typing import Final

from pale_harbor.core.measures.judged_list import RELEVANT_FROM
from pale_harbor.core.ranking import Placed, Ranker
from pale_harbor.errors import NotFound
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, Part, judged_in
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_to_measure
from pale_harbor.work.measuring.measuring import Looked, note_looking
from pale_harbor.work.ranking.asking import candidates
from pale_harbor.work.ranking.searching import WhyRecord, rank_of, why_in
from pale_harbor.work.ranking.why_not import shut_out_by
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.workbench import RankerChoice, Workbench

# Reasons that are told of a whole set, shared out alike among its queries, and of each at least; more are counted.
MOST_EXPLAINED: Final = 2_000
FEWEST_EXPLAINED: Final = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class MissedRecord:
    """A good record that is missed. rank: where it is in the list, None where it is not; reason: in plain words."""

    key: str
    title: str
    grade: int
    rank: int | None
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MissedOfQuery:
    """What is missed of one query.

    good: judged-good records; found: of them in the list, wherever; above: of them among the first `depth`; recall:
    the share of good records that those are. unexplained: missed ones beyond those that are told.
    """

    query_id: str
    query: str
    good: int
    found: int
    above: int
    recall: float
    records: list[MissedRecord]
    unexplained: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Missed:
    """What is missed of a set's open queries: those with good records, in the set's order. depth: of the list."""

    depth: int
    queries: list[MissedOfQuery]


def missed_by(
    bench: Workbench,
    collection_name: str,
    choice: RankerChoice,
    set_name: str,
    depth: int,
    query_ids: Collection[str] | None = None,
) -> Missed:
    """The good records that a ranker's first `depth` results lack, of all open queries or of some.

    Raises NotFound where the set has no open query of such an id.
    """

    def work(opened: OpenCollection) -> Missed:
        chosen = bench.choose(opened.collection, choice)
        judged = judged_in(bench, opened, set_name, Part.OPEN)
        queries = asked_for(judged, query_ids)
        spaces = ask_spaces_ahead(opened, chosen.ranker, queries)
        room = max(FEWEST_EXPLAINED, MOST_EXPLAINED // max(len(queries), 1))
        told: list[MissedOfQuery] = []
        for query in queries:
            grades = judged.grades.get(query.query_id, {})
            good = {key: grade for key, grade in grades.items() if grade >= RELEVANT_FROM}
            if good:
                told.append(_missed_of(bench, opened, chosen.ranker, query, good, depth, room, spaces))
        with bench.pool.connection() as connection:
            name = chosen.saved.title if chosen.saved else "a draft"
            note_looking(connection, opened.collection.id, judged, Part.OPEN, [Looked.of(name, chosen)], "")
        return Missed(depth=depth, queries=told)

    return bench.with_collection(collection_name, work)


def asked_for(judged: Judged, query_ids: Collection[str] | None) -> list[SetQuery]:
    """The open queries of these ids, None: all. Raises NotFound where there is no such one."""
    if query_ids is None:
        return judged.queries
    wanted = [query for query in judged.queries if query.query_id in query_ids]
    strangers = set(query_ids) - {query.query_id for query in wanted}
    if strangers:
        raise NotFound(f'"{judged.judged_set.name}" has no open query "{min(strangers)[:80]}".')
    return wanted


def _missed_of(
    bench: Workbench,
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    good: Mapping[str, int],
    depth: int,
    room: int,
    spaces: Mapping[str, OpenSpace] | None,
) -> MissedOfQuery:
    """What is missed of one query. good: grades by key; room: how many reasons are told at most."""
    asked = asked_to_measure(opened, ranker, query, spaces)
    listed = candidates(opened, asked, asked.filters)
    missed: list[tuple[str, Placed | None, int | None]] = []
    found = above = 0
    for key in good:
        placed = opened.find(key)
        rank = None if placed is None else rank_of(opened, asked, placed, listed)
        found += rank is not None
        if rank is not None and rank <= depth:
            above += 1
        else:
            missed.append((key, placed, rank))
    # The best first, and of equals those that are nearly there.
    missed.sort(key=lambda one: (-good[one[0]], inf if one[2] is None else one[2], one[0]))
    # Reasons cost more than ranks: only those that are told are looked for.
    told = [
        (key, rank, None if placed is None else why_in(opened, asked, listed, placed))
        for key, placed, rank in missed[:room]
    ]
    with bench.pool.connection() as connection:
        titles = titles_of(connection, opened.collection, [key for key, _, _ in told])
    return MissedOfQuery(
        query_id=query.query_id,
        query=query.query,
        good=len(good),
        found=found,
        above=above,
        recall=above / len(good),
        records=[
            MissedRecord(
                key=key,
                title=titles.get(key, key),
                grade=good[key],
                rank=rank,
                reason=_reason(ranker, why),
            )
            for key, rank, why in told
        ],
        unexplained=len(missed) - len(told),
    )


def _reason(ranker: Ranker, why: WhyRecord | None) -> str:
    if why is None:
        return "There is no such record any more."
    lacked = [word.word for word in why.why.words if word.counted and not word.held]
    lacks = f" It lacks {', '.join(f'“{word}”' for word in lacked)}." if lacked else ""
    if why.rank is not None:
        return f"Outranked.{lacks}" if lacked else "Outranked, though it holds every word."
    said = shut_out_by(ranker, why)
    if said and not any(word.held for word in why.why.words):
        # Of none held, all are lacked.
        return " ".join(said)
    return " ".join(said) + lacks if said else f"It is in no list that is asked.{lacks}"
