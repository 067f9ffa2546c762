"""Rankers, searching and why over HTTP."""

from typing import Annotated

from fastapi import APIRouter, Query

from pale_harbor.api.models import (
    RankerChoiceModel,
    RankerModel,
    RankerRequest,
    ReadingPartModel,
    ResultModel,
    SearchAnswer,
    SearchRequest,
    TermPartModel,
    WhyAnswer,
    WhyRequest,
)
from pale_harbor.api.server_state import Bench
from pale_harbor.core.ranking import ReadingPart, Why
from pale_harbor.formats.ranker_document import ranker_document
from pale_harbor.store.collections import collection_named
from pale_harbor.store.rankers import SavedRanker, all_rankers, ranker_named
from pale_harbor.work.opened import OpenCollection
from pale_harbor.work.searching import Found, Result, find, why_record
from pale_harbor.work.workbench import RankerChoice

router = APIRouter()


@router.get("/collections/{collection}/rankers")
def rankers(collection: str, bench: Bench) -> list[RankerModel]:
    """Every version of every ranker, by name, newest version first."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        return [_ranker_model(saved) for saved in all_rankers(connection, kept.id)]


@router.get("/collections/{collection}/rankers/{name}")
def ranker(
    collection: str, name: str, bench: Bench, version: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None
) -> RankerModel:
    """A kept ranker, the newest version where none is named."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        return _ranker_model(ranker_named(connection, kept.id, name, version))


@router.put("/collections/{collection}/rankers/{name}")
def put_ranker(collection: str, name: str, request: RankerRequest, bench: Bench) -> RankerModel:
    """Keeps a ranker as a new version of its name."""
    based_on = RankerChoice(name, request.based_on) if request.based_on is not None else None
    return _ranker_model(bench.put_ranker(collection, name, request.document, request.note, based_on))


@router.post("/collections/{collection}/search")
def search(collection: str, request: SearchRequest, bench: Bench) -> SearchAnswer:
    """The first records for a query, with marks and where their scores came from."""

    def work(opened: OpenCollection) -> Found:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return find(opened, chosen.ranker, request.query, request.top, request.language)

    found = bench.with_collection(collection, work)
    return SearchAnswer(
        matched=found.matched,
        elapsed_ms=found.elapsed_ms,
        results=[_result_model(result) for result in found.results],
        active_readings=found.active_readings,
        query_terms=found.query_terms,
    )


@router.post("/collections/{collection}/why")
def why(collection: str, request: WhyRequest, bench: Bench) -> WhyAnswer:
    """The arithmetic of one record's score."""

    def work(opened: OpenCollection) -> Why:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return why_record(opened, chosen.ranker, request.query, request.key, request.language)

    answer = bench.with_collection(collection, work)
    return WhyAnswer(key=request.key, score=answer.score, readings=[_reading_model(part) for part in answer.readings])


def choice_of(model: RankerChoiceModel) -> RankerChoice:
    return RankerChoice(model.name, model.version, model.document)


def _ranker_model(saved: SavedRanker) -> RankerModel:
    return RankerModel(
        name=saved.name,
        version=saved.version,
        document=saved.document,
        filled_in=ranker_document(saved.document),
        note=saved.note,
        created_at=saved.created_at.isoformat(),
    )


def _result_model(result: Result) -> ResultModel:
    return ResultModel(
        rank=result.rank,
        key=result.key,
        score=result.score,
        reading_scores=result.reading_scores,
        marks=result.marks,
        field_values=result.record.field_values if result.record else {},
    )


def _reading_model(part: ReadingPart) -> ReadingPartModel:
    return ReadingPartModel(
        field=part.field,
        chain=part.chain,
        weight=part.weight,
        k1=part.k1,
        b=part.b,
        length=part.length,
        average_length=part.average_length,
        record_count=part.record_count,
        unweighted=part.unweighted,
        score=part.score,
        terms=[
            TermPartModel(
                term=term.term,
                times=term.times,
                holding=term.holding,
                idf=term.idf,
                frequency=term.frequency,
                norm=term.norm,
                score=term.score,
            )
            for term in part.terms
        ],
        missing=list(part.missing),
    )
