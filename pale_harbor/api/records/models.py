"""What goes in and out over HTTP about records, fields and imports."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from pale_harbor.api.chains.models import TokenModel
from pale_harbor.api.models import MOST, Name, kept_text, well_formed_text
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.passages import PassageDocument
from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.collections.collections import FieldKind, FieldRole
from pale_harbor.store.imports.imports import RejectedRow
from pale_harbor.store.records.records import Deletion, EarlierRecord, Record
from pale_harbor.work.records.looking import CutValue
from pale_harbor.work.records.pages import LONGEST_CORRECTION, RecordPage

RecordKey = Annotated[str, Field(min_length=1, max_length=500)]


class NameRequest(BaseModel):
    name: Name


class RecordsPage(BaseModel):
    """A page of records; found: how many there are in all."""

    records: list[Record]
    found: int


class EarlierPage(BaseModel):
    """deletions: the revisions that deleted them, the latest first."""

    records: list[EarlierRecord]
    found: int
    deletions: list[Deletion]


class RecordsRequest(BaseModel):
    """known: by key, the revision of the record that whoever changes it saw; others are changed whatever they are."""

    known: Annotated[dict[RecordKey, Annotated[int, Field(ge=1, le=MOST)]], Field(max_length=10_000)] = {}
    records: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=10_000)]


class KeysRequest(BaseModel):
    keys: Annotated[list[RecordKey], Field(min_length=1, max_length=10_000)]


class RestoreRequest(BaseModel):
    key: RecordKey
    ended_revision: int


class DeletedRequest(BaseModel):
    """Deleted records: by key, or all that a revision deleted."""

    model_config = ConfigDict(extra="forbid")

    keys: Annotated[list[RecordKey], Field(min_length=1, max_length=10_000)] | None = None
    ended_revision: int | None = None

    @model_validator(mode="after")
    def _is_one(self) -> "DeletedRequest":
        if (self.keys is None) == (self.ended_revision is None):
            raise ValueError("Tell either the keys of deleted records, or the revision that deleted them.")
        return self


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


# Start and end in the text in code points; x, y, width and height; the number of the line; how sure it is, of 1.
PlaceModel = tuple[int, int, float, float, float, float, int, float | None]


class RecordPageModel(BaseModel):
    """A record as a page. pictured: whether its picture is here; fits: whether its places are of the text that it has;
    there are none where they are not."""

    key: str
    revision: int
    field: str
    text: str
    picture: str | None
    pictured: bool
    width: float
    height: float
    fits: bool
    places: list[PlaceModel]

    @classmethod
    def of(cls, page: RecordPage) -> "RecordPageModel":
        """The same as it goes out."""
        return cls(
            key=page.key,
            revision=page.revision,
            field=page.field,
            text=page.text,
            picture=page.picture,
            pictured=page.pictured,
            width=page.width,
            height=page.height,
            fits=page.fits,
            places=[
                (one.start, one.end, one.box.x, one.box.y, one.box.width, one.box.height, one.line, one.confidence)
                for one in page.places
            ],
        )


class WordRequest(BaseModel):
    """A word as somebody reads it. seen: the revision in which they saw the record."""

    model_config = ConfigDict(extra="forbid")

    key: RecordKey
    seen: Annotated[int, Field(ge=0, le=MOST)]
    start: Annotated[int, Field(ge=0, le=MOST)]
    end: Annotated[int, Field(ge=0, le=MOST)]
    letters: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=LONGEST_CORRECTION)]


class UploadModel(BaseModel):
    upload: str
    name: str
    bytes: int


class SourceRequest(BaseModel):
    """An upload, a query on another PostgreSQL database (address: a connection string), or a repository's records by
    OAI-PMH (repository: its address; metadata: their form; of_set: which of its sets; anew: whether all of them are
    read, and not only what changed since last time)."""

    model_config = ConfigDict(extra="forbid")

    upload: Annotated[str, Field(max_length=64)] | None = None
    address: Annotated[str, Field(max_length=2_000)] | None = None
    query: Annotated[str, Field(max_length=100_000)] | None = None
    changed_at: FieldName | None = None
    repository: Annotated[str, Field(max_length=2_000)] | None = None
    metadata: Annotated[str, Field(pattern=r"^[A-Za-z0-9\-_.!~*'()]{1,100}$")] | None = None
    of_set: Annotated[str, Field(max_length=500)] | None = None
    anew: bool | None = None


class PreviewRequest(BaseModel):
    source: SourceRequest
    plan: ImportPlan = ImportPlan()
    collection: Name | None = None


class ImportRequest(BaseModel):
    """asks: whether it waits to be decided about wherever there are records that it meets. tune_start: whether queries
    are made up from the records once they are in, and the ranker that they come with is tuned on them."""

    source: SourceRequest
    plan: ImportPlan
    asks: bool = False
    tune_start: bool = False


class DecisionRequest(BaseModel):
    deletions: Annotated[int, Field(ge=0)]


class RejectedPage(BaseModel):
    rows: list[RejectedRow]
    found: int


class MendedRow(BaseModel):
    row_number: Annotated[int, Field(ge=1, le=MOST)]
    raw: Annotated[str, BeforeValidator(well_formed_text), Field(max_length=1_000_000)]


class MendRequest(BaseModel):
    rows: Annotated[list[MendedRow], Field(min_length=1, max_length=1_000)]
