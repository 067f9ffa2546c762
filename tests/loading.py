"""Puts rows into a collection, as every test of what is done with records begins."""

from pathlib import Path
from typing import Any

import orjson

from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.database import Pool
from pale_harbor.work.imports.importing import ImportReport, import_now
from pale_harbor.work.imports.sources import FileSource

Rows = list[dict[str, Any]]


def file_of(folder: Path, rows: Rows, name: str = "records.jsonl") -> Path:
    """A JSON Lines file of rows."""
    path = folder / name
    path.write_bytes(b"".join(orjson.dumps(row) + b"\n" for row in rows))
    return path


def load_path(pool: Pool, path: Path, collection: str = "coast", plan: ImportPlan | None = None) -> ImportReport:
    """What an import of a file came to; the key is the field `id` unless a plan says otherwise."""
    return import_now(pool, collection, FileSource(Source(path)), plan or ImportPlan(key="id"))


def load_rows(pool: Pool, folder: Path, rows: Rows, collection: str = "coast") -> ImportReport:
    """What an import of rows came to."""
    return load_path(pool, file_of(folder, rows), collection)


def reweighted(document: RankerDocument, weight: float) -> RankerDocument:
    """The same ranker, its first reading with another weight."""
    first, *others = document.whole["readings"]
    return ranker_document({**document.whole, "readings": [{**first, "weight": weight}, *others]})
