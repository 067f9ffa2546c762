"""What goes in and out of searching and asking why over HTTP."""

from typing import Annotated

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


class SearchRequest(QuestionModel):
    """skip: rows before the page."""

    top: Annotated[int, Field(ge=1, le=1_000)] = 10
    skip: Annotated[int, Field(ge=0, le=DEEPEST_ROW)] = 0
    facets: Annotated[list[FacetRequest], Field(max_length=16)] = []


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
