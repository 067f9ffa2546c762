"""The ranker as a JSON document: what may stand in it, what is assumed where it is silent."""

import re
from collections.abc import Callable
from typing import Annotated, Any, Final, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from pale_harbor.core.ranking import FieldOrder, Ranker, Reading
from pale_harbor.core.text import Chain, ChainChoice, ChainError, ChainsByLanguage
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.core.text.stages import STAGE_NAMES
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable

ChainText = Annotated[str, Field(min_length=1, max_length=10_000)]
FieldName = Annotated[str, Field(min_length=1, max_length=200)]
MOST_LANGUAGES: Final = 102
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


class CombineDocument(_Strict):
    """How readings become one score: their weighted scores are summed."""

    how: Literal["sum"] = "sum"


class RankerDocument(_Strict):
    """A whole ranker."""

    readings: list[ReadingDocument] = Field(min_length=1, max_length=64)
    combine: CombineDocument = CombineDocument()
    need: Literal["any"] = "any"
    equals_by: list[FieldName] = Field(default_factory=list[str], max_length=16)


def ranker_document(data: Any) -> RankerDocument:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return RankerDocument.model_validate(data)
    except ValidationError as error:
        problems = [(_path(problem["loc"]), _words(problem)) for problem in error.errors()]
        raise BadInput("This ranker document cannot be used.", problems) from error


def ranker_of(document: RankerDocument, chain: Callable[[str], Chain]) -> Ranker:
    """The ranker that a document describes.

    chain: gives the chain of a notation or an @name, raises NotFound or ChainError. Raises BadInput
    for a wrong chain.
    """
    readings: list[Reading] = []
    for number, reading in enumerate(document.readings):
        where = f"readings[{number}]"
        record_chain = _choice(reading.chain, chain, f"{where}.chain")
        query_chain = record_chain
        if reading.query_chain is not None:
            query_chain = _choice(reading.query_chain, chain, f"{where}.query_chain")
        readings.append(Reading(reading.field, record_chain, query_chain, reading.weight, reading.k1, reading.b))
    equals_by = tuple(FieldOrder(name.removeprefix("-"), name.startswith("-")) for name in document.equals_by)
    return Ranker(tuple(readings), equals_by)


def chain_texts(document: RankerDocument) -> list[tuple[str, str]]:
    """Every chain that the document names, each with the field it reads; a saved one with its @."""
    found: list[tuple[str, str]] = []
    for reading in document.readings:
        for choice in (reading.chain, reading.query_chain):
            if isinstance(choice, dict):
                found += [(reading.field, _reference(text)) for key, text in choice.items() if key != "by"]
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


def _choice(written: str | dict[str, str], chain: Callable[[str], Chain], where: str) -> ChainChoice:
    if isinstance(written, str):
        return _chain(written, chain, where)
    chains = [
        (language, _chain(_reference(text), chain, f"{where}.{language}"))
        for language, text in written.items()
        if language not in ("by", "else")
    ]
    return ChainsByLanguage(written["by"], tuple(chains), _chain(_reference(written["else"]), chain, f"{where}.else"))


def _reference(text: str) -> str:
    """A bare name that is no stage is the name of a saved chain."""
    name = text.strip()
    return f"@{name}" if _BARE_NAME.fullmatch(name) and name not in STAGE_NAMES else text


def _chain(text: str, chain: Callable[[str], Chain], where: str) -> Chain:
    try:
        return chain(text)
    except ChainError as error:
        raise BadInput("This ranker document cannot be used.", [(where, str(error))]) from error


def _path(loc: tuple[int | str, ...]) -> str:
    path = ""
    for step in loc:
        path += f"[{step}]" if isinstance(step, int) else f".{step}" if path else step
    return path


def _words(problem: Any) -> str:
    if problem["type"] == "value_error":
        return str(problem["ctx"]["error"])
    message = problem["msg"]
    given = problem.get("input")
    shown = f" (here: {given!r})" if isinstance(given, str | int | float) and len(repr(given)) < 80 else ""
    return f"{message[0].lower()}{message[1:]}{shown}."
