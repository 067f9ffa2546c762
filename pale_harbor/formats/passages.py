"""How a field's values are cut into passages, as it is kept and sent."""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from pale_harbor.core.text.passages import PassageRule, SplitBy
from pale_harbor.errors import BadInput


class PassageDocument(BaseModel):
    """A rule for passages; see docs/records.md."""

    model_config = ConfigDict(extra="forbid")

    by: SplitBy
    size: Annotated[int, Field(ge=1, le=10_000)] = 1
    overlap: Annotated[int, Field(ge=0, le=9_999)] = 0
    delimiter: Annotated[str, Field(max_length=100)] = ""


def passage_rule(data: Any) -> PassageRule:
    """The rule that a document describes. Raises BadInput."""
    try:
        document = data if isinstance(data, PassageDocument) else PassageDocument.model_validate(data)
        return PassageRule(document.by, document.size, document.overlap, document.delimiter)
    except ValidationError as error:
        problems = [(".".join(map(str, one["loc"])), str(one["msg"])) for one in error.errors()]
        raise BadInput("This rule for passages cannot be used.", problems) from error
    except ValueError as error:
        raise BadInput(f"This rule for passages cannot be used: {error}") from error
