"""Rankers, searching and why over HTTP."""

from collections.abc import Sequence
from typing import Annotated

from fastapi import Path, Query

from pale_harbor.api.models import NoteRequest, RankerChoiceModel, RankerRequest
from pale_harbor.api.ranking.models import (
    DifferencesAnswer,
    DifferencesRequest,
    LettersRequest,
    ListPassagesRequest,
    QuestionModel,
    SearchRequest,
    WhyRequest,
)
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.forms import field_order
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.rankers import put_note
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking import one_look
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.letter_by_letter import LettersPlayed, play
from pale_harbor.work.ranking.near_words import WordAround, words_around
from pale_harbor.work.ranking.passages import ListPassages, PassagesWanted, list_passages
from pale_harbor.work.ranking.rankers_told import RankerTold, ranker_told, ranker_with_name, rankers_told
from pale_harbor.work.ranking.searching import FacetWanted, Found, Telling, WhyRecord, why_record
from pale_harbor.work.ranking.stages_of_readings import StageTold, stages_told
from pale_harbor.work.ranking.why_not import WhyNot, why_not
from pale_harbor.work.ranking.why_told import WhyNotTold, WhyTold, why_not_told, why_told
from pale_harbor.work.workbench import RankerChoice

router = guarded_router()


@router.get("/collections/{collection}/rankers")
def rankers(collection: str, bench: Bench) -> list[RankerTold]:
    """Every version of every ranker, by name, newest version first."""
    return rankers_told(bench, collection)


@router.get("/collections/{collection}/rankers/{name}")
def ranker(
    collection: str, name: str, bench: Bench, version: Annotated[int | None, Query(ge=1, le=2**31 - 1)] = None
) -> RankerTold:
    """A kept ranker, the newest version where none is named."""
    return ranker_with_name(bench, collection, name, version)


@router.put("/collections/{collection}/rankers/{name}")
def put_ranker(collection: str, name: str, request: RankerRequest, bench: Bench) -> RankerTold:
    """Keeps a ranker as a new version of its name."""
    source = request.branched_from or name
    based_on = RankerChoice(source, request.based_on) if request.based_on is not None else None
    saved = bench.put_ranker(
        collection, name, request.document, request.note, based_on, request.newest_known, request.draft
    )
    return ranker_told(saved)


@router.put("/collections/{collection}/rankers/{name}/{version}/note")
def put_ranker_note(
    collection: str, name: str, version: Annotated[int, Path(ge=1, le=2**31 - 1)], request: NoteRequest, bench: Bench
) -> RankerTold:
    """Says in other words why a version was kept."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        return ranker_told(put_note(connection, kept.id, name, version, request.note))


@router.post("/collections/{collection}/rankers/differences")
def ranker_differences(collection: str, request: DifferencesRequest, bench: Bench) -> DifferencesAnswer:
    """What is different between two rankers, in words."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
    before, after = (bench.choose(kept, choice_of(one)) for one in (request.before, request.after))
    found = differences(before.document, after.document, before.reads, after.reads)
    return DifferencesAnswer(differences=found)


@router.post("/collections/{collection}/rankers/stages")
def ranker_stages(collection: str, request: RankerChoiceModel, bench: Bench) -> list[StageTold]:
    """The stages of a ranker's chains, each with its chain as it would be without it."""
    return stages_told(bench, collection, choice_of(request))


@router.post("/collections/{collection}/search")
def search(collection: str, request: SearchRequest, bench: Bench) -> Found:
    """A page of the list for a query, with marks, facets, and where scores came from."""
    wanted = [FacetWanted(one.field, one.most, one.step) for one in request.facets]
    fields = [one.field for one in request.facets]

    def question(opened: OpenCollection) -> Question:
        return question_of(opened, request, fields)

    own = request.passages
    passages = None if own is None else PassagesWanted(own.length, own.most)
    telling = Telling(passages, request.offsets == "utf16")
    choice = choice_of(request.ranker)
    return one_look.search(bench, collection, choice, question, request.top, request.skip, wanted, telling)


@router.post("/collections/{collection}/search/passages")
def passages_of_list(collection: str, request: ListPassagesRequest, bench: Bench) -> ListPassages:
    """The best passages of a list over all of its records, within so many letters, without repeats."""

    def work(opened: OpenCollection) -> ListPassages:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        wanted = PassagesWanted(request.length, request.most)
        question, utf16 = question_of(opened, request), request.offsets == "utf16"
        return list_passages(opened, chosen.ranker, question, request.letters, wanted, request.records, utf16)

    return bench.with_collection(collection, work)


@router.post("/collections/{collection}/letters")
def letters(collection: str, request: LettersRequest, bench: Bench) -> LettersPlayed:
    """A query played letter by letter: what each letter does to the list, and when the wanted record arrives."""

    def work(opened: OpenCollection) -> LettersPlayed:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return play(opened, chosen.ranker, question_of(opened, request), request.wanted, request.first)

    return bench.with_collection(collection, work)


@router.post("/collections/{collection}/why")
def why(collection: str, request: WhyRequest, bench: Bench) -> WhyTold:
    """The arithmetic of one record's score, and its rank."""

    def work(opened: OpenCollection) -> WhyRecord:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return why_record(opened, chosen.ranker, question_of(opened, request), request.key)

    return why_told(request.key, bench.with_collection(collection, work))


@router.post("/collections/{collection}/why-not")
def why_a_record_is_missing(collection: str, request: WhyRequest, bench: Bench) -> WhyNotTold:
    """What keeps a record out of a list, and which change of the ranker would bring it in."""

    def work(opened: OpenCollection) -> tuple[WhyNot, list[str]]:
        choice = choice_of(request.ranker)
        chosen = bench.choose(opened.collection, choice)
        found = why_not(bench, opened, choice, question_of(opened, request), request.key)
        return found, [reading.field for reading in chosen.ranker.readings]

    return why_not_told(request.key, *bench.with_collection(collection, work))


@router.post("/collections/{collection}/near-words")
def near_words(collection: str, request: SearchRequest, bench: Bench) -> list[WordAround]:
    """The terms around each word of a query, and which of them spelling slack takes."""

    def work(opened: OpenCollection) -> list[WordAround]:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return words_around(opened, chosen.ranker, question_of(opened, request))

    return bench.with_collection(collection, work)


def question_of(opened: OpenCollection, request: QuestionModel, also: Sequence[str] = ()) -> Question:
    """The question of a request. Raises BadInput for fields that the collection does not have."""
    known = opened.field_names
    sort = tuple(field_order(name) for name in request.sort)
    used = [one.whole["field"] for one in request.filters] + [by.field for by in sort] + list(also)
    problems = [(name, hint(nearest_name(name, known), known)) for name in used if name not in known]
    if problems and known:
        raise BadInput("The collection does not have these fields.", problems)
    filters = tuple(filter_of(one) for one in request.filters)
    return Question(request.query, filters, request.language, sort, request.typed, request.as_said)


def choice_of(model: RankerChoiceModel) -> RankerChoice:
    """Which ranker is meant, as the layers below take it."""
    return RankerChoice(model.name, model.version, model.document, bool(model.exactly))
