"""Spaces over HTTP: made, filled, looked into; the lists that a blend is of, and which side of it is right."""

from dataclasses import asdict
from typing import Annotated

from fastapi import Path

from pale_harbor.api.ranking.models import PassageModel
from pale_harbor.api.ranking.routes import choice_of, question_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, UploadFolder
from pale_harbor.api.spaces.models import (
    BringAnswer,
    BringRequest,
    CostAnswer,
    FillRequest,
    ListedRowModel,
    ListsAnswer,
    ListsRequest,
    MapAnswer,
    MapRequest,
    NeighbourModel,
    NeighboursAnswer,
    NeighboursRequest,
    PointModel,
    SidesRequest,
    SpaceModel,
    SpaceReport,
    SpaceRequest,
    WantedModel,
)
from pale_harbor.core.measures import measure
from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.naming import named_spaces
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.formats.space_document import space_document
from pale_harbor.store.collections.collections import Collection, collection_named, fields_of
from pale_harbor.store.ranking.rankers import all_rankers
from pale_harbor.store.spaces.spaces import Space, spaces_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.sides import SidesFound, sides
from pale_harbor.work.ranking.lists import ListsFound, lists_of_question
from pale_harbor.work.spaces import making
from pale_harbor.work.spaces.filling import cost_of_filling
from pale_harbor.work.spaces.looks import Wanted, neighbours, space_map
from pale_harbor.work.workbench import Workbench, display_of

router = guarded_router()

SpaceName = Annotated[str, Path(max_length=63)]


@router.get("/collections/{collection}/spaces")
def spaces(collection: str, bench: Bench) -> list[SpaceModel]:
    """A collection's spaces, by name."""
    return _models(bench, collection)


@router.put("/collections/{collection}/spaces/{name}")
def make_space(collection: str, name: SpaceName, request: SpaceRequest, bench: Bench) -> SpaceModel:
    """Makes a space, and begins to fill it unless it asks a service. What a space is never changes."""
    making.make(bench, collection, name, request.document)
    return _model(bench, collection, name)


@router.get("/collections/{collection}/spaces/{name}")
def space(collection: str, name: SpaceName, bench: Bench) -> SpaceModel:
    """A space, and how far its filling is."""
    return _model(bench, collection, name)


@router.delete("/collections/{collection}/spaces/{name}", status_code=204)
def drop_space(collection: str, name: SpaceName, bench: Bench) -> None:
    """Drops a space with its vectors."""
    making.drop(bench, collection, name)


@router.post("/collections/{collection}/spaces/{name}/fill")
def fill_space(collection: str, name: SpaceName, request: FillRequest, bench: Bench) -> SpaceModel:
    """Begins to fill a space, or goes on where a filling ended."""
    making.fill(bench, collection, name, anew=request.anew)
    return _model(bench, collection, name)


@router.post("/collections/{collection}/spaces/{name}/cancel")
def cancel_filling(collection: str, name: SpaceName, bench: Bench) -> SpaceModel:
    """Ends a filling. What a service gave so far is kept."""
    making.cancel(bench, collection, name)
    return _model(bench, collection, name)


@router.get("/collections/{collection}/spaces/{name}/cost")
def cost(collection: str, name: SpaceName, bench: Bench) -> CostAnswer:
    """What filling a space asks of its service, before it is asked."""
    found = cost_of_filling(bench, collection, name)
    model = found.model
    return CostAnswer(
        **{key: value for key, value in asdict(found).items() if key != "model"},
        model=model.model,
        dimensions=model.dimensions,
        price=None if model.price is None else found.words / 1_000 * model.price,
        currency=model.currency,
    )


@router.post("/collections/{collection}/spaces/{name}/brought")
def bring_vectors(
    collection: str, name: SpaceName, request: BringRequest, bench: Bench, folder: UploadFolder
) -> BringAnswer:
    """Keeps vectors of uploaded files, of records or of queries."""
    vectors, names = (folder.source(upload).path for upload in (request.vectors, request.names))
    _, kept, wrong = making.bring(bench, collection, name, request.about, vectors, names)
    return BringAnswer(space=_model(bench, collection, name), kept=kept, wrong=wrong)


