"""Judged sets over HTTP: made, changed, written out, measured on; expectations, complaints and the diary."""

from typing import Annotated, Literal

from fastapi import Path, Query, Response

from pale_harbor.api.judging.models import (
    ComplaintAnswer,
    ComplaintRequest,
    DecisionRequest,
    ExpectationRequest,
    FilesRequest,
    GradeRequest,
    ListAnswer,
    ListRequest,
    LockRequest,
    MakeSetRequest,
    QueryRequest,
    RemeasureAnswer,
    RemeasureRequest,
    RulesRequest,
    measures_of,
)
from pale_harbor.api.models import MeasureRequest, MissedRequest
from pale_harbor.api.ranking.routes import choice_of
from pale_harbor.api.routes import guarded_router, largest_body
from pale_harbor.api.server_state import Bench
from pale_harbor.core.measures.measure import offered_measures
from pale_harbor.formats.judged_files import JudgedFormat, grade_scale, judgments_in, queries_in
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.judged_sets import SetQuery, set_named
from pale_harbor.store.measuring.diary import DiaryEntry, diary_of, write_entry
from pale_harbor.store.measuring.runs import KeptRun, runs_of
from pale_harbor.work.judging import set_files, sets
from pale_harbor.work.judging.complaining import Complaint, complain
from pale_harbor.work.judging.expecting import expect, expect_no_more
from pale_harbor.work.judging.set_files import JudgedReport
from pale_harbor.work.judging.sets_told import (
    ExpectationTold,
    JudgedSetTold,
    JudgedSummary,
    ListedQuery,
    expectations_told,
    judged_summaries,
    listed_queries,
    open_part,
)
from pale_harbor.work.judging.tasks import Said, engineer_says
from pale_harbor.work.measuring.measuring import Measurement, measure_ranker, measure_run
from pale_harbor.work.measuring.missed import Missed, missed_by
from pale_harbor.work.workbench import Workbench

router = guarded_router()

SetName = Annotated[str, Path(max_length=63)]
QueryId = Annotated[str, Path(max_length=200)]
_MEDIA = {"columns": "text/plain", "csv": "text/csv", "jsonl": "application/x-ndjson"}


@router.get("/measures")
def measures() -> list[str]:
    """Every measure, as a page offers it."""
    return offered_measures()


@router.get("/collections/{collection}/judged")
def judged_sets(collection: str, bench: Bench) -> list[JudgedSummary]:
    """A collection's judged sets, by name."""
    return judged_summaries(bench, collection)


@router.post("/collections/{collection}/judged/{name}")
def make_judged_set(collection: str, name: SetName, request: MakeSetRequest, bench: Bench) -> list[JudgedSummary]:
    """Makes an empty judged set."""
    sets.make_judged_set(bench, collection, name, request.locked_share)
    return judged_summaries(bench, collection)


@router.delete("/collections/{collection}/judged/{name}", status_code=204)
def drop_judged_set(collection: str, name: SetName, bench: Bench) -> None:
    """Drops a judged set with all that was judged."""
    sets.drop_judged_set(bench, collection, name)


@router.get("/collections/{collection}/judged/{name}")
def judged_set(collection: str, name: SetName, bench: Bench) -> JudgedSetTold:
    """A judged set for everyday looking: its open queries in order, each with its grades."""
    return open_part(bench, collection, name)


@router.get("/collections/{collection}/judged/{name}/queries")
def queries_of_set(collection: str, name: SetName, bench: Bench) -> list[ListedQuery]:
    """All queries of a set, the locked ones too, with how much of each is judged."""
    return listed_queries(bench, collection, name)


@router.put("/collections/{collection}/judged/{name}/rules")
def change_rules(collection: str, name: SetName, request: RulesRequest, bench: Bench) -> list[JudgedSummary]:
    """Changes how grades are settled, what they mean, and which share of new queries is locked away."""
    sets.change_rules(bench, collection, name, request.settling, request.locked_share, request.meanings)
    return judged_summaries(bench, collection)


