"""Spaces over HTTP: made, filled, looked into; the lists that a blend is of, and which side of it is right."""

from typing import Annotated

from fastapi import Path

from pale_harbor.api.ranking.routes import choice_of, question_of
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, UploadFolder
from pale_harbor.api.spaces.models import (
    BringAnswer,
    BringRequest,
    FillRequest,
    ListsRequest,
    MapRequest,
    NeighboursRequest,
    SidesRequest,
    SpaceRequest,
    WantedModel,
)
from pale_harbor.core.measures import measure
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.sides import SidesFound, sides
from pale_harbor.work.ranking.lists import ListsFound, lists_of_question
from pale_harbor.work.spaces import making
from pale_harbor.work.spaces.filling import Cost, cost_of_filling
from pale_harbor.work.spaces.looks import Neighbour, SpaceMap, Wanted, neighbours, space_map
from pale_harbor.work.spaces.told import SpaceTold, space_told, spaces_told
from pale_harbor.work.workbench import display_of

router = guarded_router()

SpaceName = Annotated[str, Path(max_length=63)]


@router.get("/collections/{collection}/spaces")
def spaces(collection: str, bench: Bench) -> list[SpaceTold]:
    """A collection's spaces, by name."""
    return spaces_told(bench, collection)


@router.put("/collections/{collection}/spaces/{name}")
def make_space(collection: str, name: SpaceName, request: SpaceRequest, bench: Bench) -> SpaceTold:
    """Makes a space, and begins to fill it unless it asks a service. What a space is never changes."""
    making.make(bench, collection, name, request.document)
    return space_told(bench, collection, name)


@router.get("/collections/{collection}/spaces/{name}")
def space(collection: str, name: SpaceName, bench: Bench) -> SpaceTold:
    """A space, and how far its filling is."""
    return space_told(bench, collection, name)


@router.delete("/collections/{collection}/spaces/{name}", status_code=204)
def drop_space(collection: str, name: SpaceName, bench: Bench) -> None:
    """Drops a space with its vectors."""
    making.drop(bench, collection, name)


@router.post("/collections/{collection}/spaces/{name}/fill")
def fill_space(collection: str, name: SpaceName, request: FillRequest, bench: Bench) -> SpaceTold:
    """Begins to fill a space, or goes on where a filling ended."""
    making.fill(bench, collection, name, anew=request.anew)
    return space_told(bench, collection, name)


@router.post("/collections/{collection}/spaces/{name}/cancel")
def cancel_filling(collection: str, name: SpaceName, bench: Bench) -> SpaceTold:
    """Ends a filling. What a service gave so far is kept."""
    making.cancel(bench, collection, name)
    return space_told(bench, collection, name)


@router.get("/collections/{collection}/spaces/{name}/cost")
def cost(collection: str, name: SpaceName, bench: Bench) -> Cost:
    """What filling a space asks of its service, before it is asked."""
    return cost_of_filling(bench, collection, name)


@router.post("/collections/{collection}/spaces/{name}/brought")
def bring_vectors(
    collection: str, name: SpaceName, request: BringRequest, bench: Bench, folder: UploadFolder
) -> BringAnswer:
    """Keeps vectors of uploaded files, of records or of queries."""
    vectors, names = (folder.source(upload).path for upload in (request.vectors, request.names))
    _, kept, wrong = making.bring(bench, collection, name, request.about, vectors, names)
    return BringAnswer(space=space_told(bench, collection, name), kept=kept, wrong=wrong)


@router.post("/collections/{collection}/spaces/{name}/nearest")
def nearest_records(collection: str, name: SpaceName, request: NeighboursRequest, bench: Bench) -> list[Neighbour]:
    """The records nearest to words, or to liked records and away from disliked ones."""
    filters = [filter_of(one) for one in request.filters]
    return bench.with_collection(
        collection,
        lambda opened: neighbours(opened, name, _wanted_of(request), request.top, filters, request.at_least),
    )


@router.post("/collections/{collection}/spaces/{name}/map")
def map_of_space(collection: str, name: SpaceName, request: MapRequest, bench: Bench) -> SpaceMap:
    """A space laid on two directions, with what is looked for and its neighbours."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection)
        title = display_of(kept, fields_of(connection, kept.id)).title
    wanted = None if request.wanted is None else _wanted_of(request.wanted)
    return bench.with_collection(collection, lambda opened: space_map(opened, name, wanted, title))


@router.post("/collections/{collection}/lists")
def lists(collection: str, request: ListsRequest, bench: Bench) -> ListsFound:
    """The first rows by words, by each space, and blended."""

    def look(opened: OpenCollection) -> ListsFound:
        chosen = bench.choose(opened.collection, choice_of(request.ranker))
        return lists_of_question(opened, chosen.ranker, question_of(opened, request), request.top)

    return bench.with_collection(collection, look)


@router.post("/collections/{collection}/judged/{name}/sides")
def sides_of_blend(collection: str, name: str, request: SidesRequest, bench: Bench) -> SidesFound:
    """Words alone, meaning alone and the blend, measured on a judged set."""
    return sides(bench, collection, choice_of(request.ranker), name, measure(request.measure))


def _wanted_of(model: WantedModel) -> Wanted:
    return Wanted(model.text, tuple(model.liked), tuple(model.disliked))
