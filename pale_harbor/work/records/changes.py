"""Records put and deleted one by one or a few at a time: in one transaction, searchable with the next query."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from psycopg import Connection

from pale_harbor.errors import BadInput, Overtaken
from pale_harbor.formats.pages.places_text import reference_in
from pale_harbor.formats.records import ImportPlan, RawRow
from pale_harbor.formats.records.conversion import RecordRow, Unfit, content_hash, record_of
from pale_harbor.formats.records.filling_in import filled_in
from pale_harbor.formats.storable import unstorable
from pale_harbor.store.collections.collections import collection_named, fields_of, put_fields
from pale_harbor.store.database import Pool
from pale_harbor.store.following.sources import refuse_followed
from pale_harbor.store.imports.earlier import gather_deleted
from pale_harbor.store.imports.incoming import (
    delete_records,
    gathered_values,
    keying_field,
    merge_gathered,
    merge_rows,
)
from pale_harbor.store.records.page_places import keep_places
from pale_harbor.store.records.records import earlier_states, records_with_keys
from pale_harbor.work.ranking.default_ranker import put_default_ranker
from pale_harbor.work.records.fields_after import fields_after, fields_seen_in
from pale_harbor.work.records.pages import corrected_record, with_places_of_now


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """What a change came to, and the revision of the records since."""

    added: int
    updated: int
    unchanged: int
    deleted: int
    revision: int


def put_records(
    pool: Pool, collection_name: str, rows: list[dict[str, Any]], seen: Mapping[str, int] | None = None
) -> Changed:
    """Adds or replaces records, all or none. seen: by key, the revision in which whoever changes a record saw it.

    Raises BadInput that names every row that is wrong; Overtaken where somebody else changed what was seen.
    """
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        known = fields_of(connection, collection.id)
    key = next((one.name for one in known if one.is_key), None)
    if known and key is None:
        raise BadInput(
            f'The records of "{collection_name}" are known by the numbers of their rows, not by a key. '
            "Import the collection with a key field to change its records one by one."
        )
    if key is None:
        raise BadInput(f'"{collection_name}" has no records and no key field yet. Import some first.')
    plan = ImportPlan(key=key)
    return keep_records(pool, collection_name, _records(rows, plan), plan, seen or {})


def keep_records(
    pool: Pool,
    collection_name: str,
    records: list[RecordRow],
    plan: ImportPlan,
    seen: Mapping[str, int] = MappingProxyType({}),
) -> Changed:
    """Adds, replaces or (by the plan) fills in records that were read already, in one transaction.

    Raises Overtaken where one of those that were seen in a revision is in another one by now; BadInput where they
    follow a live database.
    """
    with pool.connection() as connection, connection.transaction():
        collection = collection_named(connection, collection_name, lock=True)
        refuse_followed(connection, collection.id)
        if seen:
            _refuse_overtaken(connection, collection.id, seen)
        if plan.fill_in:
            there = records_with_keys(connection, collection.id, [one.key for one in records])
            records = [_filled(one, there[one.key].field_values) if one.key in there else one for one in records]
        records = _with_places(connection, collection.id, records)
        merged = merge_rows(connection, collection, [(one.key, one.content_hash, one.values) for one in records])
        if merged.changed:
            known = fields_of(connection, collection.id)
            fields = fields_after(known, fields_seen_in((one.values for one in records), plan.key), plan)
            if fields != known:
                put_fields(connection, collection.id, fields)
        put_default_ranker(connection, collection_named(connection, collection_name))
    return Changed(
        added=merged.added,
        updated=merged.updated,
        unchanged=merged.unchanged,
        deleted=0,
        revision=collection.revision + int(merged.changed),
    )


def correct_word(pool: Pool, collection_name: str, key: str, seen: int, start: int, end: int, letters: str) -> Changed:
    """Gives the letters from start to before end of a page's text others; its places go with it.

    seen: the revision in which whoever does it saw the record. Raises NotFound, BadInput, Overtaken.
    """
    values = corrected_record(pool, collection_name, key, start, end, letters)
    return put_records(pool, collection_name, [values], {key: seen})


def remove_records(pool: Pool, collection_name: str, keys: list[str]) -> Changed:
    """Deletes records by key; keys that no record has are passed over. Raises BadInput where they follow a database."""
    with pool.connection() as connection, connection.transaction():
        collection = collection_named(connection, collection_name, lock=True)
        refuse_followed(connection, collection.id)
        deleted = delete_records(connection, collection, [key for key in keys if unstorable(key) is None])
        return Changed(
            added=0, updated=0, unchanged=0, deleted=deleted, revision=collection.revision + int(deleted > 0)
        )


def restore_record(pool: Pool, collection_name: str, key: str, ended_revision: int) -> Changed:
    """Makes a record again what it was until a revision, whether it was changed then or deleted.

    Raises NotFound, BadInput where it had no such state.
    """
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        states = earlier_states(connection, collection.id, key)
    state = next((state for state in states if state.ended_revision == ended_revision), None)
    if state is None:
        raise BadInput(f'The record "{key[:200]}" had no state that ended with revision {ended_revision}.')
    return put_records(pool, collection_name, [state.field_values])


def restore_deleted(
    pool: Pool, collection_name: str, *, keys: list[str] | None = None, ended_revision: int | None = None
) -> Changed:
    """Brings deleted records back as they were last, in one step: some by key, or all that a revision deleted.

    All where neither is told. Keys that are not those of deleted records are passed over. Raises NotFound.
    """
    if keys is not None:
        keys = [key for key in keys if unstorable(key) is None]
    with pool.connection() as connection, connection.transaction():
        collection = collection_named(connection, collection_name, lock=True)
        refuse_followed(connection, collection.id)
        gather_deleted(connection, collection, keys=keys, ended_revision=ended_revision)
        known = fields_of(connection, collection.id)
        key = next((one.name for one in known if one.is_key), None)
        if not known:
            # The import that brought them was undone, and their fields with it.
            key = keying_field(connection)
        fields = fields_after(known, fields_seen_in(gathered_values(connection), key), ImportPlan(key=key))
        merged = merge_gathered(connection, collection, replace=False)
        if merged.changed and fields != known:
            put_fields(connection, collection.id, fields)
        return Changed(
            added=merged.added, updated=0, unchanged=0, deleted=0, revision=collection.revision + int(merged.changed)
        )


def _refuse_overtaken(connection: Connection[Any], collection_id: int, seen: Mapping[str, int]) -> None:
    there = records_with_keys(connection, collection_id, list(seen))
    for key, revision in seen.items():
        now = there.get(key)
        if now is not None and now.revision == revision:
            continue
        ended = next((one for one in earlier_states(connection, collection_id, key) if one.revision == revision), None)
        who = (ended.by_person if ended is not None else None) or "Somebody"
        did = "deleted" if now is None else "changed"
        raise Overtaken(
            f'{who} {did} the record "{key[:100]}" meanwhile. Look at it as it is now: what you wrote is still here, '
            "and was not kept."
        )


def _with_places(connection: Connection[Any], collection_id: int, records: list[RecordRow]) -> list[RecordRow]:
    """Records with their places kept, which follow a text that was changed."""
    referring = [one.key for one in records if any(map(reference_in, one.values.values()))]
    if not referring:
        return records
    there = records_with_keys(connection, collection_id, referring)
    found = [
        with_places_of_now(connection, collection_id, one, there[one.key].field_values) if one.key in there else one
        for one in records
    ]
    keep_places(connection, collection_id, {digest: own for one in found for digest, own in one.places.items()})
    return found


def _filled(record: RecordRow, values: dict[str, Any]) -> RecordRow:
    filled = filled_in(values, record.values)
    return RecordRow(record.key, filled, content_hash(record.key, filled), record.places)


def _records(rows: list[dict[str, Any]], plan: ImportPlan) -> list[RecordRow]:
    records: list[RecordRow] = []
    keys: set[str] = set()
    problems: list[tuple[str, str]] = []
    for number, values in enumerate(rows, start=1):
        try:
            record = record_of(RawRow(number, values), number, plan)
        except Unfit as unfit:
            problems.append((f"record {number}", str(unfit)))
            continue
        if record.key in keys:
            problems.append((f"record {number}", f'the key "{record.key}" stands here twice.'))
        keys.add(record.key)
        records.append(record)
    if problems:
        raise BadInput("These records cannot be kept; none was.", problems)
    return records
