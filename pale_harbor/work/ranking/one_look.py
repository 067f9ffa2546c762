"""Searches with one look at the database: with what was known from the last search, checked as records are fetched."""

from collections.abc import Callable, Sequence
from typing import Final

from pale_harbor.errors import HarborError, RecordsChanged
from pale_harbor.store.database import for_one_statement
from pale_harbor.store.ranking.ranker_parts import Standing, standing_and_records
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import PLAINLY, FacetWanted, Found, Telling, find, page_of
from pale_harbor.work.running.timed import timed
from pale_harbor.work.workbench import RankerChoice, Workbench

_TRIES: Final = 3


def search(
    bench: Workbench,
    collection_name: str,
    choice: RankerChoice,
    question_of: Callable[[OpenCollection], Question],
    top: int,
    skip: int = 0,
    facets: Sequence[FacetWanted] = (),
    telling: Telling = PLAINLY,
) -> Found:
    """A page of the list for a query: `find`, of the collection and the ranker as they stand.

    What was known of them is taken as true until the records of the page are fetched: one statement brings these and
    tells how both stand. Where that is otherwise now, all is done again. Raises NotFound, BadInput.
    """
    key = (collection_name, choice.name)
    standings = bench.memory.standings
    known: Standing | None = standings.get(key)
    for _ in range(_TRIES):
        keys: list[str] = []
        page = failed = None
        if known is not None:
            try:
                opened = bench.opened_as(known.collection)
                chosen = bench.chosen_as(known, choice)
                page = page_of(opened, chosen.ranker, question_of(opened), top, skip, facets, telling)
                keys = page.keys
            except HarborError as error:
                # It may be of what was known: a field that has come since, a ranker that was kept.
                failed = error
        with timed("search", "fetching records"), for_one_statement(bench.pool) as connection:
            now, records = standing_and_records(connection, collection_name, choice.name, keys)
        standings.put(key, now)
        if now == known:
            if page is not None:
                return page.told(records)
            if failed is not None and not isinstance(failed, RecordsChanged):
                raise failed
        known = now

    def work(opened: OpenCollection) -> Found:
        ranker = bench.choose(opened.collection, choice).ranker
        return find(opened, ranker, question_of(opened), top, skip, facets, telling)

    # It keeps changing: the next change has to wait.
    return bench.with_collection(collection_name, work)