@router.post("/collections/{collection}/judged/{name}/lock")
def lock_queries(collection: str, name: SetName, request: LockRequest, bench: Bench) -> list[JudgedSummary]:
    """Locks a share of the queries away, those included that are locked already."""
    sets.lock_away(bench, collection, name, request.share)
    return judged_summaries(bench, collection)


@router.post("/collections/{collection}/judged/{name}/queries")
def add_query(collection: str, name: SetName, request: QueryRequest, bench: Bench) -> ComplaintAnswer:
    """Adds a query under an id of its own."""
    query_id = sets.new_query(bench, collection, name, _query("", request), request.locked)
    return ComplaintAnswer(query_id=query_id, revision=_revision(bench, collection, name))


@router.put("/collections/{collection}/judged/{name}/queries/{query_id}")
def put_query(
    collection: str, name: SetName, query_id: QueryId, request: QueryRequest, bench: Bench
) -> ComplaintAnswer:
    """Changes a query, or adds one under this id."""
    kept = sets.put_query(bench, collection, name, _query(query_id, request), request.locked)
    return ComplaintAnswer(query_id=query_id, revision=kept.revision)


@router.delete("/collections/{collection}/judged/{name}/queries/{query_id}", status_code=204)
def drop_query(collection: str, name: SetName, query_id: str, bench: Bench) -> None:
    """Takes a query out, with what was judged for it."""
    sets.drop_query(bench, collection, name, query_id)


@router.post("/collections/{collection}/judged/{name}/list")
@largest_body(64_000_000)
def add_list(collection: str, name: SetName, request: ListRequest, bench: Bench) -> ListAnswer:
    """Adds the queries of a plain list: pasted ones, or past queries with how often they were asked."""
    kept, added = sets.add_listed(bench, collection, name, request.text, request.most)
    return ListAnswer(added=added, revision=kept.revision)


@router.put("/collections/{collection}/judged/{name}/files")
@largest_body(64_000_000)
def put_files(collection: str, name: SetName, request: FilesRequest, bench: Bench) -> JudgedReport:
    """Puts the queries and judgments of two files in place of a set's."""
    scale = grade_scale(request.scale) if request.scale else None
    return set_files.put_judged_set(
        bench,
        collection,
        name,
        queries_in(request.queries, "The queries"),
        None if request.judgments is None else judgments_in(request.judgments, "The judgments", scale),
        "The judgments",
        request.locked_share,
    )


@router.get("/collections/{collection}/judged/{name}/files/{what}", response_class=Response)
def file_of_set(
    collection: str,
    name: SetName,
    what: Literal["queries", "judgments"],
    bench: Bench,
    form: Annotated[JudgedFormat, Query()] = "csv",
) -> Response:
    """The queries or the judgments as a file. As columns the grades that count, otherwise what each judge said."""
    queries, judgments = set_files.export(bench, collection, name, form)
    ending = {"columns": "txt", "csv": "csv", "jsonl": "jsonl"}[form]
    return Response(
        queries if what == "queries" else judgments,
        media_type=f"{_MEDIA[form]}; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}-{what}.{ending}"'},
    )


@router.post("/collections/{collection}/judged/{name}/grades")
def give_grade(collection: str, name: SetName, request: GradeRequest, bench: Bench) -> ComplaintAnswer:
    """A grade that is given outside of any task."""
    said = Said(
        query_id=request.query_id,
        record_key=request.record_key,
        grade=request.grade,
        note=request.note,
        at=sets.now(),
        taken_back=request.taken_back,
    )
    engineer_says(bench, collection, name, request.judge, [said])
    return ComplaintAnswer(query_id=request.query_id, revision=_revision(bench, collection, name))


