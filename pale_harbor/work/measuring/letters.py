"""A judged set typed letter by letter: after how many letters a relevant record of each query is found."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from pale_harbor.core.comparing.comparison import Comparison, comparison
from pale_harbor.core.measures import USUAL_RULES, TypedLists, judged_list, measure
from pale_harbor.core.measures.letters import (
    as_typed,
    found_by_letter,
    keystrokes_until_found,
    letters_until_found,
    possible_ranks,
    relevant_ranks,
)
from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import BadInput
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.typed_lists import typed_to_measure
from pale_harbor.work.ranking.letter_by_letter import MOST_LETTERS
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryTyped:
    """A judged query typed. of: its letters; letters: after how many a relevant record is among the first, one more
    than there are where it never is; keystrokes: letters and steps down, the least; best: its letters if every unjudged
    record were relevant. before: its letters by the ranker that it is compared with."""

    query_id: str
    query: str
    of: int
    letters: int
    keystrokes: int
    best: int
    before: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTyped:
    """A judged set typed. first: how far down a record counts as found; found: the share of queries that are found at
    all; by_letter: the share that is found by each letter. before: of the ranker that it is compared with. compared:
    letters of the two, where fewer are better."""

    first: int
    queries: list[QueryTyped]
    letters: float
    keystrokes: float
    best: float
    found: float
    by_letter: list[float]
    before_by_letter: list[float] | None
    compared: Comparison | None
    notes: list[str]


def type_set(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    choice: RankerChoice,
    against: RankerChoice | None,
    first: int,
    told: Callable[[int, int], object] = lambda _done, _in_all: None,
) -> SetTyped:
    """Types every open query of a set that has something relevant, by one ranker or by two.

    told: hears how many queries are typed, of how many. Raises NotFound, BadInput where no query has anything
    relevant, Unavailable.
    """

    def work(opened: OpenCollection) -> SetTyped:
        judged = judged_in(bench, opened, set_name)
        counted = [query for query in judged.queries if _can_be_found(query, judged)]
        if not counted:
            raise BadInput(f'No query of "{set_name}" has a relevant record: there is nothing that could be found.')
        sides = [choice] if against is None else [choice, against]
        rankers = [bench.choose(opened.collection, one).ranker for one in sides]
        rows: list[list[TypedLists]] = []
        for done, query in enumerate(counted):
            told(done, len(counted))
            rows.append([_typed(opened, one, query, judged, first) for one in rankers])
        told(len(counted), len(counted))
        return _set_typed(counted, rows, first, judged)

    return bench.with_collection(collection_name, work)


def letters_by_query(opened: OpenCollection, ranker: Ranker, judged: Judged, first: int) -> dict[str, float]:
    """After how many letters each query with something relevant is found: for rules about them."""
    return {
        query.query_id: letters_until_found(relevant_ranks(_typed(opened, ranker, query, judged, first)), first)
        for query in judged.queries
        if _can_be_found(query, judged)
    }


def _can_be_found(query: SetQuery, judged: Judged) -> bool:
    return bool(judged_list((), judged.grades.get(query.query_id, {})).relevant_count and query.query.strip())


def _typed(opened: OpenCollection, ranker: Ranker, query: SetQuery, judged: Judged, first: int) -> TypedLists:
    """The lists on the way to a query, `first` records of each."""
    own = replace(judged, queries=[query])
    typed = typed_to_measure(opened, ranker, own, [measure(f"letters_saved@{first}")], USUAL_RULES)[query.query_id]
    graded = judged_list((), judged.grades.get(query.query_id, {}), typed).typed
    assert graded is not None
    return graded


def _set_typed(counted: list[SetQuery], rows: list[list[TypedLists]], first: int, judged: Judged) -> SetTyped:
    lengths = [own[0].letters for own in rows]
    letters = [[letters_until_found(relevant_ranks(side), first) for side in own] for own in rows]
    queries = [
        QueryTyped(
            query_id=query.query_id,
            query=query.query,
            of=own[0].letters,
            letters=typed[0],
            keystrokes=keystrokes_until_found(relevant_ranks(own[0]), first),
            best=letters_until_found(possible_ranks(own[0]), first),
            before=typed[1] if len(typed) > 1 else None,
        )
        for query, own, typed in zip(counted, rows, letters, strict=True)
    ]
    count = len(queries)
    ids = [query.query_id for query in counted]
    sides = [dict(zip(ids, (float(typed[side]) for typed in letters), strict=True)) for side in (0, -1)]
    is_compared = len(letters[0]) > 1
    cut = sum(len(as_typed(query.query)) > MOST_LETTERS for query in counted)
    left_out = len(judged.queries) - count
    return SetTyped(
        first=first,
        queries=queries,
        letters=sum(one.letters for one in queries) / count,
        keystrokes=sum(one.keystrokes for one in queries) / count,
        best=sum(one.best for one in queries) / count,
        found=sum(one.letters <= one.of for one in queries) / count,
        by_letter=found_by_letter([typed[0] for typed in letters], lengths),
        before_by_letter=found_by_letter([typed[1] for typed in letters], lengths) if is_compared else None,
        compared=comparison(sides[1], sides[0]) if is_compared else None,
        notes=[
            *([f"{_queries(left_out, 'has', 'have')} nothing relevant: left out here."] if left_out else []),
            *([f"Of {cut} of the queries only the first {MOST_LETTERS} letters were typed."] if cut else []),
        ],
    )


def _queries(count: int, one: str, more: str) -> str:
    return f"{count} query {one}" if count == 1 else f"{count} queries {more}"
