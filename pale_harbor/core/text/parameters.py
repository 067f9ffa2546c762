"""What the arguments of stages may be, and how a written value becomes one.

A stage's fields are its arguments; the types named here say what is wanted of each, and every type
a stage may ask for has its lines in `converted`.
"""

from collections.abc import Mapping
from dataclasses import MISSING, Field, dataclass, fields
from enum import StrEnum
from types import UnionType
from typing import Annotated, Any, Final, Union, cast, get_args, get_origin, get_type_hints

from pale_harbor.core.text.errors import UnknownList, WrongArgument, hint, nearest_name
from pale_harbor.core.text.notation import Argument, ListName, Pattern, Value, Word, as_notation
from pale_harbor.core.text.patterns import SafePattern, safe_pattern
from pale_harbor.core.text.place import Place
from pale_harbor.core.text.word_lists import ListKind, Replacements, Synonyms, WordList, WordSet, kind_of_list

LONGEST_TEXT: Final = 200
_LISTS: Final = {WordSet: ListKind.WORDS, Replacements: ListKind.REPLACEMENTS, Synonyms: ListKind.SYNONYMS}
_YES_NO: Final = {"yes": True, "no": False}


@dataclass(frozen=True, slots=True)
class Between:
    """Sane bounds of a number."""

    least: int
    most: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Parameter:
    """One argument of a stage: what it is called, what it may be, what it is where left out.

    wanted: in words; choices: the words it may be; lists: the kind of word list it may be;
    bounds: of a number; default: None where it must be given.
    """

    name: str
    types: tuple[Any, ...]
    bounds: Between | None
    required: bool
    default: object

    @property
    def choices(self) -> list[str]:
        """What may be written for it, where only some words may."""
        found: list[str] = []
        for kind in self.types:
            if kind is bool:
                found += list(_YES_NO)
            elif isinstance(kind, type) and issubclass(kind, StrEnum):
                found += [str(member) for member in kind]
        return found

    @property
    def list_kind(self) -> ListKind | None:
        """The kind of word list that it names, None where it names none."""
        return next((_LISTS[kind] for kind in self.types if kind in _LISTS), None)

    @property
    def wanted(self) -> str:
        """In words, what may stand here."""
        ways: list[str] = []
        for kind in self.types:
            if kind is bool:
                ways.append("yes or no")
            elif kind is int and self.bounds is not None:
                ways.append(f"a whole number from {self.bounds.least} to {self.bounds.most}")
            elif kind is str:
                ways.append('a "text" in quotes')
            elif kind is SafePattern:
                ways.append("a /pattern/ between slashes")
            elif kind in _LISTS:
                ways.append(f"a @list of {_LISTS[kind]}")
            else:
                ways.append(_words_for(kind))
        return " or ".join(ways)


def parameters_of(stage_class: type) -> dict[str, Parameter]:
    """The parameters of a stage, in order."""
    hints = get_type_hints(stage_class, include_extras=True)
    return {field.name: _parameter(field, hints[field.name]) for field in fields(stage_class)}


def convert(stage: str, argument: Argument, parameter: Parameter, lists: Mapping[str, WordList]) -> object:
    """A written value as what the parameter wants. Raises WrongArgument or UnknownList."""
    value = argument.value
    if isinstance(value, ListName) and (kind := parameter.list_kind) is not None:
        return _list_named(value, argument.place, kind, lists)
    for wanted in parameter.types:
        match value:
            case bool():
                continue
            case int() if wanted is int and parameter.bounds is not None:
                return _check_bounds(stage, value, argument.place, parameter.name, parameter.bounds)
            case str() if wanted is str:
                return _short(value, argument.place)
            case Pattern(source) if wanted is SafePattern:
                return safe_pattern(source, argument.place)
            case Word(word) if wanted is bool and word in _YES_NO:
                return _YES_NO[word]
            case Word(word) if _is_choice(wanted) and word in [str(member) for member in cast(Any, wanted)]:
                return cast(Any, wanted)(word)
            case _:
                continue
    raise _unfit(stage, value, argument.place, parameter)


def _parameter(field: "Field[Any]", hint_: Any) -> Parameter:
    bounds = None
    if get_origin(hint_) is Annotated:
        hint_, *extras = get_args(hint_)
        bounds = next((extra for extra in extras if isinstance(extra, Between)), None)
    types = get_args(hint_) if get_origin(hint_) in (Union, UnionType) else (hint_,)
    return Parameter(
        name=field.name,
        types=tuple(kind for kind in types if kind is not type(None)),
        bounds=bounds,
        required=field.default is MISSING,
        default=None if field.default is MISSING else field.default,
    )


def _words_for(kind: Any) -> str:
    name = "".join(f" {letter.lower()}" if letter.isupper() else letter for letter in kind.__name__).strip()
    return f"a {name}"


def _is_choice(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, StrEnum)


def _list_named(name: ListName, place: Place, kind: ListKind, lists: Mapping[str, WordList]) -> WordList:
    found = lists.get(name.name)
    if found is None:
        known = list(lists)
        advice = hint(nearest_name(name.name, known), known) if known else "There are no word lists here."
        nearest = nearest_name(name.name, known)
        raise UnknownList(
            place, f'there is no word list "@{name.name}". {advice}', ["@list"], nearest and f"@{nearest}"
        )
    if kind_of_list(found) is not kind:
        raise UnknownList(
            place,
            f'"@{name.name}" is a list of {kind_of_list(found)}; a list of {kind} is wanted here.',
            [f"@list of {kind}"],
        )
    return found


def _check_bounds(stage: str, value: int, place: Place, name: str, bounds: Between) -> int:
    if not bounds.least <= value <= bounds.most:
        raise WrongArgument(
            place,
            f'"{name}" of "{stage}" goes from {bounds.least} to {bounds.most}; {value} is outside.',
            ["number"],
            str(min(max(value, bounds.least), bounds.most)),
        )
    return value


def _short(value: str, place: Place) -> str:
    if len(value) > LONGEST_TEXT:
        raise WrongArgument(place, f"a text is at most {LONGEST_TEXT} characters long here.", ['"text"'])
    return value


def _unfit(stage: str, value: Value, place: Place, parameter: Parameter) -> WrongArgument:
    written = as_notation(value)
    choices = parameter.choices
    if choices and not isinstance(value, ListName):
        nearest = nearest_name(written, choices)
        also = f" or a @list of {parameter.list_kind}" if parameter.list_kind else ""
        wanted = " or ".join(_words_for(kind) for kind in parameter.types if _is_choice(kind)) or "yes or no"
        return WrongArgument(
            place,
            f'"{stage}" wants {wanted}{also} here, and {written} is none that it knows. {hint(nearest, choices)}',
            choices,
            nearest,
        )
    return WrongArgument(
        place, f'"{stage}" wants {parameter.wanted} as its {parameter.name}; {written} is none.', [parameter.wanted]
    )
