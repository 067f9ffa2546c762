"""What a visitor's page sends to the search endpoint: as an address or as JSON, read into the same models."""

from typing import Annotated, Any, Final, Literal
from uuid import UUID

import orjson
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError
from pydantic_core import ErrorDetails
from starlette.datastructures import QueryParams

from pale_harbor.api.models import QueryText, kept_text
from pale_harbor.api.ranking.models import DEEPEST_ROW, FacetRequest, LanguageName, PassagesModel
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.formats.ranker.forms import field_order
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.store.delivery.asked import EventKind
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.ranking.passages import PassagesWanted
from pale_harbor.work.ranking.searching import FacetWanted

# Made up by the page that asks: long enough that nobody meets another one's.
Session = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{8,64}$")]


class ListAsked(BaseModel):
    """A query with what it is narrowed to, and which page of its list."""

    model_config = ConfigDict(extra="forbid")

    query: QueryText = ""
    language: LanguageName | None = None
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    sort: Annotated[list[FieldName], Field(max_length=8)] = []
    facets: Annotated[list[FacetRequest], Field(max_length=16)] = []
    top: Annotated[int, Field(ge=1, le=100)] = 10
    skip: Annotated[int, Field(ge=0, le=DEEPEST_ROW)] = 0
    passages: PassagesModel | None = None
    as_said: bool = False
    hits: bool = False
    session: Session | None = None
    time_ms: Annotated[int, Field(ge=1, le=30_000)] | None = None

    def wanted(self, *, is_typed: bool) -> WantedList:
        """The same as the layers below take it. is_typed: whether its last word may be a beginning."""
        own = self.passages
        return WantedList(
            query=self.query,
            filters=tuple(filter_of(one) for one in self.filters),
            sort=tuple(field_order(name) for name in self.sort),
            facets=tuple(FacetWanted(one.field, one.most, one.step) for one in self.facets),
            top=self.top,
            skip=self.skip,
            language=self.language,
            is_typed=is_typed,
            as_said=self.as_said,
            passages=None if own is None else PassagesWanted(own.length, own.most),
            session=self.session,
            time_ms=self.time_ms,
        )


class CompletionsAsked(BaseModel):
    """What was typed so far."""

    model_config = ConfigDict(extra="forbid")

    typed: QueryText
    language: LanguageName | None = None
    top: Annotated[int, Field(ge=1, le=50)] = 8


class CorrectionAsked(BaseModel):
    """A query that may have meant another one."""

    model_config = ConfigDict(extra="forbid")

    query: QueryText
    language: LanguageName | None = None


class PageAsked(BaseModel):
    """What was asked when a page was found."""

    model_config = ConfigDict(extra="forbid")

    # It is said in an address, which is not endless.
    query: Annotated[QueryText, Field(max_length=2_000)] = ""
    language: LanguageName | None = None
    typed: bool = False


class PictureAsked(BaseModel):
    """How a picture is wanted. small: as lists show it."""

    model_config = ConfigDict(extra="forbid")

    small: bool = False


class EventTold(BaseModel):
    """What somebody did with a row of a list: clicked it, or found in it what they wanted."""

    model_config = ConfigDict(extra="forbid")

    query_id: UUID
    kind: EventKind
    record: Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=500)]


def of_address(said: QueryParams, fields: tuple[str, ...]) -> ListAsked:
    """What an address asks: `query`, `language`, `top`, `skip`, `as_said`, `hits`, `session`, `time_ms`; any number of
    `filter=FIELD:VALUE` (values of one field: any of them), `range=FIELD:LOW..HIGH` (either may be missing),
    `facet=FIELD` or `facet=FIELD:WIDTH` of numbers, `sort=FIELD` or `sort=-FIELD`; `passages` for the best one of each
    row, or `passages=LENGTH`.

    fields: that may be named. Raises BadInput.
    """
    body: dict[str, Any] = {}
    problems: list[tuple[str, str]] = []
    one_of: dict[str, list[str]] = {}
    filters: list[dict[str, Any]] = []
    for name, value in said.multi_items():
        if name == "key":
            continue
        if name == "filter":
            field, wanted = _parted(value, fields)
            if wanted is None:
                problems.append(("filter", f'"{value[:100]}" is no FIELD:VALUE.'))
            else:
                one_of.setdefault(field, []).append(wanted)
        elif name == "range":
            field, wanted = _parted(value, fields)
            low, dots, high = (wanted or "").partition("..")
            if not dots:
                problems.append(("range", f'"{value[:100]}" is no FIELD:LOW..HIGH.'))
            else:
                filters.append({"field": field, "low": low or None, "high": high or None})
        elif name == "facet":
            field, width = (value, None) if value in fields else _parted(value, fields)
            body.setdefault("facets", []).append({"field": field} | ({} if width is None else {"step": width}))
        elif name == "sort":
            body.setdefault("sort", []).append(value)
        elif name == "passages":
            body["passages"] = {"length": value} if value else {}
        elif name not in _NAMED_IN_AN_ADDRESS:
            problems.append((name, _no_such_name(name, _NAMED_IN_AN_ADDRESS)))
        elif name in body:
            problems.append((name, "is said twice."))
        else:
            body[name] = value
    filters += [{"field": field, "one_of": values} for field, values in one_of.items()]
    if problems:
        raise BadInput(_CANNOT, problems)
    return read_as(ListAsked, body | ({"filters": filters} if filters else {}))


def _parted(text: str, fields: tuple[str, ...]) -> tuple[str, str | None]:
    """A field and what stands behind it. A field may have a colon in its name: the longest that is one is taken.

    >>> _parted("place:Kestrel Ness: east", ("place",))
    ('place', 'Kestrel Ness: east')
    """
    known = [name for name in fields if text.startswith(f"{name}:")]
    if known:
        field = max(known, key=len)
        return field, text[len(field) + 1 :]
    field, colon, value = text.partition(":")
    return field, value if colon else None


def of_body(content: bytes, model: type[BaseModel]) -> Any:
    """What a JSON body asks. Raises BadInput."""
    try:
        said = orjson.loads(content or b"{}")
    except orjson.JSONDecodeError as error:
        raise BadInput("The request is no JSON.") from error
    return read_as(model, said)


def read_as(model: type[BaseModel], said: Any) -> Any:
    """What was said, checked. Raises BadInput with every place that is wrong."""
    try:
        return model.model_validate(said)
    except ValidationError as error:
        names = tuple(model.model_fields)
        details = [(".".join(str(step) for step in one["loc"]), _what(one, names)) for one in error.errors()]
        raise BadInput(_CANNOT, details) from error


def _what(wrong: ErrorDetails, names: tuple[str, ...]) -> str:
    """What is wrong, to somebody who writes a page. names: that may be said, which helps where another one was."""
    match wrong["type"]:
        case "missing":
            return "is missing."
        case "extra_forbidden" if len(wrong["loc"]) == 1:
            return _no_such_name(str(wrong["loc"][0]), names)
        case _:
            return wrong["msg"]


def _no_such_name(said: str, names: tuple[str, ...]) -> str:
    return f"nothing here has this name. {hint(nearest_name(said, names), names)}"


_NAMED_IN_AN_ADDRESS: Final = (
    *("query", "filter", "range", "facet", "sort", "top", "skip", "language", "passages", "as_said", "hits", "session"),
    "time_ms",
)
_CANNOT: Final = "The request does not have the shape that the endpoint documents."
Asked = Literal["search", "typed", "completions", "correction", "events"]
