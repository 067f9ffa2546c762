"""What is to be tuned and how, as a JSON document; a knob and its values as they are written on a command line."""

import re
from collections.abc import Sequence
from typing import Annotated, Any, Final, Self

import orjson
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, FiniteFloat, ValidationError, model_validator

from pale_harbor.core.measures import MeasureRules, Ties, Unjudged, WithoutRelevant
from pale_harbor.core.tuning.searching import Way
from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName
from pale_harbor.formats.ranker.document import RankerDocument

MOST_VALUES: Final = 101
STEPS: Final = 16


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class _Measured(_Strict):
    """By which rules queries are measured, as everywhere else. weighted: a query counts as often as it was asked."""

    ties: Ties = Ties.BY_KEY
    unjudged: Unjudged = Unjudged.OFF_TOPIC
    without_relevant: WithoutRelevant = WithoutRelevant.ZERO
    weighted: bool = False

    @property
    def rules(self) -> MeasureRules:
        """The same as measures take them."""
        return MeasureRules(self.ties, self.unjudged, self.without_relevant)


Step = Annotated[str, Field(max_length=300)] | Annotated[int, Field(ge=0, le=10_000)]


class TunedKnob(_Strict):
    """A knob and what it may be turned to: values, or a range of numbers. step: None divides the range into sixteen."""

    path: Annotated[list[Step], Field(min_length=1, max_length=12)]
    values: Annotated[list[Any], Field(min_length=1, max_length=MOST_VALUES)] | None = None
    least: FiniteFloat | None = None
    most: FiniteFloat | None = None
    step: Annotated[FiniteFloat, Field(gt=0)] | None = None

    @model_validator(mode="after")
    def _has_values(self) -> Self:
        if self.values is None and (self.least is None or self.most is None or self.least >= self.most):
            raise ValueError("a knob takes values, or a range from least to most")
        return self

    @property
    def numbers(self) -> list[float]:
        """The values of a range, both ends among them. Raises BadInput for too many.

        >>> TunedKnob(path=["combine", "share"], least=0, most=1, step=0.25).numbers
        [0.0, 0.25, 0.5, 0.75, 1.0]
        """
        assert self.least is not None
        assert self.most is not None
        step = self.step or (self.most - self.least) / STEPS
        count = int((self.most - self.least) / step + 1e-9) + 1
        if count > MOST_VALUES:
            raise BadInput(
                f"From {self.least:g} to {self.most:g} by {step:g} are {count:,} values: {MOST_VALUES} at most."
            )
        found = [round(self.least + number * step, 9) for number in range(count)]
        return found if found[-1] >= self.most - 1e-9 else [*found, self.most]


def _knob_in(given: Any) -> Any:
    return tuned_knob(given) if isinstance(given, str) else given


class WeighedMeasure(_Strict):
    measure: Annotated[str, Field(max_length=60)] = "ndcg@10"
    weight: Annotated[float, Field(gt=0, le=1_000)] = 1.0


GivenKnob = Annotated[TunedKnob, BeforeValidator(_knob_in, json_schema_input_type=TunedKnob | str)]


class TuningPlan(_Measured):
    """What is tuned: a kept ranker by name, or a draft that stands on one; by which measures, on which set.

    knobs: None leaves the choice to the program; rails: rules that every setting has to keep; most: settings tried for
    each fold; seconds: for all of it. keep: the ranker of whose name a version is kept where the gain holds on queries
    that were held out.
    """

    ranker: FieldName | None = None
    version: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    document: RankerDocument | None = None
    measures: Annotated[list[WeighedMeasure], Field(min_length=1, max_length=8)] = [WeighedMeasure()]
    knobs: Annotated[list[GivenKnob], Field(min_length=1, max_length=40)] | None = None
    way: Way = Way.COORDINATE
    folds: Annotated[int, Field(ge=2, le=20)] = 5
    rails: Annotated[list[Annotated[str, Field(max_length=300)]], Field(max_length=40)] = []
    most: Annotated[int, Field(ge=2, le=20_000)] = 1_000
    seconds: Annotated[float, Field(ge=1, le=86_400)] = 120.0
    seed: Annotated[int, Field(ge=0, le=2**31)] = 0
    keep: FieldName | None = None


