"""What a judge sees of a query: its records in the judge's own order, with the matched words marked."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pale_harbor.core.marking import marks
from pale_harbor.core.stretch import Stretch
from pale_harbor.errors import NotFound
from pale_harbor.formats.display import DisplayDocument
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.judging.judgments import Judgment
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.tasks import work_of_judge
from pale_harbor.work.measuring.lists import asked_to_measure
from pale_harbor.work.measuring.sides import words_alone
from pale_harbor.work.workbench import RankerChoice, Workbench, display_of


@dataclass(frozen=True, slots=True)
class JudgedRecord:
    """A record to be judged. gone: it is no longer there."""

    key: str
    field_values: dict[str, Any]
    marks: dict[str, list[Stretch]]
    gone: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryToJudge:
    """A query that a judge is asked about; record_keys: in the order in which the judge sees them."""

    query_id: str
    query: str
    need: str
    record_keys: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgesPage:
    """What a judge's link leads to. meanings: of the grades, with examples; said: what the judge said so far;
    last_said: when that was, by the judge's own clock, what was taken back included."""

    judge: str
    task: str
    closed: bool
    collection: str
    judged_set: str
    display: DisplayDocument
    meanings: list[str]
    queries: list[QueryToJudge]
    said: list[Judgment]
    last_said: datetime | None


def judges_page(bench: Workbench, token: str) -> JudgesPage:
    """What a judge's link leads to. Raises NotFound where it leads nowhere."""
    found = work_of_judge(bench, token)
    with bench.pool.connection() as connection:
        collection = collection_named(connection, found.collection)
        display = display_of(collection, fields_of(connection, collection.id))
    return JudgesPage(
        judge=found.judge,
        task=found.task.name,
        closed=found.task.closed,
        collection=found.collection,
        judged_set=found.judged_set.name,
        display=display,
        meanings=found.judged_set.meanings,
        queries=[
            QueryToJudge(
                query_id=query.query_id, query=query.query, need=query.need, record_keys=found.items[query.query_id]
            )
            for query in found.queries
        ],
        said=found.said,
        last_said=found.last_said,
    )


def judged_in(bench: Workbench, token: str, key: str) -> str:
    """The collection of a record that a judge is asked about. Raises NotFound where they are not."""
    found = work_of_judge(bench, token)
    if not any(key in keys for keys in found.items.values()):
        raise NotFound("This record is not among those that you are asked to judge.")
    return found.collection


def judge_records(bench: Workbench, token: str, query_id: str) -> list[JudgedRecord]:
    """The records of one query. Raises NotFound where the judge is not asked about it.

    Marks are those of the default ranker's words: they tell where a word stands, never how high a record came.
    """
    found = work_of_judge(bench, token)
    keys = found.items.get(query_id)
    query = next((one for one in found.queries if one.query_id == query_id), None)
    if keys is None or query is None:
        raise NotFound("This query is not among those that you are asked to judge.")

    def work(opened: OpenCollection) -> list[JudgedRecord]:
        with bench.pool.connection() as connection:
            records = records_with_keys(connection, opened.collection.id, keys)
        try:
            ranker = words_alone(bench.choose(opened.collection, RankerChoice()).ranker)
        except NotFound:
            asked = None
        else:
            asked = asked_to_measure(opened, ranker, query, None)
        places = {key: opened.find(key) for key in keys}
        return [
            JudgedRecord(
                key,
                records[key].field_values if key in records else {},
                marks(asked.prepared[placed.slab], [placed.record_id])[0]
                if asked is not None and (placed := places[key]) is not None
                else {},
                key not in records,
            )
            for key in keys
        ]

    return bench.with_collection(found.collection, work)
