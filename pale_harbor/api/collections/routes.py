"""Collections and records over HTTP."""

from typing import Annotated

from fastapi import Query

from pale_harbor.api.models import CollectionModel, FieldModel, RecordModel
from pale_harbor.api.records.models import NameRequest
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.imports.imports import rejected_in_collection
from pale_harbor.store.judging.judged_sets import sets_of
from pale_harbor.store.records.records import first_key, keys_around, record_count, record_with_key
from pale_harbor.work.workbench import display_of

router = guarded_router()


@router.get("/collections")
def collections(bench: Bench) -> list[CollectionModel]:
    """Every collection, by name."""
    return [collection(kept.name, bench) for kept in bench.collections()]


@router.post("/collections")
def make(request: NameRequest, bench: Bench) -> CollectionModel:
    """Makes an empty collection."""
    bench.make_collection(request.name)
    return collection(request.name, bench)


@router.get("/collections/{name}")
def collection(name: str, bench: Bench) -> CollectionModel:
    """A collection: its fields, default ranker and judged sets."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        fields = fields_of(connection, kept.id)
        return CollectionModel(
            name=kept.name,
            records=record_count(connection, kept.id),
            rejected=rejected_in_collection(connection, kept.id),
            display=display_of(kept, fields),
            revision=kept.revision,
            fields=[
                FieldModel(
                    name=field.name,
                    kind=field.kind,
                    several=field.several,
                    role=field.role,
                    is_key=field.is_key,
                    passages=field.passages,
                )
                for field in fields
            ],
            default_ranker=kept.default_ranker,
            judged_sets=[judged_set.name for judged_set in sets_of(connection, kept.id)],
        )


@router.post("/collections/{name}/copy")
def copy(name: str, request: NameRequest, bench: Bench) -> CollectionModel:
    """Copies a collection under another name, its rankers and judged sets included."""
    bench.copy_collection(name, request.name)
    return collection(request.name, bench)


@router.put("/collections/{name}/name")
def rename(name: str, request: NameRequest, bench: Bench) -> CollectionModel:
    """Gives a collection another name."""
    bench.rename_collection(name, request.name)
    return collection(request.name, bench)


@router.delete("/collections/{name}")
def drop(name: str, confirm: Annotated[str, Query(max_length=63)], bench: Bench) -> None:
    """Drops a collection with all that belongs to it; `confirm` must be its name. This cannot be undone."""
    if confirm != name:
        raise BadInput(f'"{confirm}" is not "{name}": nothing was dropped.')
    bench.drop_collection(name)


@router.get("/collections/{name}/record")
def record(name: str, bench: Bench, key: Annotated[str | None, Query(max_length=500)] = None) -> RecordModel:
    """A record by its key, the first one where no key is given."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        wanted = key if key is not None else first_key(connection, kept.id)
        if wanted is None:
            raise NotFound(f'The collection "{name}" has no records yet.')
        found = record_with_key(connection, kept, wanted)
        before, after = keys_around(connection, kept.id, found.key)
    return RecordModel(
        key=found.key,
        revision=found.revision,
        field_values=found.field_values,
        key_before=before,
        key_after=after,
    )
