"""How a collection follows a live database, as a JSON document."""

import re
from typing import Annotated, Any, Final, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.records.plan import FieldPlan, ImportPlan

# asking: what changed since is asked for; triggers: the database notes each change in a table; decoding: changes are
# read from the log that the database writes anyway.
Way = Literal["asking", "triggers", "decoding"]

LONGEST_QUERY: Final = 100_000
_PLACE: Final = re.compile(r"\{([^{}]*)\}")
_OWN_KEY: Final = re.compile(r"select\s+\{([^{}]+)\}", re.IGNORECASE)


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class FollowedTable(_Strict):
    """A table that the query reads, and which records a row of it belongs to.

    name: as SQL writes it, with its schema where that has to be said. owners: a SELECT of one column, the keys of the
    records, with {column} where a column of the row goes: select id from articles where author_id = {id}.
    """

    name: Annotated[str, Field(min_length=1, max_length=300)]
    owners: Annotated[str, Field(min_length=1, max_length=10_000)]

    @property
    def columns(self) -> list[str]:
        """The columns of the row that tell whose it is, each once.

        >>> FollowedTable(name="comments", owners="select {article_id}").columns
        ['article_id']
        """
        return list(dict.fromkeys(_PLACE.findall(self.owners)))

    @property
    def own_key(self) -> str | None:
        """The column of a row that is itself the key it belongs to; None where it has to be asked for.

        >>> FollowedTable(name="comments", owners="select {article_id}").own_key
        'article_id'
        >>> FollowedTable(name="authors", owners="select id from articles where author_id = {id}").own_key
        """
        found = _OWN_KEY.fullmatch(self.owners.strip().rstrip(";").strip())
        return None if found is None else found[1]

    @model_validator(mode="after")
    def _names_a_column(self) -> Self:
        if not self.columns or "" in self.columns:
            raise ValueError(
                f"the keys for {self.name} name no column of its rows: write {{column}} where one goes, such as "
                "{article_id}."
            )
        return self


class FollowingDocument(_Strict):
    """What is followed and how.

    connection: the name of a kept connection. query: a SELECT, whose rows are the records. key: the column of it that
    names a record. tables: what the query reads; in the way of asking by a column of changes they are not needed.
    changed_at: the column of the query that tells when a row changed last; None where rows are asked for by the
    transaction that wrote them (xmin, PostgreSQL alone). fields: what the columns become; as the values are where it
    is None. every_s: how often it is asked in the way of asking; sweep_s: how often keys are compared then, so that
    deleted rows are seen; whole_hours: how often everything is compared, 0 for never. overlap_s: in the way of asking
    by a column, how long a transaction may have been under way when it told the time. most_kept_mb: in the way of
    decoding, how much of its log the database may have to keep for us before it is let go of. kept_days: for how long
    records are kept as they were before a change.
    """

    connection: Annotated[str, Field(min_length=1, max_length=200)]
    query: Annotated[str, Field(min_length=1, max_length=LONGEST_QUERY)]
    key: FieldName
    way: Way = "asking"
    tables: Annotated[list[FollowedTable], Field(max_length=100)] = []
    changed_at: FieldName | None = None
    fields: Annotated[list[FieldPlan], Field(max_length=2_000)] | None = None
    every_s: Annotated[float, Field(ge=0.2, le=86_400)] = 10.0
    sweep_s: Annotated[float, Field(ge=1, le=604_800)] = 300.0
    whole_hours: Annotated[float, Field(ge=0, le=8_760)] = 24.0
    overlap_s: Annotated[float, Field(ge=0, le=86_400)] = 60.0
    most_kept_mb: Annotated[int, Field(ge=16, le=1_000_000)] = 1_024
    kept_days: Annotated[float, Field(ge=0, le=3_650)] = 30.0

    @model_validator(mode="after")
    def _can_be_followed(self) -> Self:
        if self.way != "asking" and not self.tables:
            raise ValueError("name the tables that the query reads: without them nobody knows what a change concerns.")
        if self.way != "asking" and self.changed_at is not None:
            raise ValueError("a column of changes is for the way of asking: here the database itself tells.")
        if self.way == "asking" and self.changed_at is None and not self.tables:
            raise ValueError("name a column of the query that tells when a row changed, or the tables that it reads.")
        names = [one.name for one in self.tables]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(f"the table {twice} is named twice: one SELECT with union gives the keys of both.")
        return self

    @property
    def plan(self) -> ImportPlan:
        """How rows become records."""
        return ImportPlan(format="postgresql", key=self.key, fields=self.fields)


def following_document(data: Any) -> FollowingDocument:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return FollowingDocument.model_validate(data)
    except ValidationError as error:
        problems = [
            (".".join(str(step) for step in one["loc"]), one["msg"].removeprefix("Value error, "))
            for one in error.errors()
        ]
        raise BadInput("This cannot be followed so.", problems) from error


def with_places(owners: str, row: str) -> str:
    """The SELECT of keys with columns of `row` in its places, each quoted as SQL quotes names.

    >>> with_places("select id from articles where author_id = {id}", "changed")
    'select id from articles where author_id = changed."id"'
    """
    return _PLACE.sub(lambda found: f'{row}."{found[1].replace(chr(34), chr(34) * 2)}"', owners)
