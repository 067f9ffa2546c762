"""What goes in and out of spaces, blended lists and their sides over HTTP."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import QueryText, RankerChoiceModel
from pale_harbor.api.ranking.models import Key, PassageModel, QuestionModel
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.formats.space_document import SpaceDocument, space_document
from pale_harbor.store.spaces.spaces import SpaceState

CheckedSpace = Annotated[SpaceDocument, BeforeValidator(space_document)]


class FaultExample(BaseModel):
    key: str
    what: str


class SpaceReport(BaseModel):
    """What the last whole filling came to. passages: vectors that are of one; whole: records with all their vectors;
    faults: what keeps others from it."""

    records: int
    vectors: int
    passages: int
    whole: int
    faults: dict[str, int]
    examples: list[FaultExample]


class SpaceModel(BaseModel):
    """A space, and how far its filling is. behind: whether records changed since; word_vectors: whether it knows
    vectors of single words, as a second stage needs them."""

    name: str
    document: SpaceDocument
    model: str | None
    dimensions: int | None
    state: SpaceState
    phase: str
    done: int
    in_all: int
    problem: str | None
    report: SpaceReport | None
    behind: bool
    word_vectors: bool
    asked_by: list[str]


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
    space: SpaceModel
    kept: int
    wrong: list[str]


class CostAnswer(BaseModel):
    """What a filling asks of a service. price: of all of it, None where the service names none."""

    records: int
    texts: int
    known: int
    words: int
    characters: int
    requests: int
    model: str
    dimensions: int
    price: float | None
    currency: str


class WantedModel(BaseModel):
    """Words, or keys of records to be like, and to be unlike."""

    model_config = ConfigDict(extra="forbid")

    text: QueryText = ""
    liked: Annotated[list[Key], Field(max_length=50)] = []
    disliked: Annotated[list[Key], Field(max_length=50)] = []


class NeighboursRequest(WantedModel):
    top: Annotated[int, Field(ge=1, le=1_000)] = 10
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    at_least: float | None = None


class NeighbourModel(BaseModel):
    rank: int
    key: str
    similarity: float
    passage: PassageModel | None
    field_values: dict[str, Any]


class NeighboursAnswer(BaseModel):
    neighbours: list[NeighbourModel]


class MapRequest(BaseModel):
    """wanted: None for the records alone."""

    model_config = ConfigDict(extra="forbid")

    wanted: WantedModel | None = None


class PointModel(BaseModel):
    """rank: as a neighbour, 0 for any other; example: one of the liked or disliked."""

    key: str
    title: str
    x: float
    y: float
    rank: int
    example: bool


class MapAnswer(BaseModel):
    """kept: how much of all difference the map shows, from 0 to 1; records: with vectors, shown or not."""

    points: list[PointModel]
    wanted: tuple[float, float] | None
    kept: float
    records: int


class ListsRequest(QuestionModel):
    top: Annotated[int, Field(ge=1, le=200)] = 20


class ListedRowModel(BaseModel):
    """ranks: of the record in every list, 0 where it is not in it."""

    key: str
    score: float
    ranks: list[int]


class ListsAnswer(BaseModel):
    """names: words, the spaces', blended. kind: of queries that the blend is for."""

    names: list[str]
    lists: list[list[ListedRowModel]]
    field_values: dict[str, dict[str, Any]]
    kind: str | None
    notes: list[str]


class SidesRequest(BaseModel):
    ranker: RankerChoiceModel = RankerChoiceModel()
    measure: Annotated[str, Field(max_length=40)] = "ndcg@10"
