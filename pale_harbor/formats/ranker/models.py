"""What may stand in a document, from the knobs that its parts declare."""

from collections.abc import Callable, Mapping
from enum import Enum
from functools import cache
from typing import Annotated, Any, Final, Literal, cast, get_args

from pydantic import BaseModel, ConfigDict, Field, JsonValue, create_model, field_validator, model_validator

from pale_harbor.core.blend import Blend, Queries
from pale_harbor.core.knobs import Declared, Knob, declared_knobs, is_part
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.text.errors import hint, nearest_name
from pale_harbor.formats.ranker.forms import FORM_NAMED, FORM_OF, UNWRITTEN
from pale_harbor.formats.ranker.unions import OneOfParts, said_keys, union_of
from pale_harbor.formats.storable import unstorable


def _blend(blend: Any) -> str | None:
    return 'a blend by formula needs "formula".' if blend.how == "formula" and blend.formula is None else None


def _queries(queries: Any) -> str | None:
    if all(value is None for value in queries.model_dump().values()):
        return 'a kind of queries needs "at_least_words", "at_most_words", "pattern" or "quoted".'
    return None


def _ranker(ranker: Any) -> str | None:
    names = [one.space for one in ranker.spaces]
    twice = next((name for name in names if names.count(name) > 1), None)
    return None if twice is None else f'the space "{twice}" stands there twice; give it one weight.'


# What no single knob can tell to be wrong.
_CHECKS: Final[Mapping[Any, Callable[[Any], str | None]]] = {Blend: _blend, Queries: _queries, Ranker: _ranker}


class Written(BaseModel):
    """A part as it is written; a key it does not know is an error that names the nearest it knows."""

    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _only_known_keys(cls, data: Any) -> Any:
        if isinstance(data, dict):
            fields = cls.model_fields
            for key in data:
                if key not in fields:
                    known = list(fields)
                    raise ValueError(f'unknown key "{key}". {hint(nearest_name(str(key), known), known)}')
        return data

    @model_validator(mode="after")
    def _checked(self) -> "Written":
        what = _WHAT[type(self)]
        if isinstance(what, OneOfParts):
            keys = said_keys(self.model_dump())
            if what.kind_with(keys) is None:
                raise ValueError(what.wrong(keys))
        elif (check := _CHECKS.get(what)) is not None and (problem := check(self)) is not None:
            raise ValueError(problem)
        return self


def _storable(value: Any) -> Any:
    for text in value if isinstance(value, list) else [value]:
        if isinstance(text, str) and (wrong := unstorable(text)) is not None:
            raise ValueError(f"this text holds {wrong}.")
    return value


# What each model was made of.
_WHAT: Final[dict[type[BaseModel], type | OneOfParts]] = {}


@cache
def model_of(part: type | OneOfParts) -> type[Written]:
    """The model of a part, or of the kinds that one may be: then with the keys of all, none of which must stand."""
    if isinstance(part, OneOfParts):
        name, doc = part.name, " ".join(_doc(kind) for kind in part.kinds)
        own = _keys_of_all(part)
    else:
        name, doc = part.__name__, _doc(part)
        own = {one.name: _field_of(one) for one in declared_knobs(part).values()}
    # Documents are read by the hundred: whatever can hold no text is not looked through for it.
    texts = [key for key, (shape, _) in own.items() if "str" in repr(shape)]
    storable = {"storable": cast("Any", field_validator(*texts)(_storable))} if texts else {}
    made: type[Written] = create_model(f"{name}Document", __base__=Written, __doc__=doc, __validators__=storable, **own)
    _WHAT[made] = part
    return made


def _keys_of_all(union: OneOfParts) -> dict[str, Any]:
    found: dict[str, Any] = {}
    of_kinds = [declared_knobs(kind) for kind in union.kinds]
    for of_kind in of_kinds:
        for one in of_kind.values():
            if all(one.name in others and others[one.name].required for others in of_kinds):
                found[one.name] = _field_of(one)
            else:
                found.setdefault(one.name, (_shape(one) | None, _describe(one.knob, None)))
    return found


def _doc(part: type) -> str:
    return (part.__doc__ or "").strip().splitlines()[0]


def _field_of(one: Declared) -> Any:
    shape = _shape(one)
    if one.knob.like is not None or (one.optional and one.knob.none is None):
        return shape | None, _describe(one.knob, None)
    union = None if one.many else union_of(one.kinds)
    if union is not None and union.kind_with(set()) is not None:
        return shape, Field(default=model_of(union)(), description=one.knob.says)
    if one.required:
        return shape, _describe(one.knob, ...)
    if one.many:
        return shape, Field(default_factory=list, description=one.knob.says)
    if is_part(one.kinds[0]):
        return shape, Field(default=model_of(one.kinds[0])(), description=one.knob.says)
    return shape, _describe(one.knob, unwritten(one))


def unwritten(one: Declared) -> Any:
    """What a knob says where nothing is written: as a document writes it."""
    if one.default is None:
        return one.knob.none
    if isinstance(one.default, Enum):
        return one.default.value
    return UNWRITTEN.get(one.kinds[0], one.default)


def _describe(knob: Knob, default: Any) -> Any:
    extra: dict[str, JsonValue] | None = {"unit": knob.unit} if knob.unit else None
    return Field(default=default, description=knob.says or None, json_schema_extra=extra)


def _shape(one: Declared) -> Any:
    shape = _one(one)
    if not one.many:
        return shape
    fewest, most = one.knob.items or (0, None)
    return Annotated[list[shape], Field(min_length=fewest or None, max_length=most)]


def _one(one: Declared) -> Any:
    knob = one.knob
    form = FORM_NAMED.get(knob.names) if knob.names is not None else None
    form = form or FORM_OF.get(one.kinds[0])
    if form is not None:
        return form.shape if knob.longest is None else Annotated[form.shape, Field(max_length=knob.longest)]
    if (union := union_of(one.kinds)) is not None:
        return model_of(union)
    (kind,) = one.kinds
    if is_part(kind):
        return model_of(kind)
    if isinstance(kind, type) and issubclass(kind, Enum):
        return Literal[tuple(member.value for member in kind)]
    if kind is str:
        longest = Field(min_length=0 if knob.empty else 1, max_length=knob.longest, pattern=knob.pattern)
        return Annotated[str, longest]
    if kind in (int, float):
        return _number(kind, knob)
    if kind is bool:
        return bool
    # So many whole numbers, and no other number of them.
    numbers = tuple(_number(int, knob) for _ in get_args(kind))
    return Annotated[tuple[numbers], Field(strict=False)]  # pyright: ignore[reportInvalidTypeArguments]


def _number(kind: type, knob: Knob) -> Any:
    if knob.none is not None and knob.least is not None and knob.most is not None:
        return Literal[(knob.none, *range(int(knob.least), int(knob.most) + 1))]
    return Annotated[kind, Field(ge=knob.least, gt=knob.above, le=knob.most)]
