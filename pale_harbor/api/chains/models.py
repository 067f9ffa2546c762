"""What goes in and out over HTTP about chains and word lists."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, Field

from pale_harbor.api.models import FreeText, QueryText, RankerChoiceModel, well_formed_text
from pale_harbor.api.problems import Problem
from pale_harbor.core.text import Mooring, StageTrace, Token
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.formats.storable import well_formed

TypedChain = Annotated[str, BeforeValidator(well_formed_text), Field(max_length=10_000)]
FieldText = Annotated[str, BeforeValidator(well_formed_text), Field(min_length=1, max_length=200)]


class TokenModel(BaseModel):
    """start, end: code points of the original value; position and span: counted in tokens."""

    text: str
    start: int
    end: int
    position: int
    span: int
    kept: bool = False


class StageModel(BaseModel):
    """What one stage left behind; parents and dropped are indices of the stage before's tokens."""

    stage: str
    kind: StageKind
    text: str | None
    tokens: list[TokenModel]
    parents: list[int]
    dropped: list[int]
    changed: bool


class MeetRequest(BaseModel):
    """A record's text and a query's text, each with its chain (notation or @name).

    record_off, query_off: numbers of stages, from 0, that are left out for a look. read_by: the kept ranker in whose
    versions saved chains and word lists are read that are named without one.
    """

    record_chain: TypedChain
    query_chain: TypedChain
    text: FreeText
    query: QueryText
    record_off: list[Annotated[int, Field(ge=0, le=63)]] = []
    query_off: list[Annotated[int, Field(ge=0, le=63)]] = []
    read_by: RankerChoiceModel | None = None


class CallModel(BaseModel):
    """One stage as written: its stretch of the notation, in code points, and its kind where it has one.

    saved: what a saved chain says that the notation begins with; it has the stretch of its @name.
    """

    name: str
    text: str
    start: int
    end: int
    kind: StageKind | None
    saved: str | None = None


class Meeting(BaseModel):
    """Both traces and where they meet. A chain that cannot be read has its problem instead of a trace.

    calls: the stages as written, those switched off included; none where the notation breaks off.
    """

    record_stages: list[StageModel]
    query_stages: list[StageModel]
    record_calls: list[CallModel]
    query_calls: list[CallModel]
    record_problem: Problem | None
    query_problem: Problem | None
    moorings: list[Mooring]


class ParameterInfo(BaseModel):
    """An argument of a stage. wanted: in words; default: as notation, None where it must be given."""

    name: str
    wanted: str
    choices: list[str]
    list_kind: ListKind | None
    least: int | None
    most: int | None
    default: str | None


class StageInfo(BaseModel):
    """A stage there is, in words."""

    name: str
    kind: StageKind
    parameters: list[ParameterInfo]
    summary: str
    example: str


class ChainRequest(BaseModel):
    notation: TypedChain


class WordListRequest(BaseModel):
    """A word list as CSV; the kind where the first line does not name the columns. as_version: which version it has to
    become, for a list that goes on from what was read."""

    csv: Annotated[str, Field(max_length=20_000_000)]
    kind: ListKind | None = None
    as_version: Annotated[int | None, Field(ge=1, le=2**31 - 1)] = None


class ThesaurusAnswer(BaseModel):
    """Synonyms read from a thesaurus, as CSV; nothing is kept yet."""

    csv: str
    rules: int


class ConsequencesRequest(BaseModel):
    """judged_set: whose queries are tried too, else those of the first one there is. read_by: as in a meeting."""

    field: FieldText
    record_chain: TypedChain
    query_chain: TypedChain
    query: QueryText = ""
    judged_set: Annotated[str, Field(max_length=63)] | None = None
    read_by: RankerChoiceModel | None = None


def token_fields(token: Token) -> dict[str, Any]:
    """A TokenModel's fields; what is at its default is left out."""
    fields: dict[str, Any] = {
        "text": well_formed(token.text),
        "start": token.start,
        "end": token.end,
        "position": token.position,
        "span": token.span,
    }
    if token.kept:
        fields["kept"] = True
    return fields


def token_model(token: Token) -> TokenModel:
    """A token as it goes out."""
    return TokenModel(**token_fields(token))


def stage_fields(trace: StageTrace) -> dict[str, Any]:
    """A StageModel's fields."""
    return {
        "stage": trace.stage,
        "kind": trace.kind,
        "text": None if trace.text is None else well_formed(trace.text),
        "tokens": [token_fields(token) for token in trace.tokens],
        "parents": trace.parents,
        "dropped": trace.dropped,
        "changed": trace.changed,
    }
