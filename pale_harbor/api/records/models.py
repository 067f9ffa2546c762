"""What goes in and out over HTTP about records, fields and imports."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.chains.models import TokenModel
from pale_harbor.api.models import Name, well_formed_text
from pale_harbor.formats.passages import PassageDocument
from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.collections.collections import FieldKind, FieldRole
from pale_harbor.store.imports.imports import Import, RejectedRow
from pale_harbor.store.records.records import EarlierRecord, Record
from pale_harbor.store.running.jobs import JobState
from pale_harbor.work.imports.sources import PreviewRow
from pale_harbor.work.records.looking import CutValue

FieldName = Annotated[str, Field(min_length=1, max_length=200)]
Key = Annotated[str, Field(min_length=1, max_length=500)]


class NameRequest(BaseModel):
    name: Name


class RecordsPage(BaseModel):
    """A page of records; found: how many there are in all."""

    records: list[Record]
    found: int


class EarlierPage(BaseModel):
    records: list[EarlierRecord]
    found: int


class RecordsRequest(BaseModel):
    records: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=10_000)]


class KeysRequest(BaseModel):
    keys: Annotated[list[Key], Field(min_length=1, max_length=10_000)]


class RestoreRequest(BaseModel):
    key: Key
    ended_revision: int


class FieldRequest(BaseModel):
    """What a field is from now on."""

    model_config = ConfigDict(extra="forbid")

    kind: FieldKind
    role: FieldRole | None
    passages: PassageDocument | None


class PassageRequest(BaseModel):
    field: FieldName
    rule: PassageDocument


class ValueTokens(BaseModel):
    text: str
    tokens: list[TokenModel]


class ReadingTokensModel(BaseModel):
    """What a reading made of a record, value by value."""

    field: str
    chain: str
    weight: float
    values: list[ValueTokens]


class RecordReadings(BaseModel):
    """A record as the default ranker's readings see it, and its passages by field."""

    key: str
    ranker: str | None
    readings: list[ReadingTokensModel]
    passages: dict[str, list[CutValue]]


class UploadModel(BaseModel):
    upload: str
    name: str
    bytes: int


class SourceRequest(BaseModel):
    """An upload, or a query on another PostgreSQL database (address: a connection string)."""

    model_config = ConfigDict(extra="forbid")

    upload: Annotated[str, Field(max_length=64)] | None = None
    address: Annotated[str, Field(max_length=2_000)] | None = None
    query: Annotated[str, Field(max_length=100_000)] | None = None
    changed_at: FieldName | None = None


class PreviewRequest(BaseModel):
    source: SourceRequest
    plan: ImportPlan = ImportPlan()
    collection: Name | None = None


class PreviewModel(BaseModel):
    """looked_at: rows that were read for it; complete: whether these are all."""

    name: str
    format: str
    plan: ImportPlan
    rows: list[PreviewRow]
    rejects: list[PreviewRow]
    rejected: int
    looked_at: int
    complete: bool


class ImportRequest(BaseModel):
    source: SourceRequest
    plan: ImportPlan


class ImportModel(BaseModel):
    """An import. bytes_in_all: 0 where it cannot be known; resumable: it was cut off and can go on."""

    id: int
    collection: str
    name: str
    kind: str
    state: JobState
    phase: str
    rows_read: int
    rows_rejected: int
    bytes_read: int
    bytes_in_all: int
    seconds: float
    problem: str | None
    report: dict[str, int] | None
    created_at: str
    cut_off: bool


class RejectedPage(BaseModel):
    rows: list[RejectedRow]
    found: int


class MendedRow(BaseModel):
    row_number: int
    raw: Annotated[str, BeforeValidator(well_formed_text), Field(max_length=1_000_000)]


class MendRequest(BaseModel):
    rows: Annotated[list[MendedRow], Field(min_length=1, max_length=1_000)]


def import_model(job: Import, *, is_held: bool) -> ImportModel:
    unfinished = job.state in ("waiting", "running")
    return ImportModel(
        id=job.id,
        collection=job.collection,
        name=str(job.source.get("name", "")),
        kind=str(job.source.get("kind", "")),
        state=job.state,
        phase=job.phase,
        rows_read=job.rows_read,
        rows_rejected=job.rows_rejected,
        bytes_read=job.bytes_read,
        bytes_in_all=job.bytes_in_all,
        seconds=(job.updated_at - job.created_at).total_seconds(),
        problem=job.problem,
        report=job.report,
        created_at=job.created_at.isoformat(),
        cut_off=unfinished and not is_held and job.state == "running",
    )
