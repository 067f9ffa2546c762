"""Expectations in a query's row of a file: `[{"kind": "among_first", "record": "sm0001", "number": 3}]`."""

from collections.abc import Iterable
from typing import Annotated, Any, Final

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from pale_harbor.core.judging import Expectation, ExpectationKind, expectation
from pale_harbor.formats.storable import unstorable


def expectations_in(value: Any) -> tuple[Expectation, ...] | None:
    """The expectations that stand there; None where nothing does. Raises ValueError with what is wrong."""
    if value in (None, ""):
        return None
    try:
        listed = _EXPECTATIONS.validate_python(value)
    except ValidationError as error:
        wrong = error.errors()[0]
        where = ".".join(str(step) for step in wrong["loc"])
        raise ValueError(f"its expectations cannot be used: {where + ': ' if where else ''}{wrong['msg']}.") from error
    return tuple(expectation(one.kind, one.record, one.number, one.note) for one in listed)


def written_expectations(expectations: Iterable[Expectation] | None) -> list[dict[str, object]] | None:
    """What each says, without what it does not; None where the row says nothing of expectations."""
    if expectations is None:
        return None
    rows = [
        {"kind": one.kind, "record": one.record_key, "number": one.number, "note": one.note or None}
        for one in expectations
    ]
    return [{key: value for key, value in row.items() if value is not None} for row in rows]


def _storable(text: str) -> str:
    if wrong := unstorable(text):
        raise ValueError(f"it holds {wrong}")
    return text


Text = Annotated[str, AfterValidator(_storable), Field(max_length=10_000)]


class _Document(BaseModel):
    model_config = ConfigDict(extra="forbid")

    kind: ExpectationKind
    record: Text | None = None
    number: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    note: Text = ""


_EXPECTATIONS: Final = TypeAdapter(list[_Document])