@router.post("/collections/{collection}/spaces/{name}/nearest")
def nearest_records(collection: str, name: SpaceName, request: NeighboursRequest, bench: Bench) -> NeighboursAnswer:
    """The records nearest to words, or to liked records and away from disliked ones."""
    filters = [filter_of(one) for one in request.filters]
    found = bench.with_collection(
        collection,
        lambda opened: neighbours(opened, name, _wanted(request), request.top, filters, request.at_least),
    )
    return NeighboursAnswer(
        neighbours=[
            NeighbourModel(
                rank=one.rank,
                key=one.key,
                similarity=one.similarity,
                passage=None if one.passage is None else PassageModel.model_validate(asdict(one.passage)),
                field_values=one.record.field_values if one.record else {},
            )
            for one in found
        ]
    )


@router.post("/collections/{collection}/spaces/{name}/map")
def map_of_space(collection: str, name: SpaceName, request: MapRequest, bench: Bench) -> MapAnswer:
    """A space laid on two directions, with what is looked for and its neighbours."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        title = display_of(kept, fields_of(connection, kept.id)).title
    wanted = None if request.wanted is None else _wanted(request.wanted)
    found = bench.with_collection(collection, lambda opened: space_map(opened, name, wanted, title))
    return MapAnswer(
        points=[PointModel.model_validate(asdict(point)) for point in found.points],
        wanted=found.wanted,
        kept=found.kept,
        records=found.vectors,
    )


@router.post("/collections/{collection}/lists")
def lists(collection: str, request: ListsRequest, bench: Bench) -> ListsAnswer:
    """The first rows by words, by each space, and blended."""

    def look(opened: OpenCollection) -> ListsFound:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return lists_of_question(opened, chosen.ranker, question_of(opened, request), request.top)

    found = bench.with_collection(collection, look)
    return ListsAnswer(
        names=found.names,
        lists=[[ListedRowModel.model_validate(asdict(row)) for row in rows] for rows in found.lists],
        field_values={key: record.field_values for key, record in found.records.items()},
        kind=found.kind,
        notes=found.notes,
    )


@router.post("/collections/{collection}/judged/{name}/sides")
def sides_of_blend(collection: str, name: str, request: SidesRequest, bench: Bench) -> SidesFound:
    """Words alone, meaning alone and the blend, measured on a judged set."""
    return sides(bench, collection, choice_of(request.ranker), name, measure(request.measure))


def _wanted(model: WantedModel) -> Wanted:
    return Wanted(model.text, tuple(model.liked), tuple(model.disliked))


def _models(bench: Workbench, collection_name: str) -> list[SpaceModel]:
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        asking: dict[str, set[str]] = {}
        for saved in all_rankers(connection, collection.id):
            for _, asked in named_spaces(ranker_document(saved.document)):
                asking.setdefault(asked, set()).add(saved.name)
        return [
            _space_model(one, collection, sorted(asking.get(one.name, ())))
            for one in spaces_of(connection, collection.id)
        ]


def _model(bench: Workbench, collection_name: str, name: str) -> SpaceModel:
    found = next((one for one in _models(bench, collection_name) if one.name == name), None)
    if found is None:
        raise NotFound(f'There is no space "{name}".')
    return found


def _space_model(own: Space, collection: Collection, asked_by: list[str]) -> SpaceModel:
    document = space_document(own.document)
    return SpaceModel(
        name=own.name,
        document=document,
        model=own.model,
        dimensions=own.dimensions,
        state=own.state,
        phase=own.phase,
        done=own.done,
        in_all=own.in_all,
        problem=own.problem,
        report=None if own.report is None else SpaceReport.model_validate(own.report),
        behind=own.records_revision is not None and own.records_revision != collection.revision,
        word_vectors=document.source.kind in ("learned", "packaged"),
        asked_by=asked_by,
    )
