"""What goes in and out about judged sets and judging. Results of the layers below go out as they are."""

from typing import Annotated, Any, Self

from pydantic import AwareDatetime, BaseModel, BeforeValidator, ConfigDict, Field, model_validator

from pale_harbor.api.models import LONGEST_QUERY, HowModel, Name, RankerChoiceModel, kept_text
from pale_harbor.core.judging import Expectation, ExpectationKind, Settling, expectation
from pale_harbor.core.measures import Measure
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.formats.moments import EARLIEST, LATEST
from pale_harbor.formats.owner_page import OwnerFacts
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.work.measuring.measuring import Figures
from pale_harbor.work.measuring.turning import Turn

Id = Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
JudgedKey = Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=1_000)]
Note = Annotated[str, BeforeValidator(kept_text), Field(max_length=10_000)]
# At least a sign of what is looked for.
Query = Annotated[str, BeforeValidator(kept_text), Field(max_length=LONGEST_QUERY, pattern=r"\S")]
Tag = Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
Grade = Annotated[int, Field(ge=0, le=3)]
Share = Annotated[float, Field(ge=0, le=0.9)]
MeasureName = Annotated[str, Field(max_length=40)]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class MakeSetRequest(Strict):
    locked_share: Share = 0.2


class RulesRequest(Strict):
    settling: Settling
    locked_share: Share
    meanings: Annotated[list[Note], Field(max_length=4)] = []


class LockRequest(Strict):
    share: Share


class QueryRequest(Strict):
    """A judged query as a person writes it. locked: None leaves it as it is, or of a new one to chance."""

    query: Query
    need: Note = ""
    tags: Annotated[list[Tag], Field(max_length=50)] = []
    filters: Annotated[list[FilterDocument], Field(max_length=50)] = []
    language: Annotated[str, BeforeValidator(kept_text), Field(max_length=40)] | None = None
    asked: Annotated[int, Field(ge=0, le=2**53)] | None = None
    nothing_to_find: bool = False
    locked: bool | None = None


class ListRequest(Strict):
    """A plain list of queries; most: of new ones, those asked most often."""

    text: Annotated[str, BeforeValidator(kept_text), Field(max_length=20_000_000)]
    most: Annotated[int, Field(ge=1, le=20_000)] | None = None


class ListAnswer(BaseModel):
    added: int
    revision: int


class FilesRequest(Strict):
    """A judged set as two files, told by content. judgments: None to keep what was judged of the queries that stay;
    scale: what the file's grades are here, such as 0=0,1=1,2=2,4=3."""

    queries: Annotated[str, Field(max_length=20_000_000)]
    judgments: Annotated[str, Field(max_length=20_000_000)] | None = None
    scale: Annotated[str, Field(max_length=1_000)] | None = None
    locked_share: Share | None = None


class GradeRequest(Strict):
    """A grade that is given outside of any task. grade: None for a pass."""

    query_id: Id
    record_key: JudgedKey
    grade: Grade | None
    judge: Annotated[str, BeforeValidator(kept_text), Field(max_length=200)] = ""
    note: Note = ""
    taken_back: bool = False


class ExpectationRequest(Strict):
    query_id: Id
    kind: ExpectationKind
    record_key: JudgedKey | None = None
    number: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    note: Note = ""

    def wanted(self) -> Expectation:
        """Raises Unexpectable."""
        return expectation(self.kind, self.record_key, self.number, self.note)


class ComplaintRequest(Strict):
    """A complaint: this query, that record, these words. grade: of the record; kind: of what is expected of it."""

    query: Query
    need: Note = ""
    complaint: Note = ""
    record_key: JudgedKey | None = None
    grade: Grade | None = None
    kind: ExpectationKind | None = None
    number: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    filters: Annotated[list[FilterDocument], Field(max_length=50)] = []

    def wanted(self, kind: ExpectationKind) -> Expectation:
        """Raises Unexpectable."""
        return expectation(kind, self.record_key, self.number, self.complaint)


class ComplaintAnswer(BaseModel):
    query_id: str
    revision: int


class SideModel(Strict):
    """One side of a comparison: a ranker of ours, or the name of one from outside."""

    ranker: RankerChoiceModel = RankerChoiceModel()
    outside: Name | None = None


class OverviewRequest(Strict):
    sides: Annotated[list[SideModel], Field(min_length=1, max_length=20)]
    measures: Annotated[list[MeasureName], Field(min_length=1, max_length=20)]
    how: HowModel = HowModel()


class CompareRequest(Strict):
    first: SideModel
    second: SideModel
    measure: MeasureName = "ndcg@10"
    how: HowModel = HowModel()


Step = Annotated[str, Field(max_length=200)] | Annotated[int, Field(ge=0)]


class PlaceModel(Strict):
    """A value put at a place of a ranker's document, such as readings, 0, weight."""

    path: Annotated[list[Step], Field(min_length=1, max_length=12)]
    value: Any

    def turn(self) -> Turn:
        """What is turned."""
        return Turn(tuple(self.path), self.value)


