"""How a record is shown in every list of results: title, picture, chosen fields."""

from collections.abc import Sequence
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName

ShownLength = Literal["line", "short", "whole"]

_BODIES: Final = ("description", "text", "body", "content", "summary", "abstract")
_SHOWN_AT_FIRST: Final = 12


class ShownField(BaseModel):
    """A field below the title. length: in the line of small facts, shortened around its marks, or whole."""

    model_config = ConfigDict(extra="forbid")

    field: FieldName
    length: ShownLength = "line"


class DisplayDocument(BaseModel):
    """What is shown of a record, in this order. title and picture: fields; the key stands in for no title."""

    model_config = ConfigDict(extra="forbid")

    title: FieldName | None = None
    picture: FieldName | None = None
    fields: Annotated[list[ShownField], Field(max_length=50)] = Field(default_factory=list[ShownField])


def display_document(data: Any) -> DisplayDocument:
    """The document, checked. Raises BadInput."""
    try:
        return DisplayDocument.model_validate(data)
    except ValidationError as error:
        problems = [(".".join(map(str, one["loc"])), str(one["msg"])) for one in error.errors()]
        raise BadInput("This display cannot be used.", problems) from error


def default_display(fields: Sequence[tuple[str, str, str | None]]) -> DisplayDocument:
    """What is shown until somebody says: the title, one long text shortened, and the rest in a line.

    fields: name, kind and role of each.
    """
    by_role = {role: name for name, _, role in fields if role is not None}
    texts = [name for name, kind, role in fields if kind == "text" and role is None]
    title = by_role.get("title") or next(iter(texts), None)
    body = next((name for name in texts if name.lower() in _BODIES), None)
    body = body or next((name for name in texts if name != title), None)
    shown = [] if body is None else [ShownField(field=body, length="short")]
    for name, _, role in fields:
        if name not in (title, body) and role not in ("key", "picture", "places") and len(shown) < _SHOWN_AT_FIRST:
            shown.append(ShownField(field=name))
    return DisplayDocument(title=title, picture=by_role.get("picture"), fields=shown)
