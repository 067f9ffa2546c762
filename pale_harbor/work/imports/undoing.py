"""An import undone: the records that it touched are again what they were, but for those that others touched since."""

from dataclasses import asdict, dataclass
from typing import Any

from pale_harbor.errors import BadInput
from pale_harbor.formats.records import ImportPlan, import_plan
from pale_harbor.store.collections.collections import CollectionField, collection_named, fields_of, put_fields
from pale_harbor.store.database import Pool
from pale_harbor.store.following.sources import refuse_followed
from pale_harbor.store.imports.earlier import count_ended_by, gather_earlier, keys_begun_by
from pale_harbor.store.imports.imports import import_with_id, note_undone
from pale_harbor.store.imports.incoming import delete_records, gathered_values, merge_gathered
from pale_harbor.work.records.fields_after import fields_after, fields_seen_in


@dataclass(frozen=True, slots=True, kw_only=True)
class Undone:
    """What undoing an import came to, in records.

    restored: changed back, or there again; removed: those that it had added; kept: those that are otherwise than it
    left them, because somebody changed or deleted them since; they stay as they are.
    """

    restored: int
    removed: int
    kept: int


def undo_import(pool: Pool, job_id: int) -> Undone:
    """Makes what an import and the mending of its rows did undone, in one transaction.

    Raises BadInput where there is nothing to undo, NotFound.
    """
    with pool.connection() as connection, connection.transaction():
        now = import_with_id(connection, job_id)
        collection = collection_named(connection, now.collection, lock=True)
        refuse_followed(connection, collection.id)
        # Read again, held: nobody else undoes it meanwhile.
        now = import_with_id(connection, job_id)
        if now.undone is not None:
            raise BadInput("This import was undone already.")
        if not now.revisions or now.fields is None:
            raise BadInput("This import changed nothing that could be undone.")
        restored = removed = kept = 0
        plan = import_plan(now.plan)
        for revision in now.revisions:
            begun, touched = keys_begun_by(connection, collection, revision)
            ended = count_ended_by(connection, collection, revision)
            gather_earlier(connection, collection, revision)
            known = fields_of(connection, collection.id)
            seen = fields_seen_in(gathered_values(connection), plan.key)
            merged = merge_gathered(connection, collection, replace=False)
            if merged.changed:
                put_fields(connection, collection.id, fields_after(known, seen, ImportPlan(key=plan.key)))
            came_back = merged.added + merged.updated
            collection = collection_named(connection, now.collection)
            removed += delete_records(connection, collection, begun)
            collection = collection_named(connection, now.collection)
            restored += came_back
            kept += touched + ended - came_back - merged.unchanged
        if collection.fingerprint == now.fields["fingerprint"]:
            put_fields(connection, collection.id, _fields_before(now.fields, fields_of(connection, collection.id)))
        undone = Undone(restored=restored, removed=removed, kept=kept)
        note_undone(connection, job_id, asdict(undone))
    return undone


def _fields_before(fields: dict[str, Any], now: list[CollectionField]) -> list[CollectionField]:
    """The fields as they were before an import, but for those that somebody changed since."""
    before = {one["name"]: CollectionField(**one) for one in fields["before"]}
    after = {one["name"]: CollectionField(**one) for one in fields["after"]}
    kept: list[CollectionField] = []
    for one in now:
        if after.get(one.name) != one:
            kept.append(one)
        elif one.name in before:
            kept.append(before[one.name])
    return kept
