"""Loads a file of records into a collection, all in one transaction."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import structlog
from psycopg import Connection

from pale_harbor.errors import BadInput
from pale_harbor.formats.record_files import RecordRow, Reject, read_records
from pale_harbor.store.collections import (
    CollectionField,
    FieldKind,
    collection_named,
    fields_of,
    make_collection,
    put_fields,
)
from pale_harbor.store.records import merge_records


@dataclass(frozen=True, slots=True)
class LoadReport:
    """What became of a file's rows: read = added + updated + unchanged + rejected."""

    read: int
    added: int
    updated: int
    unchanged: int
    rejected: int
    rejects: list[Reject]


def load_file(connection: Connection[Any], path: Path, collection_name: str, key_field: str) -> LoadReport:
    """Adds a file's records to a collection, made where there is none. Good rows go in, bad ones are reported.

    Raises BadInput, with nothing stored, where the file as a whole cannot be used.
    """
    with connection.transaction():
        make_collection(connection, collection_name)
        collection = collection_named(connection, collection_name, lock=True)
        known = fields_of(connection, collection.id)
        _check_key(known, key_field, collection_name)
        incoming = _Incoming(read_records(path, key_field), known, key_field)
        merged = merge_records(connection, collection, incoming.good_rows())
        if merged.added or merged.updated:
            put_fields(connection, collection.id, incoming.fields())
    report = LoadReport(
        incoming.read,
        merged.added,
        merged.updated,
        merged.unchanged,
        len(incoming.rejects),
        incoming.rejects,
    )
    structlog.get_logger().info(
        "loaded",
        collection=collection_name,
        added=report.added,
        updated=report.updated,
        unchanged=report.unchanged,
        rejected=report.rejected,
    )
    return report


def _check_key(known: list[CollectionField], key_field: str, collection_name: str) -> None:
    current = next((known_field.name for known_field in known if known_field.is_key), None)
    if current is not None and current != key_field:
        raise BadInput(f'The key of "{collection_name}" is the field "{current}", not "{key_field}".')


@dataclass(slots=True)
class _Incoming:
    """The rows on their way in: bad ones set aside, fields and their kinds noted."""

    rows: Iterator[RecordRow | Reject]
    known: list[CollectionField]
    key_field: str
    read: int = 0
    rejects: list[Reject] = field(default_factory=list[Reject])
    kinds: dict[str, FieldKind | None] = field(default_factory=dict[str, FieldKind | None])
    lines: dict[str, int] = field(default_factory=dict[str, int])

    def __post_init__(self) -> None:
        self.kinds = {known_field.name: known_field.kind for known_field in self.known}

    def good_rows(self) -> Iterator[tuple[str, bytes, dict[str, Any]]]:
        for row in self.rows:
            self.read += 1
            if isinstance(row, Reject):
                self.rejects.append(row)
            elif row.key in self.lines:
                reason = f'the key "{row.key}" was already on line {self.lines[row.key]} of this file.'
                self.rejects.append(Reject(row.line, reason, row.key))
            else:
                self.lines[row.key] = row.line
                self._note_kinds(row.values)
                yield row.key, row.content_hash, row.values

    def fields(self) -> list[CollectionField]:
        return [CollectionField(name, kind or "text", name == self.key_field) for name, kind in self.kinds.items()]

    def _note_kinds(self, values: dict[str, Any]) -> None:
        for name, value in values.items():
            kind = self.kinds.get(name)
            for item in value if isinstance(value, list) else [value]:
                found = _kind(item)
                if found is not None:
                    kind = found if kind in (None, found) else "text"
            self.kinds[name] = kind


def _kind(value: Any) -> FieldKind | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "flag"
    return "number" if isinstance(value, int | float) else "text"
