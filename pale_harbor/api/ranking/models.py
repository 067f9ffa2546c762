"""What goes in and out of searching and asking why over HTTP."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import QueryText, RankerChoiceModel, well_formed_text
from pale_harbor.formats.ranker.document import FilterDocument, RankerDocument
from pale_harbor.formats.ranker.forms import FieldName

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
    """A query and what it is narrowed to. sort: fields instead of relevance, `-` for the greatest first."""

    query: QueryText
    ranker: RankerChoiceModel = RankerChoiceModel()
    # The query's language, for chains that are chosen by it; guessed where it is left out.
    language: LanguageName | None = None
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    sort: Annotated[list[FieldName], Field(max_length=8)] = []


class SearchRequest(QuestionModel):
    """skip: rows before the page."""

    top: Annotated[int, Field(ge=1, le=1_000)] = 10
    skip: Annotated[int, Field(ge=0, le=DEEPEST_ROW)] = 0
    facets: Annotated[list[FacetRequest], Field(max_length=16)] = []


class SourceModel(BaseModel):
    """Where parts of scores come from. number: which reading or signal of the ranker."""

    kind: Literal["reading", "literal", "signal", "rule", "words", "space", "formula"]
    number: int
    name: str


class PassageModel(BaseModel):
    """The passage by which a record counts in a space."""

    space: str
    field: str
    text: str


class ResultModel(BaseModel):
    """source_scores: what each source adds, in order; marks: by field, in code points. ranks: of a blended list, in
    each of its lists, 0 where it is not in it.

    pinned: put there by a rule; others: how many more its group has.
    """

    rank: int
    key: str
    score: float
    source_scores: list[float]
    marks: dict[str, list[tuple[int, int]]]
    field_values: dict[str, Any]
    pinned: bool
    others: int
    ranks: list[int]
    passage: PassageModel | None


class FacetValue(BaseModel):
    value: str
    count: int


class AppliedRule(BaseModel):
    """A rule that did something: its number in the ranker, and what was said about it."""

    number: int
    reason: str


class SearchAnswer(BaseModel):
    """A page of a list.

    matched: all records; rows: of the whole list, fewer where it shows one per group. query_terms: what
    each reading looked for. read_as: how the query was read, empty for plain words; notes: what could not
    be taken as typed. filters: those that rules made of the query. lists: what was blended, empty where words are
    alone; kind: of queries that the blend is for, if any.
    """

    matched: int
    rows: int
    elapsed_ms: float
    results: list[ResultModel]
    sources: list[SourceModel]
    query_terms: list[list[str]]
    read_as: str
    notes: list[str]
    kind: str | None
    lists: list[str]
    rules: list[AppliedRule]
    filters: list[str]
    facets: dict[str, list[FacetValue]]


Key = Annotated[str, Field(max_length=500)]


class WhyRequest(QuestionModel):
    key: Key


class TermPartModel(BaseModel):
    """score = idf · times · worth · frequency · (k1 + 1) / (frequency + norm).

    kind: how it came about; said: the query's own term, where this one stands in for it; holding: df.
    """

    kind: str
    term: str
    said: str
    times: int
    holding: int
    idf: float
    worth: float
    edits: int
    frequency: float
    norm: float
    score: float


class ReadingPartModel(BaseModel):
    """score = weight · unweighted, the sum of the terms' scores. number: None for quoted words' own reading."""

    number: int | None
    field: str
    chain: str
    weight: float
    k1: float
    b: float
    length: int
    average_length: float
    record_count: int
    unweighted: float
    score: float
    terms: list[TermPartModel]
    missing: list[str]


class PooledShareModel(BaseModel):
    """added = weight · worth · frequency / length_share."""

    field: str
    weight: float
    worth: float
    frequency: float
    length_share: float
    added: float


class PooledTermModel(BaseModel):
    """score = idf · times · frequency · (k1 + 1) / (frequency + k1); frequency is the sum of the shares."""

    kind: str
    term: str
    times: int
    holding: int
    idf: float
    frequency: float
    score: float
    shares: list[PooledShareModel]


class SignalPartModel(BaseModel):
    """amount: what is added, or what is multiplied with."""

    field: str
    shape: str
    weight: float
    value: float
    multiplied: bool
    amount: float


class WordModel(BaseModel):
    """A word of the query. held: whether the record holds it; counted: false where no reading looks for it."""

    word: str
    held: bool
    counted: bool


class ListPartModel(BaseModel):
    """A list's share of a blended score. weight: as it counts; score: the record's own in that list, for a space how
    alike it is in any case; rank: 0 where the list does not hold it."""

    name: str
    weight: float
    rank: int
    score: float
    part: float


class StepModel(BaseModel):
    """A part of a formula and what it comes to; None for the rank in a list that does not hold the record."""

    text: str
    value: float | None


class WordMatchModel(BaseModel):
    """A word of the query with the record's word that is nearest."""

    word: str
    match: str | None
    similarity: float


class SecondLookModel(BaseModel):
    """score = (1 - weight) · place + weight · similarity, the mean of the words' similarities."""

    space: str
    weight: float
    place: float
    similarity: float
    score: float
    words: list[WordMatchModel]


class BlendPartModel(BaseModel):
    """How lists became one for a record. score: the blended one, to which the lists' parts add up."""

    how: Literal["reciprocal_rank", "weighted_sum", "fill_up", "reorder", "formula"]
    kind: str | None
    meaning: float
    k: float
    normalise: Literal["min_max", "z_score", "rank", "none"]
    depth: int
    score: float
    lists: list[ListPartModel]
    formula: str | None
    steps: list[StepModel]
    second_look: SecondLookModel | None


class WhyAnswer(BaseModel):
    """keyword_score: of the readings as they are combined; score: with signals and lifts, exactly.

    rank: in the whole list, None where it is not in it. blend: with meaning, what became of that score.
    """

    key: str
    score: float
    keyword_score: float
    how: Literal["sum", "strongest", "pooled"]
    share: float
    pool_k1: float
    readings: list[ReadingPartModel]
    pool: list[PooledTermModel] | None
    signals: list[SignalPartModel]
    lifts: list[float]
    words: list[WordModel]
    matched: bool
    rank: int | None
    pinned: bool
    hidden: bool
    failed_filters: list[str]
    blend: BlendPartModel | None


class NearMissModel(BaseModel):
    """A term that the record has instead. stem: the language whose stemmer makes the two one."""

    reading: int
    field: str
    term: str
    said: str
    edits: int
    similarity: float
    stem: str | None


class MissingWordModel(BaseModel):
    """A word that the record lacks. readings: by field, what the readings make of it."""

    word: str
    readings: list[tuple[str, list[str]]]
    near: list[NearMissModel]


class SuggestionModel(BaseModel):
    """A change that brings the record in: the changed ranker, and the rank it gives (None: not tried)."""

    words: str
    document: RankerDocument
    rank: int | None


class WhyNotAnswer(BaseModel):
    """shut_out: what keeps it out, in sentences."""

    why: WhyAnswer
    field_values: dict[str, Any]
    shut_out: list[str]
    missing: list[MissingWordModel]
    suggestions: list[SuggestionModel]


class DifferencesRequest(BaseModel):
    """Two rankers: kept ones by name, or documents."""

    before: RankerChoiceModel
    after: RankerChoiceModel


class DifferencesAnswer(BaseModel):
    differences: list[str]
