"""What records are called, for lists that speak of records without showing them."""

from collections.abc import Iterable, Mapping
from typing import Any

from psycopg import Connection

from pale_harbor.store.collections.collections import Collection, fields_of
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.workbench import display_of


def titles_of(connection: Connection[Any], collection: Collection, keys: Iterable[str]) -> dict[str, str]:
    """By key, as the collection's display says; the key where a record has no title. Records that are gone are left
    out."""
    field = display_of(collection, fields_of(connection, collection.id)).title
    records = records_with_keys(connection, collection.id, sorted(set(keys)))
    return {key: _title(record.field_values, field) or key for key, record in records.items()}


def _title(values: Mapping[str, object], field: str | None) -> str:
    value = values.get(field) if field is not None else None
    return str(value[0] if isinstance(value, list) and value else value or "")
