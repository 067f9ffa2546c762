"""The import plan: how a source is read, and what its fields are. Guessed, shown, corrected, then kept."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName

Kind = Literal["text", "exact", "number", "date", "flag"]
Role = Literal["key", "title", "language", "picture", "places"]


class FieldPlan(BaseModel):
    """What one field of the source is.

    several: whether a record may hold more than one value; split: the text between several values
    that stand in one cell. keep: whether the field is taken over at all.
    """

    model_config = ConfigDict(extra="forbid")

    name: FieldName
    kind: Kind = "text"
    several: bool = False
    split: Annotated[str, Field(max_length=8)] | None = None
    role: Role | None = None
    keep: bool = True


class ImportPlan(BaseModel):
    """How a source becomes records.

    format: the name of a format, told from the content where it is None. columns: the header of
    delimited text, as it stands there. key: the field that names
    a record; None where the rows are numbered instead. fields: None where values stay as they stand
    and each field becomes what its values are. replace: records that the source does not name go. fill_in: a row
    changes only the fields that it fills, and its record keeps what it has beside them.
    """

    model_config = ConfigDict(extra="forbid")

    format: Annotated[str, Field(max_length=40)] | None = None
    encoding: Annotated[str, Field(max_length=40)] | None = None
    delimiter: Annotated[str, Field(min_length=1, max_length=1)] | None = None
    quote: Annotated[str, Field(min_length=1, max_length=1)] = '"'
    columns: Annotated[list[str], Field(max_length=2_000)] | None = None
    key: FieldName | None = None
    fields: Annotated[list[FieldPlan], Field(max_length=2_000)] | None = None
    replace: bool = False
    fill_in: bool = False

    def field(self, name: str) -> FieldPlan | None:
        """What is planned of a field, None where nothing is said of it."""
        return next((one for one in self.fields or [] if one.name == name), None)


def import_plan(data: Any) -> ImportPlan:
    """The plan, checked. Raises BadInput."""
    try:
        return ImportPlan.model_validate(data)
    except ValidationError as error:
        problems = [(".".join(map(str, one["loc"])), one["msg"]) for one in error.errors()]
        raise BadInput("This import plan cannot be used.", problems) from error
