"""What the parts of a ranker may hold, declared once, at the fields of their dataclasses.

    weight: Annotated[float, Knob("weight", "how much its matches weigh", least=0, most=1_000_000)] = 1.0

From here come what a ranker's document may say, the errors where it says something else, defaults, JSON Schema,
differences in words, the knobs of the page and the tables of docs/ranking.md. A knob is one such line, and its
arithmetic.
"""

from collections.abc import Mapping, Sequence
from dataclasses import KW_ONLY, MISSING, Field, dataclass, fields, replace
from enum import Enum
from functools import cache
from types import MappingProxyType, UnionType
from typing import Annotated, Any, TypeGuard, TypeVar, Union, cast, get_args, get_origin, get_type_hints

T = TypeVar("T")


class Names(Enum):
    """What a text names, or what a number says besides being one."""

    FIELD = "field"
    SPACE = "space"
    RECORD = "record"
    # Written as a day: the number of its beginning; of that of the last day included; or a number as it is.
    MOMENT = "moment"
    LAST_DAY = "last day"


@dataclass(frozen=True, slots=True, kw_only=True)
class Where:
    """A knob is of use only where another one of its part says one of these."""

    name: str
    says: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Knob:
    """One field of a part, for whoever turns it.

    words: what it is called; says: what it does, in a line.

    least, most: bounds of a number, included; above: one that is not. unit: of a number. step: how finely a slider
    turns it, reach: how far a slider goes. choices: words for each of its choices. none: the word for None, where a
    document does not write null; begins: the number that it has when it is switched on. items: fewest and most of a
    list. longest: of a text, which may be empty where `empty`. names: what a text or number stands for. pattern: what
    a text must look like. like: the field whose value it takes where it is left out. where: when it is of use.
    """

    words: str
    says: str = ""
    _: KW_ONLY
    least: float | None = None
    most: float | None = None
    above: float | None = None
    unit: str = ""
    step: float | None = None
    reach: float | None = None
    choices: Mapping[str, str] | None = None
    none: str | None = None
    begins: float | None = None
    items: tuple[int, int] | None = None
    longest: int | None = None
    empty: bool = False
    names: Names | None = None
    pattern: str | None = None
    like: str | None = None
    where: Where | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Declared:
    """A field of a part as it was declared. kinds: what its value may be, None left out; many: a list of such."""

    name: str
    knob: Knob
    kinds: tuple[Any, ...]
    optional: bool
    many: bool
    required: bool
    default: Any


@cache
def declared_knobs(part: type) -> Mapping[str, Declared]:
    """The declared fields of a part, in order; a field without a Knob is none that a document knows.

    >>> from pale_harbor.core.ranking import Nearness
    >>> {name: one.default for name, one in declared_knobs(Nearness).items()}
    {'weight': 1.0, 'gap': 0, 'same_order': True}
    """
    hints = get_type_hints(part, include_extras=True)
    found = {field.name: _declared_knob(field, hints[field.name]) for field in fields(part)}
    return MappingProxyType({name: one for name, one in found.items() if one is not None})


def is_part(kind: Any) -> TypeGuard[type]:
    """Whether a type is a part with knobs of its own."""
    return isinstance(kind, type) and hasattr(kind, "__dataclass_fields__") and bool(declared_knobs(kind))


def _declared_knob(field: "Field[Any]", hint: Any) -> Declared | None:
    if get_origin(hint) is not Annotated:
        return None
    hint, *extras = get_args(hint)
    knob = next((extra for extra in extras if isinstance(extra, Knob)), None)
    if knob is None:
        return None
    many = get_origin(hint) is tuple and get_args(hint)[-1] is Ellipsis
    types = _members(get_args(hint)[0] if many else hint)
    default = field.default if field.default_factory is MISSING else field.default_factory()
    return Declared(
        name=field.name,
        knob=knob,
        kinds=tuple(kind for kind in types if kind is not type(None)),
        optional=type(None) in types,
        many=many,
        required=default is MISSING and knob.like is None,
        default=None if default is MISSING else default,
    )


def _members(hint: Any) -> tuple[Any, ...]:
    return get_args(hint) if get_origin(hint) in (Union, UnionType) else (hint,)


def dotted(path: Sequence[str | int]) -> str:
    """A place of a document, as it is written.

    >>> dotted(["readings", 0, "weight"])
    'readings[0].weight'
    """
    said = ""
    for step in path:
        said += f"[{step}]" if isinstance(step, int) else f".{step}" if said else step
    return said


def number_at(part: Any, path: Sequence[str | int]) -> Knob | None:
    """The knob at a place of a part whose value is a plain number there; None where there is no such one.

    >>> from pale_harbor.core.ranking import Combine
    >>> number_at(Combine(), ["share"]).most, number_at(Combine(), ["how"])
    (1, None)
    """
    knob: Knob | None = None
    for step in path:
        if isinstance(step, str):
            declared = declared_knobs(type(part)).get(step) if is_part(type(part)) else None
            if declared is None:
                return None
            knob, part = declared.knob, getattr(part, step)
        elif isinstance(part, tuple) and 0 <= step < len(cast("tuple[Any, ...]", part)):
            part = part[step]
        else:
            return None
    is_number = isinstance(part, int | float) and not isinstance(part, bool)
    return knob if is_number and knob is not None and knob.names is None else None


def with_number(part: T, path: Sequence[str | int], value: float) -> T:
    """The same part with another number at a place, whole where a whole one stands there. See `number_at`.

    >>> from pale_harbor.core.ranking import Combine
    >>> with_number(Combine(), ["share"], 0.5).share
    0.5
    """
    if not path:
        return cast(T, int(value) if isinstance(part, int) else float(value))
    step, *rest = path
    if isinstance(step, str):
        return replace(cast(Any, part), **{step: with_number(getattr(part, step), rest, value)})
    items = list(cast("tuple[Any, ...]", part))
    items[step] = with_number(items[step], rest, value)
    return cast(T, tuple(items))
