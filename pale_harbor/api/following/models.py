"""What goes in and out of following over HTTP."""

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from pale_harbor.api.models import MOST, kept_text
from pale_harbor.formats.following.document import LONGEST_QUERY, FollowedTable
from pale_harbor.formats.names import FieldName
from pale_harbor.store.following.sources import UnfitRow

Password = Annotated[str, BeforeValidator(kept_text), Field(max_length=1_000)]
SqlText = Annotated[str, BeforeValidator(kept_text), Field(min_length=1, max_length=LONGEST_QUERY)]


class ConnectionRequest(BaseModel):
    """document: as docs/in-step.md has it. password: the one that is kept stays where it is left out."""

    model_config = ConfigDict(extra="forbid")

    document: dict[str, Any]
    password: Password | None = None


class DraftRequest(BaseModel):
    """table: with its schema; joins: the ways that are joined along, the usual ones where it is left out."""

    model_config = ConfigDict(extra="forbid")

    table: Annotated[str, Field(min_length=1, max_length=300)]
    joins: Annotated[list[Annotated[str, Field(max_length=1_000)]], Field(max_length=50)] | None = None


class LookRequest(BaseModel):
    """A query before it is followed."""

    model_config = ConfigDict(extra="forbid")

    query: SqlText
    key: FieldName
    tables: Annotated[list[FollowedTable], Field(max_length=100)] = []
    changed_at: FieldName | None = None


class FollowRequest(BaseModel):
    """document: as docs/in-step.md has it."""

    model_config = ConfigDict(extra="forbid")

    document: dict[str, Any]


class CompareWithSourceRequest(BaseModel):
    """take_columns: whether the columns that the query gives now are right, whatever they were."""

    model_config = ConfigDict(extra="forbid")

    take_columns: bool = False


class AgreeToFollowingRequest(BaseModel):
    """deletions: how many records may go."""

    model_config = ConfigDict(extra="forbid")

    deletions: Annotated[int, Field(ge=0, le=MOST)]


class UnfitPage(BaseModel):
    """Rows that cannot become records; found: how many in all."""

    rows: list[UnfitRow]
    found: int
