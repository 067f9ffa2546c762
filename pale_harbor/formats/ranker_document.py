"""The ranker as a JSON document: what may stand in it, what is assumed where it is silent."""

import re
from datetime import date
from math import isnan
from typing import Annotated, Any, Final, Literal, Self

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationError,
    field_validator,
    model_validator,
)

from pale_harbor.core.fields import day_of
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.core.text.stages import STAGE_NAMES
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable

ChainText = Annotated[str, Field(min_length=1, max_length=10_000)]
FieldName = Annotated[str, Field(min_length=1, max_length=200)]
MOST_LANGUAGES: Final = 102
UNUSABLE: Final = "This ranker document cannot be used."
_BARE_NAME: Final = re.compile(r"[a-z0-9][a-z0-9_-]*(?::\d+)?")


class _Strict(BaseModel):
    """A part of the document; a key it does not know is an error that names the nearest it knows."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _only_known_keys(cls, data: Any) -> Any:
        if isinstance(data, dict):
            known = list(cls.model_fields)
            for key in data:
                if key not in known:
                    raise ValueError(f'unknown key "{key}". {hint(nearest_name(str(key), known), known)}')
        return data

    @field_validator("*", mode="after")
    @classmethod
    def _storable(cls, value: Any) -> Any:
        if isinstance(value, str) and (wrong := unstorable(value)) is not None:
            raise ValueError(f"this text holds {wrong}.")
        return value


def _is_choice(chain: dict[str, Any]) -> dict[str, Any]:
    """A chain for each language: {"by": FIELD, LANGUAGE: CHAIN …, "else": CHAIN}."""
    missing = [key for key in ("by", "else") if key not in chain]
    if missing:
        raise ValueError(
            f'a chain for each language needs "{missing[0]}": {{"by": "language", "en": "@english", "else": "@plain"}}.'
        )
    if len(chain) > MOST_LANGUAGES:
        raise ValueError(f"there are at most {MOST_LANGUAGES - 2} languages.")
    return chain


ChainByLanguage = Annotated[dict[FieldName, ChainText], AfterValidator(_is_choice)]


class NearnessDocument(_Strict):
    """Extra for words of the query that stand near each other in this reading."""

    weight: float = Field(default=1.0, gt=0, le=1_000)
    gap: int = Field(default=0, ge=0, le=50)
    same_order: bool = True


class ReadingDocument(_Strict):
    """One field read through a chain.

    A chain stands as notation, as @name of a saved chain or as @name:version; or, chosen record by
    record, as {"by": FIELD, LANGUAGE: CHAIN …, "else": CHAIN}, where a bare name is a saved chain too.
    """

    field: FieldName
    chain: ChainText | ChainByLanguage
    query_chain: ChainText | ChainByLanguage | None = None
    weight: float = Field(default=1.0, ge=0, le=1_000_000)
    k1: float = Field(default=1.2, ge=0, le=1_000)
    b: float = Field(default=0.75, ge=0, le=1)
    share: float = Field(default=0.0, ge=0, le=1)
    slack: bool = True
    nearness: NearnessDocument | None = None


class CombineDocument(_Strict):
    """How readings become one score: summed, the strongest with a share of the rest, or pooled."""

    how: Literal["sum", "strongest", "pooled"] = "sum"
    share: float = Field(default=0.0, ge=0, le=1)
    k1: float = Field(default=1.2, ge=0, le=1_000)


_PERCENT: Final = re.compile(r"(?:100|[1-9]?\d)%")


def _check_amount(amount: int | str) -> None:
    """How many words: "any", "all", a number, or a share such as "75%"."""
    if isinstance(amount, str) and amount not in ("any", "all") and not _PERCENT.fullmatch(amount):
        raise ValueError('this is "any", "all", a number of words such as 2, or a share of them such as "75%".')
    if isinstance(amount, int) and not 1 <= amount <= 100:
        raise ValueError("a number of words is from 1 to 100.")


def _is_need(need: int | str | dict[str, int | str]) -> int | str | dict[str, int | str]:
    """An amount, or amounts by the length of the query: from so many words on."""
    for start, amount in need.items() if isinstance(need, dict) else [("1", need)]:
        if not (start.isdecimal() and 1 <= int(start) <= 100):
            raise ValueError(f'"{start}" is no number of words: {{"1": "all", "4": "75%"}} needs all of up to three.')
        _check_amount(amount)
    return need


class SpellingDocument(_Strict):
    """Spelling slack."""

    edits: Literal["by_length", 0, 1, 2] = "by_length"
    lengths: tuple[Annotated[int, Field(ge=1, le=60)], Annotated[int, Field(ge=1, le=60)]] = Field(
        default=(5, 8), strict=False
    )
    fixed_start: int = Field(default=1, ge=0, le=10)
    most: int = Field(default=20, ge=1, le=100)
    worth: float = Field(default=0.5, gt=0, le=1)
    when: Literal["always", "rare", "missing"] = "missing"
    rare: int = Field(default=5, ge=1, le=1_000_000)
    similar: float | None = Field(default=None, ge=0.1, le=1)


def _is_now(now: float | str | None) -> float | str | None:
    if isinstance(now, str) and isnan(day_of(now, last=False)):
        raise ValueError(f'"{now}" is no date: write it as 2024-05-31, or as a number for a field of numbers.')
    return now


class SignalDocument(_Strict):
    """A field's number as a part of the score."""

    field: FieldName
    shape: Literal["value", "log", "saturation", "rank", "flag", "half_life", "linear", "bell"]
    weight: float = Field(default=1.0, ge=-1_000_000, le=1_000_000)
    scale: float = Field(default=1.0, gt=0, le=1e12)
    without: float = Field(default=0.0, ge=-1e9, le=1e9)
    now: Annotated[float | str | None, AfterValidator(_is_now)] = None
    how: Literal["add", "multiply"] = "add"


