"""What is told of kept rankers."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.ranking.rankers import SavedRanker, all_rankers, ranker_named
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class RankerTold:
    """A kept ranker. filled_in: its document with every default written out; by_person: who kept it, None where nobody
    signed in.

    chain_versions, list_versions: in which versions it reads the saved chains and word lists that it names without one.
    """

    name: str
    version: int
    document: dict[str, Any]
    filled_in: RankerDocument
    note: str
    created_at: datetime
    by_person: str | None
    chain_versions: dict[str, int]
    list_versions: dict[str, int]


def rankers_told(bench: Workbench, collection_name: str) -> list[RankerTold]:
    """Every version of every ranker, by name, newest version first."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection_name)
        return [ranker_told(saved) for saved in all_rankers(connection, kept.id)]


def ranker_with_name(bench: Workbench, collection_name: str, name: str, version: int | None) -> RankerTold:
    """A kept ranker, the newest version where none is named. Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection_name)
        return ranker_told(ranker_named(connection, kept.id, name, version))


def ranker_told(saved: SavedRanker) -> RankerTold:
    """A kept ranker as it is told."""
    return RankerTold(
        name=saved.name,
        version=saved.version,
        document=saved.document,
        filled_in=ranker_document(saved.document),
        note=saved.note,
        created_at=saved.created_at,
        by_person=saved.by_person,
        chain_versions=saved.chain_versions,
        list_versions=saved.list_versions,
    )
