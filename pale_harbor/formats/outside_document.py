"""An outside ranker as a JSON document: a run file that was brought, or how a service or a database is asked."""

import re
from typing import Annotated, Any, Final, Literal, Self
from urllib.parse import quote

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, model_validator

from pale_harbor.errors import BadInput

HEADER_NAME: Final = r"^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,100}$"
_STEP: Final = re.compile(r"[^.\[\]]+|\[\d*\]")


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class RunFile(_Strict):
    """Lists that somebody brought as a run file."""

    kind: Literal["file"] = "file"


class AskedService(_Strict):
    """A search that is asked over HTTP.

    address: with {query}, and if wanted {top}, where they go, encoded for addresses (RFC 3986). body: JSON that is
    posted instead, with the same places in it, escaped as JSON. keys: where in the JSON answer the record keys are:
    names with dots, [] for each of a list, such as results[].id. scores: the same for scores; without them records
    stand in the order of the answer. pace: questions in a second at most. headers: names of those that are sent;
    their values are kept apart and shown to nobody.
    """

    kind: Literal["service"] = "service"
    address: Annotated[str, Field(max_length=2_000, pattern=r"^https?://[^\s@]+$")]
    body: Annotated[str, Field(max_length=10_000)] | None = None
    keys: Annotated[str, Field(min_length=1, max_length=300)]
    scores: Annotated[str, Field(max_length=300)] | None = None
    top: Annotated[int, Field(ge=1, le=1_000)] = 100
    pace: Annotated[float, Field(gt=0, le=100)] = 2.0
    seconds: Annotated[float, Field(ge=0.1, le=120)] = 10.0
    headers: Annotated[list[Annotated[str, Field(pattern=HEADER_NAME)]], Field(max_length=20)] = []

    @model_validator(mode="after")
    def _asks_something(self) -> Self:
        if "{query}" not in self.address and "{query}" not in (self.body or ""):
            raise ValueError("say where the query goes: write {query} in the address or in the body.")
        for path in (self.keys, self.scores):
            if path is not None:
                steps_of(path)
        return self


class AskedDatabase(_Strict):
    """A live database's own search, asked by a statement.

    connection: the name of a kept connection. statement: a SELECT with {query} where the query goes, as one value; its
    first column is the record's key, its second, if there is one, the score; its rows stand in their order. seconds:
    for how long it may take; pace: statements in a second at most.
    """

    kind: Literal["database"] = "database"
    connection: Annotated[str, Field(min_length=1, max_length=63)]
    statement: Annotated[str, Field(min_length=1, max_length=20_000)]
    top: Annotated[int, Field(ge=1, le=1_000)] = 100
    pace: Annotated[float, Field(gt=0, le=100)] = 10.0
    seconds: Annotated[float, Field(ge=0.1, le=120)] = 10.0

    @model_validator(mode="after")
    def _asks_something(self) -> Self:
        if "{query}" not in self.statement:
            raise ValueError("say where the query goes: write {query} in the statement, without quotes around it.")
        return self


Outside = RunFile | AskedService | AskedDatabase
OutsideDocument = Annotated[Outside, Field(discriminator="kind")]


def outside_document(data: Any) -> Outside:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return TypeAdapter[Outside](OutsideDocument).validate_python(data)
    except ValidationError as error:
        problems = [
            (".".join(str(step) for step in one["loc"][1:]), one["msg"].removeprefix("Value error, "))
            for one in error.errors()
        ]
        raise BadInput("This outside ranker cannot be used.", problems) from error


def steps_of(path: str) -> list[str | int | None]:
    """A path's steps: names, numbers of a list's items, None for each item.

    Raises ValueError with what a path looks like.

    >>> steps_of("hits[].record.id")
    ['hits', None, 'record', 'id']
    """
    steps: list[str | int | None] = []
    at = 0
    for found in _STEP.finditer(path):
        between = path[at : found.start()]
        if between not in ("", "."):
            break
        part = found.group()
        steps.append(part if part[0] != "[" else int(part[1:-1]) if part != "[]" else None)
        at = found.end()
    if at != len(path) or not steps:
        raise ValueError(f'"{path}" is no path: write names with dots between, [] for each of a list: results[].id')
    return steps


def found_at(answer: Any, path: str) -> list[Any]:
    """Everything that stands at a path, in order; what is missing on the way is left out.

    >>> found_at({"hits": [{"id": "a"}, {}, {"id": "b"}]}, "hits[].id")
    ['a', 'b']
    """
    here = [answer]
    for step in steps_of(path):
        there: list[Any] = []
        for value in here:
            if step is None:
                there += value if isinstance(value, list) else []
            elif isinstance(step, int):
                there += value[step : step + 1] if isinstance(value, list) else []
            elif isinstance(value, dict) and step in value:
                there.append(value[step])
        here = there
    return here


def address_for(service: AskedService, query: str) -> str:
    """The address with query and depth in their places."""
    return service.address.replace("{top}", str(service.top)).replace("{query}", quote(query, safe=""))