Key = Annotated[str, Field(min_length=1, max_length=500)]
Keys = Annotated[list[Key], Field(min_length=1, max_length=100)]
Factor = Annotated[float, Field(ge=0, le=1_000)]


class ConditionDocument(_Strict):
    """Which queries a rule is for: one of these keys, or none of them for every query."""

    query: Annotated[str, Field(min_length=1, max_length=1_000)] | None = None
    list: Annotated[str, Field(pattern=r"^@[a-z0-9][a-z0-9_-]*(?::\d+)?$")] | None = None
    pattern: Annotated[str, Field(min_length=1, max_length=1_000)] | None = None

    @model_validator(mode="after")
    def _one_at_most(self) -> Self:
        if sum(value is not None for value in (self.query, self.list, self.pattern)) > 1:
            raise ValueError('a rule looks for one thing: "query", "list" or "pattern".')
        return self


class ActionDocument(_Strict):
    """What a rule does: one of pin, lift, hide, filter, look_in, weigh."""

    pin: Keys | None = None
    lift: Keys | None = None
    hide: Keys | None = None
    filter: FieldName | None = None
    look_in: FieldName | None = None
    weigh: FieldName | None = None
    by: Factor | None = None
    spread: Annotated[float, Field(ge=0, le=1e12)] | None = None

    @model_validator(mode="after")
    def _one_thing(self) -> Self:
        done = [name for name in ACTIONS if getattr(self, name) is not None]
        if len(done) != 1:
            raise ValueError(f"a rule does one thing: {', '.join(ACTIONS)}.")
        if (self.by is not None) != (done[0] in ("lift", "weigh")):
            raise ValueError('"by" says what is multiplied with: it belongs to "lift" and "weigh", and they need it.')
        if self.spread is not None and done[0] != "filter":
            raise ValueError('"spread" belongs to "filter".')
        return self


ACTIONS: Final = ("pin", "lift", "hide", "filter", "look_in", "weigh")


def _is_day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError(f'"{text}" is no day: write it as 2030-05-31.') from None


