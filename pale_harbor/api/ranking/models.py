"""What goes in and out of searching and asking why over HTTP."""

from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import QueryText, RankerChoiceModel, well_formed_text
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.ranker.differences import Difference
from pale_harbor.formats.ranker.document import FilterDocument

LanguageName = Annotated[str, BeforeValidator(well_formed_text), Field(max_length=200)]
# Deeper no list is leafed through.
DEEPEST_ROW = 10_000


class FacetRequest(BaseModel):
    """Values of a field with their counts: the most frequent, or numbers in stretches of a width (step)."""

    model_config = ConfigDict(extra="forbid")

    field: FieldName
    most: Annotated[int, Field(ge=1, le=1_000)] = 10
    step: Annotated[float, Field(gt=0, le=1e12)] | None = None


class QuestionModel(BaseModel):
    """A query and what it is narrowed to. sort: fields instead of relevance, `-` for the greatest first.

    typed: whether it is being typed, so that of its last word only the beginning may be there. as_said: whether no
    correction is taken in its place.
    """

    query: QueryText
    ranker: RankerChoiceModel = RankerChoiceModel()
    # The query's language, for chains that are chosen by it; guessed where it is left out.
    language: LanguageName | None = None
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    sort: Annotated[list[FieldName], Field(max_length=8)] = []
    typed: bool = False
    as_said: bool = False


class PassagesModel(BaseModel):
    """The best passages of each row. length: of one in code points; most: of one field."""

    model_config = ConfigDict(extra="forbid")

    length: Annotated[int, Field(ge=40, le=10_000)] = 300
    most: Annotated[int, Field(ge=1, le=20)] = 1


Offsets = Literal["code_points", "utf16"]


class SearchRequest(QuestionModel):
    """skip: rows before the page. passages: of each row, where they are wanted. offsets: what marks and passages count:
    Unicode code points, or UTF-16 units as a page's script does."""

    top: Annotated[int, Field(ge=1, le=1_000)] = 10
    skip: Annotated[int, Field(ge=0, le=DEEPEST_ROW)] = 0
    facets: Annotated[list[FacetRequest], Field(max_length=16)] = []
    passages: PassagesModel | None = None
    offsets: Offsets = "code_points"


class ListPassagesRequest(QuestionModel):
    """The best passages of a whole list, for a program that goes on with them. letters: of all of them together, in
    code points; records: so many of the first ones are looked at."""

    letters: Annotated[int, Field(ge=40, le=1_000_000)] = 4_000
    length: Annotated[int, Field(ge=40, le=10_000)] = 500
    most: Annotated[int, Field(ge=1, le=20)] = 2
    records: Annotated[int, Field(ge=1, le=200)] = 30
    offsets: Offsets = "code_points"


AskedKey = Annotated[str, Field(max_length=500)]


class WhyRequest(QuestionModel):
    key: AskedKey


class LettersRequest(QuestionModel):
    """A query to be played letter by letter. wanted: the key of the record that is looked for; first: how many rows of
    each list are told."""

    wanted: AskedKey | None = None
    first: Annotated[int, Field(ge=1, le=100)] = 10


class DifferencesRequest(BaseModel):
    """Two rankers: kept ones by name, or documents."""

    before: RankerChoiceModel
    after: RankerChoiceModel


class DifferencesAnswer(BaseModel):
    differences: list[Difference]