def plan_of(**said: Any) -> TuningPlan:
    """A plan. Raises BadInput that names what is wrong."""
    try:
        return TuningPlan(**said)
    except ValidationError as error:
        raise BadInput(
            "This cannot be tuned so.",
            [(".".join(map(str, one["loc"])), f"{one['msg'].lower()}.") for one in error.errors()],
        ) from error


class RankerPlan(_Measured):
    """What is told of a ranker, kept or draft, by one measure: what its parts earn, or what would help it."""

    ranker: FieldName | None = None
    version: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    document: RankerDocument | None = None
    measure: Annotated[str, Field(max_length=60)] = "ndcg@10"


_KNOB: Final = re.compile(r"(?P<path>[^=\s]+)\s*=\s*(?P<values>.+)", re.DOTALL)
_RANGE: Final = re.compile(r"(-?\d*\.?\d+)\s*\.\.\s*(-?\d*\.?\d+)(?:\s*/\s*(\d*\.?\d+))?")


def tuned_knob(text: str) -> TunedKnob:
    """A knob as it is written: a place of the document, and a range with a step or values. Raises BadInput.

    In a list a number counts from 0; what has a field or a space may be named by it. Values that hold commas, as chains
    do, are divided by |.

    >>> tuned_knob("readings.title.weight=0..4/0.5").path
    ['readings', 'title', 'weight']
    >>> tuned_knob("combine.how=sum,strongest").values
    ['sum', 'strongest']
    """
    found = _KNOB.fullmatch(text.strip())
    steps = re.findall(r"[^.\[\]]+", found["path"]) if found else []
    if not found or not steps:
        raise BadInput(
            f'"{text[:200]}" is no knob. Write "readings.title.weight=0..4", "combine.k1=0..3/0.25" or '
            '"combine.how=sum,strongest".'
        )
    path = [int(step) if step.isdecimal() else step for step in steps]
    bounds = _RANGE.fullmatch(found["values"].strip())
    if bounds:
        least, most = float(bounds[1]), float(bounds[2])
        if least >= most:
            raise BadInput(f'"{text[:200]}": the range goes from the less to the more.')
        return _checked(text, path=path, least=least, most=most, step=float(bounds[3]) if bounds[3] else None)
    between = "|" if "|" in found["values"] else ","
    values = [_value(one.strip()) for one in found["values"].split(between)]
    if len(values) > MOST_VALUES:
        raise BadInput(f'"{text[:80]} …": {len(values):,} values; {MOST_VALUES} at most.')
    return _checked(text, path=path, values=values)


def _checked(text: str, **said: Any) -> TunedKnob:
    try:
        return TunedKnob(**said)
    except ValidationError as error:
        raise BadInput(f'"{text[:200]}" is no knob that can be tuned: {error.errors()[0]["msg"].lower()}.') from error


def written_values(values: Sequence[Any]) -> str:
    """Values as `tuned_knob` reads them.

    >>> written_values([0.5, 1.0, 2]), written_values(["words > find(/a,b/)", "words"])
    ('0.5, 1, 2', 'words > find(/a,b/) | words')
    """
    texts = [one if isinstance(one, str) else _short(one) for one in values]
    return (" | " if any("," in one for one in texts) else ", ").join(texts)


def _short(value: Any) -> str:
    whole = isinstance(value, float) and value.is_integer()
    return orjson.dumps(int(value) if whole else value).decode()


def _value(text: str) -> Any:
    try:
        return orjson.loads(text)
    except orjson.JSONDecodeError:
        return text