class RuleDocument(_Strict):
    """What is done for which queries, why, and until when."""

    when: ConditionDocument = ConditionDocument()
    do: ActionDocument
    reason: Annotated[str, Field(max_length=1_000)] = ""
    until: Annotated[str, AfterValidator(_is_day)] | None = None
    on: bool = True


class FilterDocument(_Strict):
    """What records have to pass: one of these values, a range, or having any value at all."""

    field: FieldName
    one_of: Annotated[list[Annotated[str, Field(max_length=1_000)]], Field(min_length=1, max_length=200)] | None = None
    low: Annotated[str, Field(max_length=100)] | None = None
    high: Annotated[str, Field(max_length=100)] | None = None
    has: bool | None = None

    @model_validator(mode="after")
    def _one_kind(self) -> Self:
        kinds = [self.one_of is not None, self.low is not None or self.high is not None, self.has is not None]
        if sum(kinds) != 1:
            raise ValueError('a filter has "one_of", or "low" and "high" (one of them may be missing), or "has".')
        return self


def filter_documents(data: Any) -> list[dict[str, Any]]:
    """Filters that stand by themselves, checked. Raises BadInput that names what is wrong."""
    try:
        found = TypeAdapter(list[FilterDocument]).validate_python(data)
    except ValidationError as error:
        problems = [(_path(problem["loc"]), _words(problem)) for problem in error.errors()]
        raise BadInput("These filters cannot be used.", problems) from error
    return [one.model_dump(exclude_none=True) for one in found]


SpaceName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,62}$")]


class SpaceUseDocument(_Strict):
    """A space that is asked beside the words."""

    space: SpaceName
    weight: float = Field(default=1.0, gt=0, le=1_000)
    fetch: int = Field(default=100, ge=1, le=10_000)
    at_least: float | None = Field(default=None, ge=-1e6, le=1e6)


class BlendDocument(_Strict):
    """How the words' list and those of the spaces become one."""

    how: Literal["reciprocal_rank", "weighted_sum", "fill_up", "reorder", "formula"] = "reciprocal_rank"
    meaning: float = Field(default=0.5, ge=0, le=1)
    k: float = Field(default=60.0, ge=0, le=100_000)
    normalise: Literal["min_max", "z_score", "rank", "none"] = "min_max"
    fetch: int = Field(default=1_000, ge=1, le=100_000)
    depth: int = Field(default=50, ge=1, le=10_000)
    formula: Annotated[str, Field(min_length=1, max_length=2_000)] | None = None

    @model_validator(mode="after")
    def _formula_where_it_counts(self) -> Self:
        if self.how == "formula" and self.formula is None:
            raise ValueError('a blend by formula needs "formula".')
        return self


class SecondStageDocument(_Strict):
    """The first records put in a new order, word by word."""

    space: SpaceName
    first: int = Field(default=20, ge=1, le=200)
    weight: float = Field(default=0.5, ge=0, le=1)


class QueriesDocument(_Strict):
    """Which queries are of a kind: whatever is said of them must hold."""

    at_least_words: int | None = Field(default=None, ge=0, le=1_000)
    at_most_words: int | None = Field(default=None, ge=0, le=1_000)
    pattern: Annotated[str, Field(min_length=1, max_length=1_000)] | None = None
    quoted: bool | None = None

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if all(value is None for value in self.model_dump().values()):
            raise ValueError('a kind of queries needs "at_least_words", "at_most_words", "pattern" or "quoted".')
        return self