class TurnModel(PlaceModel):
    """A value put at a place of a ranker's document. beside: another one that is turned with it."""

    beside: PlaceModel | None = None

    def turn(self) -> Turn:
        """What is turned."""
        return Turn(tuple(self.path), self.value, None if self.beside is None else self.beside.turn())


class TurnsRequest(Strict):
    ranker: RankerChoiceModel = RankerChoiceModel()
    measure: MeasureName = "ndcg@10"
    how: HowModel = HowModel()
    turns: Annotated[list[TurnModel], Field(max_length=100)]


class SetLettersRequest(Strict):
    """A judged set typed by a ranker. against: the ranker that it is compared with; first: how far down a record counts
    as found."""

    ranker: RankerChoiceModel = RankerChoiceModel()
    against: RankerChoiceModel | None = None
    first: Annotated[int, Field(ge=1, le=100)] = 10


class QualityRequest(Strict):
    measure: MeasureName = "ndcg@10"
    how: HowModel = HowModel()


class MovedRequest(Strict):
    """Two rankers and one query: what moved from the first to the second, in so many first results."""

    query_id: Annotated[str, Field(max_length=500)]
    before: RankerChoiceModel = RankerChoiceModel()
    after: RankerChoiceModel = RankerChoiceModel()
    depth: Annotated[int, Field(ge=1, le=1_000)] = 10


class OwnerPageAnswer(BaseModel):
    """The owner's page: what it says, and the whole as Markdown."""

    names: tuple[str, str]
    facts: OwnerFacts
    markdown: str


class RemeasureRequest(Strict):
    """revision: of the judged set, its newest where it is None."""

    measures: Annotated[list[MeasureName], Field(min_length=1, max_length=32)]
    revision: Annotated[int, Field(ge=1)] | None = None
    how: HowModel = HowModel()


class RemeasureAnswer(BaseModel):
    figures: Figures
    revision: int


class DecisionRequest(Strict):
    """What was decided about two rankers, and why."""

    title: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=300)]
    body: Note = ""
    details: dict[str, Any] = {}


class TaskRequest(Strict):
    """A judging task: a pool of rankers' first records, or records that are named one by one. same: judges who are
    those who judged the set under that name before; a name that is known otherwise is refused."""

    name: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=200)]
    judges: Annotated[
        list[Annotated[str, BeforeValidator(kept_text), Field(max_length=200)]],
        Field(min_length=1, max_length=30),
    ]
    sides: Annotated[list[SideModel], Field(max_length=20)] = []
    depth: Annotated[int, Field(ge=1, le=1_000)] = 10
    others: Annotated[int, Field(ge=0, le=100)] = 0
    twice: Annotated[float, Field(ge=0, le=1)] = 0.2
    leave_out_judged: bool = True
    tag: str | None = None
    queries: Annotated[list[Id], Field(max_length=20_000)] | None = None
    items: Annotated[list["ItemModel"], Field(max_length=10_000)] | None = None
    same: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=30)] = []


class ItemModel(Strict):
    query_id: Id
    record_key: JudgedKey


class LinkRequest(BaseModel):
    """days: for how long the link leads to the task; None: as long as there is one."""

    judge: Annotated[str, Field(min_length=1, max_length=200)]
    days: Annotated[float, Field(gt=0, le=3_650)] | None = None


class CloseRequest(Strict):
    closed: bool


class SettleRequest(Strict):
    """grade: None to leave it to the set's rule again."""

    query_id: Id
    record_key: JudgedKey
    grade: Grade | None
    note: Note = ""


class ConfirmRequest(Strict):
    query_id: Id
    record_key: JudgedKey


class SaidModel(Strict):
    """at: when the judge said it, by their own clock, which only tells what comes twice: what comes later counts more.
    device, order: from where it comes and how far that device is in what it says, so that what it said before counts no
    more, however late it comes."""

    query_id: Id
    record_key: JudgedKey
    grade: Grade | None
    note: Note = ""
    at: Annotated[AwareDatetime, Field(ge=EARLIEST, le=LATEST)]
    taken_back: bool = False
    device: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=40)] | None = None
    order: Annotated[int, Field(ge=0, le=2**53)] | None = None

    @model_validator(mode="after")
    def _both_or_none(self) -> Self:
        if (self.device is None) != (self.order is None):
            raise ValueError("a device says how far it is, or neither is told.")
        return self


class SaidRequest(Strict):
    said: Annotated[list[SaidModel], Field(min_length=1, max_length=1_000)]


class SaidAnswer(BaseModel):
    """new: how much of it was not known yet."""

    new: int


class ServiceRequest(Strict):
    """secrets: header values; those left out stay as they were."""

    document: dict[str, Any]
    secrets: Annotated[dict[str, Annotated[str, Field(max_length=4_000)]], Field(max_length=20)] = {}


class RunFileRequest(Strict):
    judged_set: Name
    text: Annotated[str, Field(max_length=60_000_000)]
    file: Annotated[str, Field(max_length=300)] = "the run file"


class RunFileAnswer(BaseModel):
    lists: int
    unknown_queries: list[str]


class AskRequest(Strict):
    judged_set: Name


def measures_of(names: list[str]) -> list[Measure]:
    """Measures by name. Raises UnknownMeasure."""
    return [measure_named(name) for name in names]
