"""What a visitor's key may ask for and gets to see, as a JSON document."""

import re
from typing import Annotated, Any, Final

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.ranker.document import FilterDocument

# RFC 6454: scheme, host and port, nothing behind them.
_ORIGIN: Final = re.compile(r"https?://[a-z0-9.-]+(:\d{1,5})?|https?://\[[0-9a-f:]+\](:\d{1,5})?")
EVERY_ORIGIN: Final = "*"


def _origin(text: str) -> str:
    said = text.strip().lower()
    if said != EVERY_ORIGIN and _ORIGIN.fullmatch(said) is None:
        raise ValueError('an origin is a scheme and a host, such as "https://www.example.org", or * for all.')
    return said


class VisitorTerms(BaseModel):
    """ranker, version: which one answers; without a name what is live, without a version its newest one.

    shown: the fields that answers may hold, all where it is None. searched: those that words are looked for in, of what
    the ranker reads; as shown where it is None. filters: what every record has to pass, beside the ranker's own.
    origins: of sites whose pages may ask, `*` for all; pages that are served from here always may, and so may programs,
    which name no origin. per_minute: of requests by this key, per_minute_each: of them from one address. time_ms: after
    which a search answers with what it has. keeps: whether it is kept what was asked.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    ranker: Annotated[str, Field(min_length=1, max_length=63)] | None = None
    version: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    shown: Annotated[list[FieldName], Field(min_length=1, max_length=200)] | None = None
    searched: Annotated[list[FieldName], Field(min_length=1, max_length=200)] | None = None
    filters: Annotated[list[FilterDocument], Field(max_length=32)] = []
    origins: Annotated[list[Annotated[str, Field(max_length=300), AfterValidator(_origin)]], Field(max_length=100)] = []
    per_minute: Annotated[int, Field(ge=1, le=10_000_000)] = 6_000
    per_minute_each: Annotated[int, Field(ge=1, le=10_000_000)] = 600
    time_ms: Annotated[int, Field(ge=20, le=30_000)] = 1_000
    keeps: bool = True

    def allows(self, origin: str) -> bool:
        """Whether pages of a site may ask.

        >>> VisitorTerms(origins=["https://www.saltmere.example"]).allows("https://www.saltmere.example")
        True
        >>> VisitorTerms().allows("https://www.saltmere.example")
        False
        """
        return EVERY_ORIGIN in self.origins or origin.lower() in self.origins

    @property
    def kept(self) -> dict[str, Any]:
        """As it is kept: without whatever is as it would be anyway."""
        return self.model_dump(mode="json", exclude_defaults=True) | (
            {"filters": [one.written for one in self.filters]} if self.filters else {}
        )


def visitor_terms(data: Any) -> VisitorTerms:
    """The terms, checked. Raises BadInput that names every place that is wrong."""
    try:
        return VisitorTerms.model_validate(data)
    except ValidationError as error:
        problems = [
            (".".join(str(step) for step in one["loc"]), str(one.get("ctx", {}).get("error") or f"{one['msg']}."))
            for one in error.errors()
        ]
        raise BadInput("These terms cannot be used.", problems) from error
