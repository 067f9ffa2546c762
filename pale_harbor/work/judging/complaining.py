"""A complaint becomes a judged query: what was typed, which record is missed or out of place, in whose words."""

from dataclasses import dataclass, field
from typing import Any, Final

from pale_harbor.core.judging import Expectation
from pale_harbor.errors import BadInput
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.expectations import add_expectation
from pale_harbor.store.judging.judged_sets import SetQuery, held_set, next_revision
from pale_harbor.store.judging.judgments import Judgment
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.judging.sets import add_query, now
from pale_harbor.work.judging.tasks import keep_judgments
from pale_harbor.work.workbench import Workbench

TAG: Final = "complaint"


@dataclass(frozen=True, slots=True, kw_only=True)
class Complaint:
    """complaint: in whose words it came; grade: that the record should have; wanted: what is expected from now on."""

    query: str
    need: str = ""
    complaint: str = ""
    record_key: str | None = None
    grade: int | None = None
    wanted: Expectation | None = None
    filters: list[dict[str, Any]] = field(default_factory=list[dict[str, Any]])


def complain(bench: Workbench, collection_name: str, set_name: str, complaint: Complaint) -> str:
    """Puts a complaint into a judged set, whole or not at all, and returns the id of its query.

    The query is open from then on, even if it was locked away: it has been seen. Raises NotFound, BadInput.
    """
    if not complaint.query.strip():
        raise BadInput("A complaint is about a query: say what was typed.")
    key, words = complaint.record_key, complaint.complaint
    wanted = complaint.wanted
    nothing = wanted is not None and wanted.kind == "nothing"
    query = SetQuery(
        query_id="",
        query=complaint.query,
        need=complaint.need,
        tags=[TAG],
        filters=complaint.filters,
        nothing_to_find=nothing,
    )
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        if key is not None and not records_with_keys(connection, collection.id, [key]):
            raise BadInput(f'"{collection_name}" has no record "{key[:80]}".')
        kept = held_set(connection, collection.id, set_name)
        query_id = add_query(connection, kept, query, locked=False)
        if key is not None and complaint.grade is not None:
            given = Judgment(
                query_id=query_id, record_key=key, judge="", grade=complaint.grade, note=words, judged_at=now()
            )
            keep_judgments(connection, collection_name, set_name, [given])
        if wanted is not None:
            revision = next_revision(connection, kept, of_queries=False)
            add_expectation(connection, kept.id, revision, query_id, wanted)
    return query_id
