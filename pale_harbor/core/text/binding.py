"""From stages as written to stages that work: names looked up, arguments checked, order checked."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.text.errors import UnknownStage, WrongArgument, WrongOrder, hint, nearest_name
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Argument, ListName, StageCall
from pale_harbor.core.text.parameters import Parameter, convert, parameters_of
from pale_harbor.core.text.place import Place
from pale_harbor.core.text.stages import STAGE_NAMES, TOKENIZERS, Stage, kinds_named, stage_class
from pale_harbor.core.text.word_lists import WordList

_ONCE: Final = frozenset({"word_grams"})


@dataclass(frozen=True, slots=True)
class BoundStage:
    """A stage ready for work, with how it was written."""

    call: StageCall
    kind: StageKind
    stage: Stage


def bind(calls: Sequence[StageCall], end: Place, lists: Mapping[str, WordList]) -> tuple[BoundStage, ...]:
    """The stages that the calls ask for. Raises ChainError at the first that cannot be had.

    end: where the notation ends; lists: the word lists there are, by name.
    """
    bound: list[BoundStage] = []
    cut = False
    for call in calls:
        kind = _kind(call, cut)
        bound.append(BoundStage(call, kind, _bind(call, kind, lists)))
        cut = cut or kind is StageKind.TOKENIZER
    _check_order(bound, end)
    return tuple(bound)


def list_names(calls: Sequence[StageCall]) -> list[str]:
    """The word lists that stages name, each once, in order."""
    values = (argument.value for call in calls for argument in call.arguments)
    return list(dict.fromkeys(value.name for value in values if isinstance(value, ListName)))


def _kind(call: StageCall, cut: bool) -> StageKind:
    """The kind that the name has here: what can both cut and work on tokens cuts where nothing is cut yet."""
    kinds = kinds_named(call.name)
    if not kinds:
        raise UnknownStage(call.name, call.place, STAGE_NAMES)
    if StageKind.TOKENIZER in kinds and StageKind.TOKEN in kinds:
        return StageKind.TOKEN if cut else StageKind.TOKENIZER
    return kinds[0]


def _bind(call: StageCall, kind: StageKind, lists: Mapping[str, WordList]) -> Stage:
    chosen: Any = stage_class(call.name, kind)
    parameters = parameters_of(chosen)
    given: dict[str, object] = {}
    for index, argument in enumerate(call.arguments):
        parameter = _parameter_for(call, argument, index, parameters)
        if parameter in given:
            raise WrongArgument(argument.place, f'"{call.name}" is given "{parameter}" twice.')
        given[parameter] = convert(call.name, argument, parameters[parameter], lists)
    for name, parameter in parameters.items():
        if name not in given and parameter.required:
            raise _missing_argument(call, parameter)
    try:
        return chosen(**given)
    except ValueError as error:
        raise WrongArgument(call.place, f'"{call.name}": {error}') from None


def _check_order(bound: Sequence[BoundStage], end: Place) -> None:
    """Raises WrongOrder unless text stages, one tokenizer and token stages follow one another."""
    tokenizer: str | None = None
    seen: set[str] = set()
    for one in bound:
        call = one.call
        if one.kind is StageKind.TOKENIZER and tokenizer is not None:
            raise WrongOrder(
                call.place,
                f'a chain has one tokenizer, and "{tokenizer}" is it already: "{call.name}" cannot follow.',
                ["token stage"],
            )
        if one.kind is StageKind.TEXT and tokenizer is not None:
            raise WrongOrder(
                call.place,
                f'"{call.name}" works on the whole text: move it before the tokenizer "{tokenizer}".',
                ["token stage"],
            )
        if one.kind is StageKind.TOKEN and tokenizer is None:
            raise WrongOrder(
                call.place,
                f'"{call.name}" works on tokens, and nothing has cut the text yet: put a tokenizer '
                f"({', '.join(TOKENIZERS)}) before it.",
                list(TOKENIZERS),
            )
        if one.kind is StageKind.TOKENIZER:
            tokenizer = call.name
        if call.name in _ONCE and call.name in seen:
            raise WrongOrder(
                call.place, f'a chain has "{call.name}" once: grams of grams grow beyond measure.', ["token stage"]
            )
        seen.add(call.name)
    if tokenizer is None:
        raise WrongOrder(end, f"a chain needs a tokenizer: {', '.join(TOKENIZERS)}.", list(TOKENIZERS))


def _parameter_for(call: StageCall, argument: Argument, index: int, parameters: dict[str, Parameter]) -> str:
    names = list(parameters)
    if argument.name is None:
        if index < len(names):
            return names[index]
        takes = f"{len(names)} at most ({', '.join(names)})" if names else "none"
        raise WrongArgument(argument.place, f'too many arguments for "{call.name}": it takes {takes}.', [")"])
    if argument.name not in parameters:
        if not names:
            raise WrongArgument(argument.place, f'"{call.name}" takes no arguments.', [")"])
        nearest = nearest_name(argument.name, names)
        raise WrongArgument(
            argument.place,
            f'"{call.name}" has no argument "{argument.name}". {hint(nearest, names)}',
            names,
            nearest,
        )
    return argument.name


def _missing_argument(call: StageCall, parameter: Parameter) -> WrongArgument:
    choices = parameter.choices
    example = f", as in {call.name}({choices[0]})" if choices else f": {parameter.wanted}"
    return WrongArgument(call.place, f'"{call.name}" needs its {parameter.name}{example}.', choices)
