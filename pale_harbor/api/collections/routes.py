"""Collections and records over HTTP."""

from typing import Annotated

from fastapi import Query

from pale_harbor.api.records.models import NameRequest
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.errors import BadInput
from pale_harbor.work.collections.told import CollectionTold, collection_told, collections_told
from pale_harbor.work.people.asking import need, who_asks
from pale_harbor.work.people.changes import note_change
from pale_harbor.work.people.rights import Right
from pale_harbor.work.records.looking import RecordAmongOthers, record_among_others

router = guarded_router()


@router.get("/collections")
def collections(bench: Bench) -> list[CollectionTold]:
    """Every collection that whoever asks may look at, by name."""
    guest = who_asks()
    return [one for one in collections_told(bench) if guest.may(Right.LOOK, one.name)]


@router.post("/collections")
def make(request: NameRequest, bench: Bench) -> CollectionTold:
    """Makes an empty collection."""
    bench.make_collection(request.name)
    return collection_told(bench, request.name)


@router.get("/collections/{name}")
def collection(name: str, bench: Bench) -> CollectionTold:
    """A collection: its fields, default ranker and judged sets."""
    return collection_told(bench, name)


@router.post("/collections/{name}/copy")
def copy(name: str, request: NameRequest, bench: Bench) -> CollectionTold:
    """Copies a collection under another name, its rankers and judged sets included."""
    need(Right.MAKE)
    bench.copy_collection(name, request.name)
    return collection_told(bench, request.name)


@router.put("/collections/{name}/name")
def rename(name: str, request: NameRequest, bench: Bench) -> CollectionTold:
    """Gives a collection another name."""
    bench.rename_collection(name, request.name)
    # Under the name that it has from then on.
    note_change(bench.pool, request.name, "Gives a collection another name", f"{name} to {request.name}")
    return collection_told(bench, request.name)


@router.delete("/collections/{name}")
def drop(name: str, confirm: Annotated[str, Query(max_length=63)], bench: Bench) -> None:
    """Drops a collection with all that belongs to it; `confirm` must be its name. This cannot be undone."""
    if confirm != name:
        raise BadInput(f'"{confirm}" is not "{name}": nothing was dropped.')
    bench.drop_collection(name)


@router.get("/collections/{name}/record")
def record(name: str, bench: Bench, key: Annotated[str | None, Query(max_length=500)] = None) -> RecordAmongOthers:
    """A record by its key, the first one where no key is given."""
    return record_among_others(bench.pool, name, key)
