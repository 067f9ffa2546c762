"""What two rankers make of one judged query: which records came into the beginning of its list, and which went."""

from collections.abc import Sequence
from dataclasses import dataclass

from pale_harbor.core.comparing.moved import Moved, list_moved
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Part, judged_in
from pale_harbor.work.measuring.lists import ask_spaces_ahead, run_list
from pale_harbor.work.measuring.missed import asked_for
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedRecord:
    """A record with its title; ranks are None where it is in no list, the grade where it is unjudged."""

    key: str
    title: str
    grade: int | None
    before: int | None
    after: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedOnQuery:
    """What moved in the first `depth` of a query's list; see `list_moved`."""

    query_id: str
    query: str
    depth: int
    came: list[MovedRecord]
    went: list[MovedRecord]
    reordered: list[MovedRecord]


def moved_on_query(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    query_id: str,
    choices: tuple[RankerChoice, RankerChoice],
    depth: int,
) -> MovedOnQuery:
    """What moved in one open query's list. choices: the ranker before, and the one after.

    Raises NotFound where the set has no open query of that id.
    """

    def work(opened: OpenCollection) -> MovedOnQuery:
        judged = judged_in(bench, opened, set_name, Part.OPEN)
        (query,) = asked_for(judged, {query_id})
        lists: list[Sequence[str]] = []
        for choice in choices:
            ranker = bench.choose(opened.collection, choice).ranker
            lists.append(run_list(opened, ranker, query, ask_spaces_ahead(opened, ranker, [query])).record_keys)
        found = list_moved(lists[0], lists[1], judged.grades.get(query_id, {}), depth)
        everything = (*found.came, *found.went, *found.reordered)
        with bench.pool.connection() as connection:
            titles = titles_of(connection, opened.collection, [one.key for one in everything])

        def told(moved: Sequence[Moved]) -> list[MovedRecord]:
            return [
                MovedRecord(
                    key=one.key,
                    title=titles.get(one.key, one.key),
                    grade=one.grade,
                    before=one.before,
                    after=one.after,
                )
                for one in moved
            ]

        return MovedOnQuery(
            query_id=query_id,
            query=query.query,
            depth=depth,
            came=told(found.came),
            went=told(found.went),
            reordered=told(found.reordered),
        )

    return bench.with_collection(collection_name, work)
