"""The ranker as a JSON document: what may stand in it, what is assumed where it is silent."""

from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from pale_harbor.core.ranking import FieldOrder, Ranker, Reading
from pale_harbor.core.text import Chain, ChainError, chain_of
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable

ChainText = Annotated[str, Field(min_length=1, max_length=10_000)]
FieldName = Annotated[str, Field(min_length=1, max_length=200)]


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


class ReadingDocument(_Strict):
    """One field read through a chain. A chain stands as notation or as @name of a saved chain."""

    field: FieldName
    chain: ChainText
    query_chain: ChainText | None = None
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


def ranker_of(document: RankerDocument, saved_chain: Callable[[str], Chain]) -> Ranker:
    """The ranker that a document describes.

    saved_chain: gives the chain of a name, raises NotFound. Raises BadInput for a wrong chain.
    """
    readings: list[Reading] = []
    for number, reading in enumerate(document.readings):
        where = f"readings[{number}]"
        chain = _chain(reading.chain, saved_chain, f"{where}.chain")
        query_chain = chain
        if reading.query_chain is not None:
            query_chain = _chain(reading.query_chain, saved_chain, f"{where}.query_chain")
        readings.append(Reading(reading.field, chain, query_chain, reading.weight, reading.k1, reading.b))
    equals_by = tuple(FieldOrder(name.removeprefix("-"), name.startswith("-")) for name in document.equals_by)
    return Ranker(tuple(readings), equals_by)


def saved_chain_names(document: RankerDocument) -> list[str]:
    """The saved chains that a document names, each once, in order."""
    written = [text for r in document.readings for text in (r.chain, r.query_chain) if text is not None]
    return list(dict.fromkeys(text.strip()[1:] for text in written if text.strip().startswith("@")))


def _chain(text: str, saved_chain: Callable[[str], Chain], where: str) -> Chain:
    if text.strip().startswith("@"):
        return saved_chain(text.strip()[1:])
    try:
        return chain_of(text)
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
