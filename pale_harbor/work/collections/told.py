"""What is told of collections: their fields, how records are shown, their judged sets."""

from dataclasses import dataclass
from typing import Any

from psycopg import Connection

from pale_harbor.formats.display import DisplayDocument
from pale_harbor.store.collections.collections import (
    Collection,
    CollectionField,
    all_collections,
    collection_named,
    fields_of,
)
from pale_harbor.store.imports.imports import rejected_in_collection
from pale_harbor.store.judging.judged_sets import sets_of
from pale_harbor.store.records.records import record_count
from pale_harbor.work.workbench import Workbench, display_of


@dataclass(frozen=True, slots=True, kw_only=True)
class CollectionTold:
    """display: how a record is shown; rejected: rows of its imports that wait to be mended; judged_sets: by
    name; judged_revisions: their newest, by the name of the set."""

    name: str
    records: int
    rejected: int
    display: DisplayDocument
    revision: int
    fields: list[CollectionField]
    default_ranker: str | None
    judged_sets: list[str]
    judged_revisions: dict[str, int]


def collection_told(bench: Workbench, name: str) -> CollectionTold:
    """A collection as it is. Raises NotFound."""
    with bench.pool.connection() as connection:
        return _tell(connection, collection_named(connection, name))


def collections_told(bench: Workbench) -> list[CollectionTold]:
    """Every collection, by name."""
    with bench.pool.connection() as connection:
        return [_tell(connection, kept) for kept in all_collections(connection)]


def _tell(connection: Connection[Any], kept: Collection) -> CollectionTold:
    fields = fields_of(connection, kept.id)
    judged = sets_of(connection, kept.id)
    return CollectionTold(
        name=kept.name,
        records=record_count(connection, kept.id),
        rejected=rejected_in_collection(connection, kept.id),
        display=display_of(kept, fields),
        revision=kept.revision,
        fields=fields,
        default_ranker=kept.default_ranker,
        judged_sets=[judged_set.name for judged_set in judged],
        judged_revisions={judged_set.name: judged_set.revision for judged_set in judged},
    )
