"""Rankers, searching and why over HTTP."""

from collections.abc import Sequence
from dataclasses import asdict
from math import isfinite
from typing import Annotated

from fastapi import Query

from pale_harbor.api.models import RankerChoiceModel, RankerModel, RankerRequest
from pale_harbor.api.ranking.models import (
    AppliedRule,
    BlendPartModel,
    DifferencesAnswer,
    DifferencesRequest,
    FacetValue,
    ListPartModel,
    MissingWordModel,
    NearMissModel,
    PassageModel,
    PooledShareModel,
    PooledTermModel,
    QuestionModel,
    ReadingPartModel,
    ResultModel,
    SearchAnswer,
    SearchRequest,
    SecondLookModel,
    SignalPartModel,
    SourceModel,
    StepModel,
    SuggestionModel,
    TermPartModel,
    WhyAnswer,
    WhyNotAnswer,
    WhyRequest,
    WordMatchModel,
    WordModel,
)
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.core.blend.blending import shares_of_meaning
from pale_harbor.core.ranking import ReadingPart
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.forms import field_order
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.rankers import SavedRanker, all_rankers, ranker_named
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asking import Question
from pale_harbor.work.ranking.searching import FacetWanted, Found, Result, WhyRecord, find, lists_of, why_record
from pale_harbor.work.ranking.why_not import WhyNot, why_not
from pale_harbor.work.workbench import ChosenRanker, RankerChoice

router = guarded_router()


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


@router.post("/collections/{collection}/rankers/differences")
def ranker_differences(collection: str, request: DifferencesRequest, bench: Bench) -> DifferencesAnswer:
    """What is different between two rankers, in words."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
    before, after = (bench.choose(kept, choice_of(one)).document for one in (request.before, request.after))
    return DifferencesAnswer(differences=differences(before, after))


@router.post("/collections/{collection}/search")
def search(collection: str, request: SearchRequest, bench: Bench) -> SearchAnswer:
    """A page of the list for a query, with marks, facets, and where scores came from."""
    wanted = [FacetWanted(one.field, one.most, one.step) for one in request.facets]

    def work(opened: OpenCollection) -> tuple[Found, ChosenRanker]:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        question = question_of(opened, request, [one.field for one in request.facets])
        return find(opened, chosen.ranker, question, request.top, request.skip, wanted), chosen

    found, chosen = bench.with_collection(collection, work)
    return SearchAnswer(
        matched=found.matched,
        rows=found.groups,
        elapsed_ms=found.elapsed_ms,
        results=[_result_model(result) for result in found.results],
        sources=[SourceModel.model_validate(asdict(source)) for source in found.sources],
        query_terms=found.query_terms,
        read_as=found.read_as,
        notes=found.notes,
        kind=found.kind,
        lists=found.lists,
        rules=[AppliedRule(number=number, reason=chosen.ranker.rules[number].reason) for number in found.rules],
        filters=found.filters,
        facets={
            field: [FacetValue(value=value, count=count) for value, count in counts]
            for field, counts in found.facets.items()
        },
    )


@router.post("/collections/{collection}/why")
def why(collection: str, request: WhyRequest, bench: Bench) -> WhyAnswer:
    """The arithmetic of one record's score, and its rank."""

    def work(opened: OpenCollection) -> WhyRecord:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return why_record(opened, chosen.ranker, question_of(opened, request), request.key)

    return why_model(request.key, bench.with_collection(collection, work))


@router.post("/collections/{collection}/why-not")
def why_a_record_is_missing(collection: str, request: WhyRequest, bench: Bench) -> WhyNotAnswer:
    """What keeps a record out of a list, and which change of the ranker would bring it in."""

    def work(opened: OpenCollection) -> tuple[WhyNot, list[str]]:
        choice = choice_of(request.ranker)
        chosen = bench.choose(opened.collection, choice)
        found = why_not(bench, opened, choice, question_of(opened, request), request.key)
        return found, [reading.field for reading in chosen.ranker.readings]

    found, fields = bench.with_collection(collection, work)
    return WhyNotAnswer(
        why=why_model(request.key, found.why),
        field_values=found.record.field_values,
        shut_out=found.shut_out,
        missing=[
            MissingWordModel(
                word=word.word,
                readings=[(fields[number], terms) for number, terms in word.readings.items()],
                near=[
                    NearMissModel.model_validate(asdict(miss) | {"field": fields[miss.reading]}) for miss in word.near
                ],
            )
            for word in found.missing
        ],
        suggestions=[
            SuggestionModel(words=one.words, document=one.document, rank=one.rank) for one in found.suggestions
        ],
    )