class QueryKindDocument(_Strict):
    """Queries of one kind, and their own blend."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    when: QueriesDocument
    blend: BlendDocument


class RankerDocument(_Strict):
    """A whole ranker."""

    readings: list[ReadingDocument] = Field(min_length=1, max_length=64)
    combine: CombineDocument = CombineDocument()
    need: Annotated[int | str | dict[str, int | str], AfterValidator(_is_need)] = "any"
    spelling: SpellingDocument | None = None
    signals: list[SignalDocument] = Field(default_factory=list[SignalDocument], max_length=32)
    rules: list[RuleDocument] = Field(default_factory=list[RuleDocument], max_length=500)
    filters: list[FilterDocument] = Field(default_factory=list[FilterDocument], max_length=32)
    one_per: FieldName | None = None
    equals_by: list[FieldName] = Field(default_factory=list[FieldName], max_length=16)
    spaces: list[SpaceUseDocument] = Field(default_factory=list[SpaceUseDocument], max_length=8)
    blend: BlendDocument = BlendDocument()
    second_stage: SecondStageDocument | None = None
    kinds: list[QueryKindDocument] = Field(default_factory=list[QueryKindDocument], max_length=32)

    @model_validator(mode="after")
    def _each_space_once(self) -> Self:
        names = [one.space for one in self.spaces]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(f'the space "{twice}" stands there twice; give it one weight.')
        return self


def ranker_document(data: Any) -> RankerDocument:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return RankerDocument.model_validate(data)
    except ValidationError as error:
        problems = [(_path(problem["loc"]), _words(problem)) for problem in error.errors()]
        raise BadInput(UNUSABLE, problems) from error


def named_fields(document: RankerDocument) -> list[tuple[str, str]]:
    """Every field that the document names, with where it does."""
    named = [(f"readings[{i}].field", reading.field) for i, reading in enumerate(document.readings)]
    named += language_fields(document)
    named += [(f"signals[{i}].field", signal.field) for i, signal in enumerate(document.signals)]
    named += [(f"filters[{i}].field", one.field) for i, one in enumerate(document.filters)]
    for i, rule in enumerate(document.rules):
        for part in ("filter", "look_in", "weigh"):
            field = getattr(rule.do, part)
            if field is not None:
                named.append((f"rules[{i}].do.{part}", field))
    if document.one_per is not None:
        named.append(("one_per", document.one_per))
    return named + [(f"equals_by[{i}]", name.removeprefix("-")) for i, name in enumerate(document.equals_by)]


def named_spaces(document: RankerDocument) -> list[tuple[str, str]]:
    """Every space that the document names, with where it does."""
    named = [(f"spaces[{i}].space", one.space) for i, one in enumerate(document.spaces)]
    if document.second_stage is not None:
        named.append(("second_stage.space", document.second_stage.space))
    return named


def chain_texts(document: RankerDocument) -> list[tuple[str, str]]:
    """Every chain that the document names, each with the field it reads; a saved one with its @."""
    found: list[tuple[str, str]] = []
    for reading in document.readings:
        for choice in (reading.chain, reading.query_chain):
            if isinstance(choice, dict):
                found += [(reading.field, reference(text)) for key, text in choice.items() if key != "by"]
            elif choice is not None:
                found.append((reading.field, choice.strip()))
    return found


def language_fields(document: RankerDocument) -> list[tuple[str, str]]:
    """The fields by which readings choose their chains, each with where the document names it."""
    return [
        (f"readings[{number}].{part}.by", choice["by"])
        for number, reading in enumerate(document.readings)
        for part, choice in (("chain", reading.chain), ("query_chain", reading.query_chain))
        if isinstance(choice, dict)
    ]


def reference(text: str) -> str:
    """A bare name that is no stage is the name of a saved chain."""
    name = text.strip()
    return f"@{name}" if _BARE_NAME.fullmatch(name) and name not in STAGE_NAMES else text


def _path(loc: tuple[int | str, ...]) -> str:
    path = ""
    for step in loc:
        if isinstance(step, str) and (step in ("int", "str", "float") or "[" in step):
            # Which of several types was tried says nothing to people.
            continue
        path += f"[{step}]" if isinstance(step, int) else f".{step}" if path else step
    return path


def _words(problem: Any) -> str:
    if problem["type"] == "value_error":
        return str(problem["ctx"]["error"])
    message = problem["msg"]
    given = problem.get("input")
    shown = f" (here: {given!r})" if isinstance(given, str | int | float) and len(repr(given)) < 80 else ""
    return f"{message[0].lower()}{message[1:]}{shown}."
