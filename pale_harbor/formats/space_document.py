"""A space as a JSON document: what it covers, how its vectors are compared, and where they come from."""

from typing import Annotated, Any, Final, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from pale_harbor.core.vectors import Similarity
from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.passages import PassageDocument
from pale_harbor.formats.ranker.forms import ChainText

PLAIN_CHAIN: Final = "nfkc > words > lower > accents"
# Secrets stay in the server's environment, and only what is meant for a service can be sent to one.
TOKEN_VARIABLE: Final = r"^PALE_HARBOR_[A-Z0-9_]{1,80}$"


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class LearnedSource(_Strict):
    """Learned from the collection's own words, cut by a chain."""

    kind: Literal["learned"] = "learned"
    dimensions: Annotated[int, Field(ge=2, le=1_024)] = 128
    chain: ChainText = PLAIN_CHAIN


class PackagedSource(_Strict):
    """The word vectors that come with the program."""

    kind: Literal["packaged"] = "packaged"


class BroughtSource(_Strict):
    """Vectors that somebody brings. field: of the records, None: in files, one vector for each record."""

    kind: Literal["brought"] = "brought"
    field: FieldName | None = None


class ServiceSource(_Strict):
    """A service that makes vectors over HTTP; see docs/vectors.md for what is said to it.

    token_variable: names a variable of the server's environment, whose value is sent as a bearer token. batch:
    texts in one request; tries: of one request, before the filling stops; follow: whether changed records are sent
    by themselves.
    """

    kind: Literal["service"] = "service"
    address: Annotated[str, Field(max_length=1_000, pattern=r"^https?://[^\s/?#@]+(?:/[^\s?#]*)?$")]
    token_variable: Annotated[str, Field(pattern=TOKEN_VARIABLE)] | None = None
    batch: Annotated[int, Field(ge=1, le=1_000)] = 64
    seconds: Annotated[float, Field(ge=0.1, le=300)] = 20.0
    tries: Annotated[int, Field(ge=1, le=20)] = 5
    follow: bool = True


SpaceSource = Annotated[LearnedSource | PackagedSource | BroughtSource | ServiceSource, Field(discriminator="kind")]


class SpaceDocument(_Strict):
    """A whole space. passages: how long texts are cut; None: as each field says, fields that say nothing whole."""

    source: SpaceSource
    fields: Annotated[list[FieldName], Field(max_length=16)] = []
    passages: PassageDocument | None = None
    similarity: Similarity = Similarity.COSINE

    @model_validator(mode="after")
    def _reads_something(self) -> Self:
        if not self.fields and self.source.kind != "brought":
            raise ValueError('a space reads one field at least: name it in "fields".')
        if self.source.kind == "brought" and (self.fields or self.passages is not None):
            raise ValueError("brought vectors are of whole records: leave out fields and passages.")
        return self


def space_document(data: Any) -> SpaceDocument:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return SpaceDocument.model_validate(data)
    except ValidationError as error:
        problems = [(".".join(str(step) for step in one["loc"]), _words(one)) for one in error.errors()]
        raise BadInput("This space cannot be made.", problems) from error


def _words(problem: Any) -> str:
    if problem["type"] == "value_error":
        return str(problem["ctx"]["error"])
    return f"{problem['msg']}."
