"""What goes in and out over HTTP."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.core.measures import MeasureRules, Ties, Unjudged, WithoutRelevant
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.storable import unstorable, well_formed
from pale_harbor.work.measuring.judged import Part
from pale_harbor.work.measuring.measuring import How
from pale_harbor.work.running.caches import CacheState

LONGEST_QUERY = 10_000
LONGEST_TEXT = 200_000
# Of rows and of anything else that is counted: the database has no more.
MOST = 2**31 - 1


def well_formed_text(value: Any) -> Any:
    """Text without lone surrogates; anything else as it is."""
    return well_formed(value) if isinstance(value, str) else value


def kept_text(value: Any) -> Any:
    """Text that is stored: well formed, and without what the database cannot hold. Raises ValueError."""
    text = well_formed_text(value)
    if isinstance(text, str) and (wrong := unstorable(text)) is not None:
        raise ValueError(f"this text holds {wrong}.")
    return text


QueryText = Annotated[str, BeforeValidator(well_formed_text), Field(max_length=LONGEST_QUERY)]
FreeText = Annotated[str, BeforeValidator(well_formed_text), Field(max_length=LONGEST_TEXT)]
Name = Annotated[str, Field(min_length=1, max_length=63)]
Version = Annotated[int, Field(ge=1, le=MOST)]


class MemoryState(BaseModel):
    """What the server holds in memory and what for. resident_bytes: of the whole process; open_files: of which it may
    have most_open_files: connections, indexes that are being written, and the like."""

    resident_bytes: int
    open_files: int
    most_open_files: int
    caches: list[CacheState]


class Health(BaseModel):
    """started: kernels are compiled and the database answers; ready: and there is room for more on the disk. process:
    the server's process number; detail: what is the matter, if anything is."""

    started: bool
    ready: bool
    process: int
    version: str
    detail: str


class Alive(BaseModel):
    """process: the server's process number."""

    process: int
    version: str


class RankerRequest(BaseModel):
    """based_on: the version whose versions of saved chains are kept, else the newest; branched_from: of which ranker,
    where it is another one. newest_known: the newest version of this name that is known of, 0 for none: it is refused
    where there is a newer one. draft: the one that is kept by this.
    """

    document: RankerDocument
    note: Annotated[str, Field(max_length=2_000)] = ""
    based_on: Version | None = None
    branched_from: Annotated[str, Field(max_length=63)] | None = None
    newest_known: Annotated[int, Field(ge=0, le=MOST)] | None = None
    draft: int | None = None


class NoteRequest(BaseModel):
    note: Annotated[str, BeforeValidator(kept_text), Field(max_length=2_000)]


class RankerChoiceModel(BaseModel):
    """A draft's document, or a kept ranker's name, or nothing for the default ranker.

    A draft with a name reads saved chains in the versions that the named ranker was kept with. exactly: spaces that it
    asks near enough are asked exactly.
    """

    model_config = ConfigDict(extra="forbid")

    name: str | None = None
    version: Version | None = None
    document: RankerDocument | None = None
    exactly: bool | None = None


class HowModel(BaseModel):
    """How figures are made: the rules for what definitions leave open, how queries weigh, which of them count."""

    model_config = ConfigDict(extra="forbid")

    ties: Ties = Ties.BY_KEY
    unjudged: Unjudged = Unjudged.OFF_TOPIC
    without_relevant: WithoutRelevant = WithoutRelevant.ZERO
    weighted: bool = False
    part: Part = Part.OPEN
    bands: bool = False

    def how(self) -> How:
        """The same as the layers below take it."""
        rules = MeasureRules(self.ties, self.unjudged, self.without_relevant)
        return How(rules, self.weighted, self.part, self.bands)


class MissedRequest(BaseModel):
    """depth: how far down a good record may be; query_ids: of the set's open queries, all of them where it is None."""

    ranker: RankerChoiceModel = RankerChoiceModel()
    depth: Annotated[int, Field(ge=1, le=1_000)] = 10
    query_ids: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=1_000)] | None = None


class MeasureRequest(BaseModel):
    ranker: RankerChoiceModel = RankerChoiceModel()
    measures: Annotated[list[Annotated[str, Field(max_length=40)]], Field(min_length=1, max_length=32)]
    how: HowModel = HowModel()
