"""What goes in and out over HTTP about chains and word lists."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, Field

from pale_harbor.api.models import FreeText, QueryText, well_formed_text
from pale_harbor.api.problems import Problem
from pale_harbor.core.consequences import Consequences, Finding, Merge, WordCount
from pale_harbor.core.text import Mooring, StageTrace, Token
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.formats.storable import well_formed

ChainText = Annotated[str, BeforeValidator(well_formed_text), Field(max_length=10_000)]
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


class MooringModel(BaseModel):
    query_token: int
    record_tokens: list[int]
    reason: str | None


class MeetRequest(BaseModel):
    """A record's text and a query's text, each with its chain (notation or @name).

    record_off, query_off: numbers of stages, from 0, that are left out for a look.
    """

    record_chain: ChainText
    query_chain: ChainText
    text: FreeText
    query: QueryText
    record_off: list[Annotated[int, Field(ge=0, le=63)]] = []
    query_off: list[Annotated[int, Field(ge=0, le=63)]] = []


class CallModel(BaseModel):
    """One stage as written: its stretch of the notation, in code points, and its kind where it has one."""

    name: str
    text: str
    start: int
    end: int
    kind: StageKind | None


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
    moorings: list[MooringModel]


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


class ChainUseModel(BaseModel):
    """A ranker's newest version that reads fields through a saved chain, and the version it reads."""

    ranker: str
    ranker_version: int
    chain_version: int
    fields: list[str]


class ChainModel(BaseModel):
    """The newest version of a saved chain, and who uses the chain in which version."""

    name: str
    version: int
    notation: str
    used_by: list[ChainUseModel]


class ChainRequest(BaseModel):
    notation: ChainText


class WordListModel(BaseModel):
    """The newest version of a word list. used_by: saved chains that read it."""

    name: str
    version: int
    kind: ListKind
    entries: int
    used_by: list[str]


class WordListText(BaseModel):
    """One version of a word list as CSV."""

    name: str
    version: int
    kind: ListKind
    csv: str


class WordListRequest(BaseModel):
    """A word list as CSV; the kind where the first line does not name the columns."""

    csv: Annotated[str, Field(max_length=20_000_000)]
    kind: ListKind | None = None


class ThesaurusAnswer(BaseModel):
    """Synonyms read from a thesaurus, as CSV; nothing is kept yet."""

    csv: str
    rules: int


class SampleModel(BaseModel):
    key: str
    text: str


class ConsequencesRequest(BaseModel):
    """judged_set: whose queries are tried too; the first one there is where it is left out."""

    field: FieldText
    record_chain: ChainText
    query_chain: ChainText
    query: QueryText = ""
    judged_set: Annotated[str, Field(max_length=63)] | None = None


class WordCountModel(BaseModel):
    word: str
    count: int


class MergeModel(BaseModel):
    """Different words that share one term; see core.consequences.Merge."""

    term: str
    word_count: int
    words: list[WordCountModel]
    unlike: tuple[str, str, float] | None
    suspicion: float


class StageEffectModel(BaseModel):
    stage: str
    changed: int


class IndexBytesModel(BaseModel):
    terms: int
    postings: int
    positions: int
    letters: int
    lengths: int
    total: int


class MendModel(BaseModel):
    """The chains as they would be; null where one stays as it is."""

    label: str
    record_chain: str | None
    query_chain: str | None


class FindingModel(BaseModel):
    name: str
    sentence: str
    evidence: list[str]
    mend: MendModel | None


class ConsequencesModel(BaseModel):
    """What a chain does to the records looked at; see core.consequences.Consequences."""

    records: int
    records_in_all: int
    is_sample: bool
    values: int
    text_bytes: int
    vocabulary: int
    words: int
    tokens: int
    tokens_per_record: tuple[float, float, int]
    index_bytes: IndexBytesModel
    most_merged: list[MergeModel]
    suspicious: list[MergeModel]
    merging_terms: int
    dropped: list[WordCountModel]
    dropped_words: int
    dropped_tokens: int
    empty_values: list[tuple[str, str]]
    empty_count: int
    stages: list[StageEffectModel]
    findings: list[FindingModel]


class ReckoningModel(BaseModel):
    """How far the reading of the whole collection is. state: running, done, cancelled or failed."""

    id: str
    state: str
    records_read: int
    records_in_all: int
    problem: str | None


class ConsequencesAnswer(BaseModel):
    """The best figures there are now, and the reckoning that gives the exact ones."""

    figures: ConsequencesModel
    reckoning: ReckoningModel


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


def mooring_model(mooring: Mooring) -> MooringModel:
    return MooringModel(
        query_token=mooring.query_token, record_tokens=list(mooring.record_tokens), reason=mooring.reason
    )


def consequences_model(figures: Consequences, found: list[Finding]) -> ConsequencesModel:
    return ConsequencesModel(
        records=figures.records,
        records_in_all=figures.records_in_all,
        is_sample=figures.is_sample,
        values=figures.values,
        text_bytes=figures.text_bytes,
        vocabulary=figures.vocabulary,
        words=figures.words,
        tokens=figures.tokens,
        tokens_per_record=figures.tokens_per_record,
        index_bytes=IndexBytesModel(
            terms=figures.index_bytes.terms,
            postings=figures.index_bytes.postings,
            positions=figures.index_bytes.positions,
            letters=figures.index_bytes.letters,
            lengths=figures.index_bytes.lengths,
            total=figures.index_bytes.total,
        ),
        most_merged=[_merge_model(merge) for merge in figures.most_merged],
        suspicious=[_merge_model(merge) for merge in figures.suspicious],
        merging_terms=figures.merging_terms,
        dropped=[_word_model(word) for word in figures.dropped],
        dropped_words=figures.dropped_words,
        dropped_tokens=figures.dropped_tokens,
        empty_values=[(key, well_formed(text)) for key, text in figures.empty_values],
        empty_count=figures.empty_count,
        stages=[StageEffectModel(stage=effect.stage, changed=effect.changed) for effect in figures.stages],
        findings=[_finding_model(finding) for finding in found],
    )


def _merge_model(merge: Merge) -> MergeModel:
    unlike = merge.unlike and (well_formed(merge.unlike[0]), well_formed(merge.unlike[1]), merge.unlike[2])
    return MergeModel(
        term=well_formed(merge.term),
        word_count=merge.word_count,
        words=[_word_model(word) for word in merge.words],
        unlike=unlike,
        suspicion=merge.suspicion,
    )


def _word_model(word: WordCount) -> WordCountModel:
    return WordCountModel(word=well_formed(word.word), count=word.count)


def _finding_model(finding: Finding) -> FindingModel:
    mend = finding.mend
    return FindingModel(
        name=finding.name,
        sentence=finding.sentence,
        evidence=[well_formed(line) for line in finding.evidence],
        mend=mend and MendModel(label=mend.label, record_chain=mend.record_chain, query_chain=mend.query_chain),
    )
