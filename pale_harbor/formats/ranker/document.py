"""A ranker as a JSON document: checked, with what is assumed where it is silent."""

from functools import cached_property
from typing import Any, ClassVar, Final, Self

import orjson
from pydantic import GetCoreSchemaHandler, ValidationError
from pydantic_core import CoreSchema, core_schema

from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.forms import UNUSABLE
from pale_harbor.formats.ranker.models import model_of
from pale_harbor.formats.ranker.unions import FILTER, OneOfParts

_NO_FILTERS: Final = "These filters cannot be used."


class Document:
    """A part as it was written, checked. Raises BadInput that names every place that is wrong."""

    part: ClassVar[type | OneOfParts]
    unusable: ClassVar[str] = UNUSABLE

    def __init__(self, data: Any) -> None:
        try:
            model = model_of(self.part).model_validate(data)
        except ValidationError as error:
            problems = [(_path(problem["loc"]), _words(problem)) for problem in error.errors()]
            raise BadInput(self.unusable, problems) from error
        self._model = model

    @cached_property
    def whole(self) -> dict[str, Any]:
        """With every default written out."""
        return self._model.model_dump(mode="json")

    @cached_property
    def written(self) -> dict[str, Any]:
        """What was said, as JSON."""
        return self._model.model_dump(mode="json", exclude_unset=True)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, type(self)) and self.whole == other.whole

    __hash__ = None  # pyright: ignore[reportAssignmentType]

    @property
    def brief(self) -> dict[str, Any]:
        """Without whatever is as it would be anyway."""
        return self._model.model_dump(mode="json", exclude_defaults=True)

    @property
    def text(self) -> str:
        """All of it as JSON: two that do the same have the same."""
        return orjson.dumps(self.whole).decode()

    @classmethod
    def _read(cls, data: Any) -> Self:
        return data if isinstance(data, cls) else cls(data)

    @classmethod
    def __get_pydantic_core_schema__(cls, _source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        # The model's own reading is only there for its JSON Schema: its errors would not be ours.
        return core_schema.no_info_wrap_validator_function(
            lambda data, _model: cls._read(data),
            handler.generate_schema(model_of(cls.part)),
            serialization=core_schema.plain_serializer_function_ser_schema(lambda document: document.whole),
        )


class RankerDocument(Document):
    """A whole ranker."""

    part = Ranker


class FilterDocument(Document):
    """What records have to pass: one of some values, a range, or having any value at all."""

    part = FILTER
    unusable = _NO_FILTERS

    @cached_property
    def written(self) -> dict[str, Any]:
        return {key: value for key, value in super().written.items() if value is not None}


def ranker_document(data: Any) -> RankerDocument:
    """The document, checked. Raises BadInput that names every place that is wrong.

    >>> ranker_document({"readings": [{"field": "title", "chain": "words"}]}).whole["readings"][0]["b"]
    0.75
    """
    return data if isinstance(data, RankerDocument) else RankerDocument(data)


def filter_documents(data: Any) -> list[dict[str, Any]]:
    """Filters that stand by themselves, checked, as they are kept. Raises BadInput that names what is wrong."""
    if not isinstance(data, list):
        raise BadInput(_NO_FILTERS, [("", "a list of filters is wanted.")])
    found: list[dict[str, Any]] = []
    for number, one in enumerate(data):
        try:
            found.append(FilterDocument(one).written)
        except BadInput as error:
            raise BadInput(_NO_FILTERS, [(f"[{number}].{where}", what) for where, what in error.problems]) from error
    return found


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
