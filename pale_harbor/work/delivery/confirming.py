"""Has judges confirm what clicks suggest: the suggested records as a judging task, without the suggestion."""

from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.judging import PoolItem
from pale_harbor.core.traffic.said import said_alike
from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.delivery.past_told import PastAsked
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, queries_of, set_named
from pale_harbor.store.judging.judgments import judgments_of
from pale_harbor.work.delivery.past_told import SuggestedGrade, all_asked, suggested_grades
from pale_harbor.work.judging.sets import add_query, change_set
from pale_harbor.work.judging.tasks import Links, TaskWanted, checked_judges, new_task
from pale_harbor.work.workbench import Workbench

MOST_CONFIRMED: Final = 10_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ConfirmingWanted:
    """Whose clicks are confirmed, and by whom. days: of what was asked; queries: those alone, all where it is None."""

    name: str
    judges: tuple[str, ...]
    days: int
    twice: float = 0.2
    queries: tuple[str, ...] | None = None
    same: tuple[str, ...] = ()


def confirming_task(bench: Workbench, collection: str, set_name: str, wanted: ConfirmingWanted) -> Links:
    """Makes a judging task of what clicks suggest and no judge has graded; its queries come into the set where they are
    not there. Judges do not see what is suggested: they would follow it.

    Raises BadInput where nothing is left to confirm, and as `new_task` does, before anything is changed.
    """
    checked_judges(bench, collection, set_name, wanted.judges, wanted.same)
    with bench.pool.connection() as connection:
        kept = set_named(connection, collection_named(connection, collection).id, set_name)
        known = _ids_by_said(queries_of(connection, kept.id))
        graded = {(one.query_id, one.record_key) for one in judgments_of(connection, kept.id)}
    asked_for = None if wanted.queries is None else {said_alike(one) for one in wanted.queries}
    suggested = [
        one
        for one in suggested_grades(bench, collection, wanted.days)
        if (asked_for is None or one.query in asked_for) and (known.get(one.query), one.key) not in graded
    ][:MOST_CONFIRMED]
    if not suggested:
        raise BadInput("Nothing is left to confirm: every record that clicks say something of has a grade.")
    asked = {said_alike(one.query): one for one in all_asked(bench, collection, wanted.days)}
    ids = _with_queries(bench, collection, set_name, suggested, asked)
    task = TaskWanted(
        name=wanted.name,
        judges=wanted.judges,
        twice=wanted.twice,
        same=wanted.same,
        items=tuple(PoolItem(ids[one.query], one.key) for one in suggested),
    )
    return new_task(bench, collection, set_name, task)


def _with_queries(
    bench: Workbench, collection: str, set_name: str, suggested: list[SuggestedGrade], asked: dict[str, PastAsked]
) -> dict[str, str]:
    """Adds the queries that a set lacks, as they were typed most often; the id of each, by what was said."""
    ids: dict[str, str] = {}

    def work(connection: Connection[Any], _collection: Collection, kept: JudgedSet) -> None:
        ids.clear()
        ids.update(_ids_by_said(queries_of(connection, kept.id)))
        for said in dict.fromkeys(one.query for one in suggested):
            if said not in ids:
                typed = asked.get(said)
                query = (
                    SetQuery(query_id="", query=said)
                    if typed is None
                    else SetQuery(query_id="", query=typed.query, language=typed.language or None, asked=typed.asked)
                )
                ids[said] = add_query(connection, kept, query, None)

    change_set(bench, collection, set_name, work)
    return ids


def _ids_by_said(queries: list[SetQuery]) -> dict[str, str]:
    """The query that stands for what was said: of several the first; narrowed ones are others."""
    ids: dict[str, str] = {}
    for one in queries:
        if not one.filters:
            ids.setdefault(said_alike(one.query), one.query_id)
    return ids
