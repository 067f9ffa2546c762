"""Exports a collection's records of one moment as a file."""

from collections.abc import Generator, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from pale_harbor.formats.pages.places_text import reference_in
from pale_harbor.formats.records.writing import (
    AllValues,
    ExportFormat,
    FieldValues,
    csv_lines,
    json_lines,
    write_parquet,
)
from pale_harbor.formats.whole_files import written_whole
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.page_places import places_kept
from pale_harbor.store.records.records import all_records


@contextmanager
def _records(pool: Pool, collection_name: str) -> Generator[tuple[AllValues, list[str], str | None]]:
    """The records of one moment, as often as they are asked for; the fields' names; the key's."""
    with pool.connection() as connection:
        in_one_state(connection)
        collection = collection_named(connection, collection_name)
        fields = fields_of(connection, collection.id)

        places = next((field.name for field in fields if field.role == "places"), None)

        def records() -> Iterator[FieldValues]:
            for record in all_records(connection, collection.id):
                own = reference_in(record.field_values.get(places)) if places is not None else None
                if places is None or own is None:
                    yield record.field_values
                else:
                    # Whoever loads the file has the places, too.
                    kept = places_kept(connection, collection.id, [own.digest]).get(own.digest)
                    yield record.field_values | ({} if kept is None else {places: kept})

        yield records, [field.name for field in fields], next((f.name for f in fields if f.is_key), None)


def exported_lines(pool: Pool, collection_name: str, file_format: ExportFormat) -> Iterator[bytes]:
    """The export's content, piece by piece; every format but Parquet is written as it is read."""
    with _records(pool, collection_name) as (records, names, key):
        if file_format == "jsonl":
            yield from json_lines(records)
        elif file_format == "csv":
            yield from csv_lines(records, names, key)
        else:
            with TemporaryDirectory() as folder:
                path = Path(folder) / "records.parquet"
                write_parquet(records, names, path)
                with path.open("rb") as file:
                    while piece := file.read(1 << 18):
                        yield piece


def export_to(pool: Pool, collection_name: str, file_format: ExportFormat, path: Path) -> int:
    """Writes an export, whole or not at all; returns its bytes. Raises BadInput."""
    with written_whole(path) as file:
        for piece in exported_lines(pool, collection_name, file_format):
            file.write(piece)
        return file.tell()