def question_of(opened: OpenCollection, request: QuestionModel, also: Sequence[str] = ()) -> Question:
    """The question of a request. Raises BadInput for fields that the collection does not have."""
    known = opened.field_names
    sort = tuple(field_order(name) for name in request.sort)
    used = [one.whole["field"] for one in request.filters] + [by.field for by in sort] + list(also)
    problems = [(name, hint(nearest_name(name, known), known)) for name in used if name not in known]
    if problems and known:
        raise BadInput("The collection does not have these fields.", problems)
    return Question(request.query, tuple(filter_of(one) for one in request.filters), request.language, sort)


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
        source_scores=result.source_scores,
        marks=result.marks,
        field_values=result.record.field_values if result.record else {},
        pinned=result.pinned,
        others=result.others,
        ranks=result.ranks,
        passage=None if result.passage is None else PassageModel.model_validate(asdict(result.passage)),
    )


def why_model(key: str, found: WhyRecord) -> WhyAnswer:
    """The answer that `why` gives, for the API and the command line."""
    answer = found.why
    return WhyAnswer(
        key=key,
        score=answer.score,
        keyword_score=answer.keyword_score,
        how=answer.how.value,
        share=answer.share,
        pool_k1=found.asked.ranker.combine.k1,
        readings=[_reading_model(part) for part in answer.readings],
        pool=None
        if answer.pool is None
        else [
            PooledTermModel(
                kind=term.kind.value,
                term=term.term,
                times=term.times,
                holding=term.holding,
                idf=term.idf,
                frequency=term.frequency,
                score=term.score,
                shares=[PooledShareModel.model_validate(asdict(one) | {"added": one.added}) for one in term.shares],
            )
            for term in answer.pool
        ],
        signals=[
            SignalPartModel(
                field=part.signal.field,
                shape=part.signal.shape.value,
                weight=part.signal.weight,
                value=part.value,
                multiplied=part.signal.multiplied,
                amount=part.amount,
            )
            for part in answer.signals
        ],
        lifts=list(answer.lifts),
        words=[WordModel.model_validate(asdict(word)) for word in answer.words],
        matched=answer.matched,
        rank=found.rank,
        pinned=found.pinned,
        hidden=found.hidden,
        failed_filters=found.failed_filters,
        blend=_blend_model(found),
    )


def _blend_model(found: WhyRecord) -> BlendPartModel | None:
    """How words and meaning came together for a record; None where words are alone."""
    row, meaning = found.blended, found.asked.meaning
    if row is None or meaning is None:
        return None
    blend = meaning.blend
    weights = [1 - blend.meaning, *shares_of_meaning(blend.meaning, [one.use.weight for one in meaning.spaces])]
    parts = zip(lists_of(found.asked), weights, row.ranks, row.list_scores, row.parts, strict=True)
    look = row.second_look
    return BlendPartModel(
        how=blend.how.value,
        kind=meaning.kind,
        meaning=blend.meaning,
        k=blend.k,
        normalise=blend.normalise.value,
        depth=blend.depth,
        score=row.score,
        lists=[
            ListPartModel(name=name, weight=weight, rank=rank, score=score, part=part)
            for name, weight, rank, score, part in parts
        ],
        formula=None if blend.formula is None or row.known is None else blend.formula.text,
        steps=[]
        if blend.formula is None or row.known is None
        else [StepModel(text=one.text, value=_shown(one.value)) for one in blend.formula.steps(row.known)],
        second_look=None
        if look is None or found.asked.ranker.second_stage is None
        else SecondLookModel(
            space=found.asked.ranker.second_stage.space,
            weight=found.asked.ranker.second_stage.weight,
            place=look.place,
            similarity=look.similarity.value,
            score=look.score,
            words=[
                WordMatchModel(
                    word=word, match=look.record_words[which] if which >= 0 else None, similarity=float(best)
                )
                for word, best, which in zip(
                    look.query_words, look.similarity.best.tolist(), look.similarity.which.tolist(), strict=True
                )
            ],
        ),
    )


def _shown(value: float) -> float | None:
    """None for a rank in a list that does not hold the record: JSON knows no infinity."""
    return value if isfinite(value) else None


def _reading_model(part: ReadingPart) -> ReadingPartModel:
    return ReadingPartModel(
        number=part.number,
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
        terms=[TermPartModel.model_validate(asdict(term) | {"kind": term.kind.value}) for term in part.terms],
        missing=list(part.missing),
    )
