"""A complaint becomes a judged query: what was typed, which record is missed or out of place, in whose words."""

from dataclasses import dataclass, field
from typing import Any, Final

from pale_harbor.errors import BadInput
from pale_harbor.store.collections import collection_named
from pale_harbor.store.expectations import ExpectationKind
from pale_harbor.store.judged_sets import SetQuery
from pale_harbor.store.records import records_with_keys
from pale_harbor.work.expecting import expect
from pale_harbor.work.judged_sets import new_query, now
from pale_harbor.work.judging import Said, engineer_says
from pale_harbor.work.workbench import Workbench

TAG: Final = "complaint"


@dataclass(frozen=True, slots=True)
class Complaint:
    """complaint: in whose words it came; grade: that the record should have; kind, number: of an expectation."""

    query: str
    need: str = ""
    complaint: str = ""
    record_key: str | None = None
    grade: int | None = None
    kind: ExpectationKind | None = None
    number: int | None = None
    filters: list[dict[str, Any]] = field(default_factory=list[dict[str, Any]])


def complain(bench: Workbench, collection_name: str, set_name: str, complaint: Complaint) -> str:
    """Puts a complaint into a judged set and returns the id of its query. Raises NotFound, BadInput."""
    if not complaint.query.strip():
        raise BadInput("A complaint is about a query: say what was typed.")
    if complaint.record_key is not None:
        with bench.pool.connection() as connection:
            collection = collection_named(connection, collection_name)
            if not records_with_keys(connection, collection.id, [complaint.record_key]):
                raise BadInput(f'"{collection_name}" has no record "{complaint.record_key[:80]}".')
    query_id = new_query(
        bench,
        collection_name,
        set_name,
        SetQuery(
            "",
            complaint.query,
            complaint.need,
            [TAG],
            complaint.filters,
            nothing_to_find=complaint.kind == "nothing",
        ),
    )
    if complaint.record_key is not None and complaint.grade is not None:
        said = Said(query_id, complaint.record_key, complaint.grade, complaint.complaint, now(), taken_back=False)
        engineer_says(bench, collection_name, set_name, "", [said])
    if complaint.kind is not None:
        expect(
            bench,
            collection_name,
            set_name,
            query_id,
            complaint.kind,
            complaint.record_key,
            complaint.number,
            complaint.complaint,
        )
    return query_id
