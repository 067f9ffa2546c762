"""Drafts: rankers that are being edited, kept as they change, offered again, gone once they are kept or discarded."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pale_harbor.errors import HarborError
from pale_harbor.formats.ranker.differences import differences
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.ranking.drafts import KeptDraft, add_draft, change_draft, drafts_of, drop_draft
from pale_harbor.store.ranking.rankers import ranker_named
from pale_harbor.work.workbench import RankerChoice, Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftTold:
    """A draft that nobody kept. ranker, version: what it stands on; newest: the newest version when it was begun.

    says: what is different, in words; problem: why that cannot be told, as of a field that is gone.
    """

    id: int
    ranker: str
    version: int
    newest: int
    document: dict[str, Any]
    says: list[str]
    problem: str | None
    begun_at: datetime
    changed_at: datetime
    by_person: str | None
    revision: int


def drafts_told(bench: Workbench, collection_name: str) -> list[DraftTold]:
    """A collection's drafts, the latest changed first."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        found = drafts_of(connection, collection.id)
    return [_told(bench, collection, one) for one in found]


def begin_draft(bench: Workbench, collection_name: str, ranker: str, version: int, document: dict[str, Any]) -> int:
    """Keeps a draft that stands on a kept version; returns its id. Raises NotFound."""
    with bench.pool.connection() as connection, connection.transaction():
        collection = collection_named(connection, collection_name, lock=True)
        ranker_named(connection, collection.id, ranker, version)
        newest = ranker_named(connection, collection.id, ranker).version
        return add_draft(connection, collection.id, ranker, version, newest, document)


def go_on_with_draft(
    bench: Workbench, collection_name: str, draft_id: int, document: dict[str, Any], known: int | None = None
) -> int:
    """Keeps what a draft is now; returns its revision. known: the revision that whoever changes it knows of.

    Raises NotFound; Overtaken where somebody else changed it since.
    """
    with bench.pool.connection() as connection:
        return change_draft(connection, collection_named(connection, collection_name).id, draft_id, document, known)


def discard_draft(bench: Workbench, collection_name: str, draft_id: int) -> None:
    """Forgets a draft, if it is there."""
    with bench.pool.connection() as connection:
        drop_draft(connection, collection_named(connection, collection_name).id, draft_id)


def _told(bench: Workbench, collection: Collection, draft: KeptDraft) -> DraftTold:
    says: list[str] = []
    problem = None
    try:
        base = RankerChoice(draft.ranker, draft.version)
        before = bench.choose(collection, base)
        after = bench.choose(collection, RankerChoice(base.name, base.version, ranker_document(draft.document)))
        says = [one.words for one in differences(before.document, after.document, before.reads, after.reads)]
    except HarborError as error:
        problem = str(error)
    return DraftTold(
        id=draft.id,
        ranker=draft.ranker,
        version=draft.version,
        newest=draft.newest,
        document=draft.document,
        says=says,
        problem=problem,
        begun_at=draft.begun_at,
        changed_at=draft.changed_at,
        by_person=draft.by_person,
        revision=draft.revision,
    )
