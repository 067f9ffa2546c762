"""What goes in and out of Delivery over HTTP."""

from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import LONGEST_QUERY, Name, Version, kept_text
from pale_harbor.formats.visitor_terms import VisitorTerms

NoteText = Annotated[str, BeforeValidator(kept_text), Field(max_length=2_000)]
KeyLabel = Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
KeyDays = Annotated[float, Field(gt=0, le=3_650)]


class PublishRequest(BaseModel):
    """version: the newest one where it is left out. overruled: why it is published although guard rules are broken."""

    model_config = ConfigDict(extra="forbid")

    ranker: Name
    version: Version | None = None
    note: NoteText = ""
    overruled: NoteText | None = None


class PublishingCheckRequest(BaseModel):
    """version: the newest one where it is left out."""

    model_config = ConfigDict(extra="forbid")

    ranker: Name
    version: Version | None = None


class CandidateRequest(BaseModel):
    """share: of visitors who meet it. mixed: whether in one list with what is live, so that clicks say which of the two
    they prefer; else it answers them alone."""

    model_config = ConfigDict(extra="forbid")

    ranker: Name
    version: Version | None = None
    share: Annotated[float, Field(gt=0, le=1)] = 0.1
    mixed: bool = True
    note: NoteText = ""


class PublishingNote(BaseModel):
    model_config = ConfigDict(extra="forbid")

    note: NoteText = ""


class DeliverySettingsModel(BaseModel):
    """judged_set: on which the rules are checked; rules: one a line; kept_days: how long it is kept what was asked."""

    model_config = ConfigDict(extra="forbid")

    judged_set: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    rules: Annotated[str, BeforeValidator(kept_text), Field(max_length=20_000)] = ""
    kept_days: Annotated[int, Field(ge=1, le=3_650)] = 90


class VisitorKeyRequest(BaseModel):
    """days: for how long it holds; until it is revoked where it is left out."""

    model_config = ConfigDict(extra="forbid")

    label: KeyLabel
    terms: VisitorTerms = VisitorTerms()
    days: KeyDays | None = None


class VisitorKeyTerms(BaseModel):
    model_config = ConfigDict(extra="forbid")

    label: KeyLabel
    terms: VisitorTerms


class ProgramKeyRequest(BaseModel):
    """role: what it may do in the collection, at most what whoever makes it may."""

    model_config = ConfigDict(extra="forbid")

    label: KeyLabel
    role: Literal["reader", "engineer", "owner"]
    days: KeyDays | None = 365.0


class LogRequest(BaseModel):
    """The log of another search as a file holds it: CSV or JSON Lines. source: what it is called."""

    model_config = ConfigDict(extra="forbid")

    source: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
    text: str


class SampleRequest(BaseModel):
    """Of what was asked in so many days so many queries, from head to tail, as a new judged set."""

    model_config = ConfigDict(extra="forbid")

    judged_set: Name
    days: Annotated[int, Field(ge=1, le=3_650)] = 30
    count: Annotated[int, Field(ge=1, le=5_000)] = 100
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1
    locked_share: Annotated[float, Field(ge=0, le=0.9)] = 0.2


class OfferRequest(BaseModel):
    """What visitors asked as past queries: of so many days what so many of them asked at least."""

    model_config = ConfigDict(extra="forbid")

    days: Annotated[int, Field(ge=1, le=3_650)] = 90
    visitors: Annotated[int, Field(ge=1, le=1_000)] = 2


class ConfirmingRequest(BaseModel):
    """A judging task of what clicks suggest. queries: those alone, all where it is left out."""

    model_config = ConfigDict(extra="forbid")

    judged_set: Name
    name: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
    judges: Annotated[
        list[Annotated[str, BeforeValidator(kept_text), Field(max_length=200)]], Field(min_length=1, max_length=30)
    ]
    days: Annotated[int, Field(ge=1, le=3_650)] = 30
    twice: Annotated[float, Field(ge=0, le=1)] = 0.2
    queries: Annotated[list[Annotated[str, Field(max_length=LONGEST_QUERY)]], Field(max_length=1_000)] | None = None
    same: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=30)] = []
