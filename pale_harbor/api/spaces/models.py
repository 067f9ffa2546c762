"""What goes in and out of spaces, blended lists and their sides over HTTP."""

from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import QueryText, RankerChoiceModel
from pale_harbor.api.ranking.models import AskedKey, QuestionModel
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.formats.space_document import SpaceDocument, space_document
from pale_harbor.work.spaces.told import SpaceTold

CheckedSpace = Annotated[SpaceDocument, BeforeValidator(space_document)]


class SpaceRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    document: CheckedSpace


class FillRequest(BaseModel):
    """anew: throws the vectors away first."""

    model_config = ConfigDict(extra="forbid")

    anew: bool = False


class BringRequest(BaseModel):
    """Two uploads: an array of vectors, and a text file that names its rows."""

    model_config = ConfigDict(extra="forbid")

    about: Literal["record", "query"] = "record"
    vectors: Annotated[str, Field(max_length=64)]
    names: Annotated[str, Field(max_length=64)]


class BringAnswer(BaseModel):
    space: SpaceTold
    kept: int
    wrong: list[str]


class WantedModel(BaseModel):
    """Words, or keys of records to be like, and to be unlike."""

    model_config = ConfigDict(extra="forbid")

    text: QueryText = ""
    liked: Annotated[list[AskedKey], Field(max_length=50)] = []
    disliked: Annotated[list[AskedKey], Field(max_length=50)] = []


class NeighboursRequest(WantedModel):
    top: Annotated[int, Field(ge=1, le=1_000)] = 10
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    at_least: float | None = None


class MapRequest(BaseModel):
    """wanted: None for the records alone."""

    model_config = ConfigDict(extra="forbid")

    wanted: WantedModel | None = None


class ListsRequest(QuestionModel):
    top: Annotated[int, Field(ge=1, le=200)] = 20


class SidesRequest(BaseModel):
    ranker: RankerChoiceModel = RankerChoiceModel()
    measure: Annotated[str, Field(max_length=40)] = "ndcg@10"