@router.post("/collections/{collection}/judged/{name}/complaints")
def take_complaint(collection: str, name: SetName, request: ComplaintRequest, bench: Bench) -> ComplaintAnswer:
    """Makes a judged query of a complaint: this query, that record, these words."""
    filters = [one.written for one in request.filters]
    query_id = complain(
        bench,
        collection,
        name,
        Complaint(
            query=request.query,
            need=request.need,
            complaint=request.complaint,
            record_key=request.record_key,
            grade=request.grade,
            wanted=None if request.kind is None else request.wanted(request.kind),
            filters=filters,
        ),
    )
    return ComplaintAnswer(query_id=query_id, revision=_revision(bench, collection, name))


@router.get("/collections/{collection}/judged/{name}/expectations")
def expectations(collection: str, name: SetName, bench: Bench) -> list[ExpectationTold]:
    """A set's expectations."""
    return expectations_told(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/expectations")
def add_expectation(collection: str, name: SetName, request: ExpectationRequest, bench: Bench) -> list[ExpectationTold]:
    """Adds an expectation."""
    expect(bench, collection, name, request.query_id, request.wanted())
    return expectations_told(bench, collection, name)


@router.delete("/collections/{collection}/judged/{name}/expectations/{number}")
def end_expectation(collection: str, name: SetName, number: int, bench: Bench) -> list[ExpectationTold]:
    """Ends an expectation; measurements of earlier revisions still know it."""
    expect_no_more(bench, collection, name, number)
    return expectations_told(bench, collection, name)


@router.post("/collections/{collection}/judged/{name}/measure")
def measure_on_set(collection: str, name: SetName, request: MeasureRequest, bench: Bench) -> Measurement:
    """Measures a ranker, kept or draft, on every query of a judged set."""
    measures = measures_of(request.measures)
    return measure_ranker(bench, collection, choice_of(request.ranker), name, measures, request.how.how())


@router.post("/collections/{collection}/judged/{name}/missed")
def missed_on_set(collection: str, name: SetName, request: MissedRequest, bench: Bench) -> Missed:
    """The judged-good records that a ranker does not find, or finds too far down, each with its reason."""
    return missed_by(bench, collection, choice_of(request.ranker), name, request.depth, request.query_ids)


@router.get("/collections/{collection}/judged/{name}/runs")
def frozen_runs(collection: str, name: SetName, bench: Bench) -> list[KeptRun]:
    """A set's frozen runs, the newest first."""
    with bench.pool.connection() as connection:
        return runs_of(connection, set_named(connection, collection_named(connection, collection).id, name).id)


@router.post("/collections/{collection}/judged/{name}/runs/{run}/measure")
def measure_frozen_run(
    collection: str, name: SetName, run: int, request: RemeasureRequest, bench: Bench
) -> RemeasureAnswer:
    """Measures a frozen run again, by the set as it is or as it was in a revision."""
    figures, revision = measure_run(
        bench, collection, name, run, measures_of(request.measures), request.revision, request.how.how()
    )
    return RemeasureAnswer(figures=figures, revision=revision)


@router.get("/collections/{collection}/diary")
def diary(collection: str, bench: Bench) -> list[DiaryEntry]:
    """What was decided and opened, the newest first."""
    with bench.pool.connection() as connection:
        return diary_of(connection, collection_named(connection, collection).id)


@router.post("/collections/{collection}/diary")
def write_decision(collection: str, request: DecisionRequest, bench: Bench) -> DiaryEntry:
    """Writes a decision into the diary."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        return write_entry(connection, kept.id, "decision", request.title, request.body, request.details)


def _query(query_id: str, request: QueryRequest) -> SetQuery:
    return SetQuery(
        query_id=query_id,
        query=request.query,
        need=request.need,
        tags=request.tags,
        filters=[one.written for one in request.filters],
        language=request.language,
        asked=request.asked,
        nothing_to_find=request.nothing_to_find,
    )


def _revision(bench: Workbench, collection: str, name: str) -> int:
    with bench.pool.connection() as connection:
        return set_named(connection, collection_named(connection, collection).id, name).revision
