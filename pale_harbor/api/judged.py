"""Judged sets and measuring over HTTP."""

from dataclasses import asdict

from fastapi import APIRouter

from pale_harbor.api.models import (
    JudgedSetModel,
    MadeOfModel,
    MeasureAnswer,
    MeasureRequest,
    SetQueryModel,
)
from pale_harbor.api.ranking import choice_of
from pale_harbor.api.server_state import Bench
from pale_harbor.core.measures import measure
from pale_harbor.store.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judged_sets import grades_of, queries_of, set_named
from pale_harbor.work.measuring import measure_ranker

router = APIRouter()


@router.get("/collections/{collection}/judged/{name}")
def judged_set(collection: str, name: str, bench: Bench) -> JudgedSetModel:
    """A judged set: its queries in order, each with its grades."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        kept = collection_named(connection, collection)
        found = set_named(connection, kept.id, name)
        grades = grades_of(connection, found.id)
        queries = [
            SetQueryModel(**asdict(query), grades=grades.get(query.query_id, {}))
            for query in queries_of(connection, found.id)
        ]
    return JudgedSetModel(name=found.name, revision=found.revision, queries=queries)


@router.post("/collections/{collection}/judged/{name}/measure")
def measure_on_set(collection: str, name: str, request: MeasureRequest, bench: Bench) -> MeasureAnswer:
    """Measures a ranker, kept or draft, on every query of a judged set."""
    measures = [measure(written) for written in request.measures]
    measurement = measure_ranker(bench, collection, choice_of(request.ranker), name, measures)
    return MeasureAnswer(
        measures=measurement.measured.means,
        per_query=measurement.measured.per_query,
        matched=measurement.matched,
        notes=measurement.notes,
        made_of=MadeOfModel(**asdict(measurement.made_of)),
    )
