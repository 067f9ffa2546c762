"""From stages as written to stages that work: names looked up, arguments checked, order checked."""

from collections.abc import Sequence
from dataclasses import MISSING, Field, fields
from typing import Any, get_type_hints

from pale_harbor.core.text.errors import UnknownStage, WrongArgument, WrongOrder, hint, nearest_name
from pale_harbor.core.text.kinds import Kind, Language
from pale_harbor.core.text.notation import Argument, StageCall, Word, printed
from pale_harbor.core.text.place import Place
from pale_harbor.core.text.stages import STAGES, TOKENIZERS, Stage, kind_of


def bind(call: StageCall) -> Stage:
    """The stage that a call asks for. Raises UnknownStage or WrongArgument."""
    stage_class: Any = STAGES.get(call.name)
    if stage_class is None:
        raise UnknownStage(call.name, call.place, list(STAGES))
    parameters = parameters_of(stage_class)
    given: dict[str, object] = {}
    for index, argument in enumerate(call.arguments):
        parameter = _parameter_for(call, argument, index, parameters)
        if parameter in given:
            raise WrongArgument(argument.place, f'"{call.name}" is given "{parameter}" twice.')
        given[parameter] = _converted(call, argument, parameters[parameter])
    for name, field in parameters.items():
        if name not in given and field.default is MISSING:
            raise _missing(call, name, field.type)
    return stage_class(**given)


def parameters_of(stage_class: type[Stage]) -> dict[str, "Field[Any]"]:
    """The parameters of a stage in order, each with its true type in `type`."""
    types = get_type_hints(stage_class)
    own: dict[str, Field[Any]] = {}
    for field in fields(stage_class):  # pyright: ignore[reportArgumentType]
        field.type = types[field.name]
        own[field.name] = field
    return own


def check_order(calls: Sequence[StageCall], end: Place) -> None:
    """Raises WrongOrder unless text stages, one tokenizer and token stages follow one another."""
    tokenizer: str | None = None
    for call in calls:
        kind = kind_of(call.name)
        if kind is Kind.TOKENIZER and tokenizer is not None:
            raise WrongOrder(
                call.place,
                f'a chain has one tokenizer, and "{tokenizer}" is it already: "{call.name}" cannot follow.',
                ["token stage"],
            )
        if kind is Kind.TEXT and tokenizer is not None:
            raise WrongOrder(
                call.place,
                f'"{call.name}" works on the whole text: move it before the tokenizer "{tokenizer}".',
                ["token stage"],
            )
        if kind is Kind.TOKEN and tokenizer is None:
            raise WrongOrder(
                call.place,
                f'"{call.name}" works on tokens, and nothing has cut the text yet: put a tokenizer '
                f"({', '.join(TOKENIZERS)}) before it.",
                list(TOKENIZERS),
            )
        if kind is Kind.TOKENIZER:
            tokenizer = call.name
    if tokenizer is None:
        raise WrongOrder(end, f"a chain needs a tokenizer: {', '.join(TOKENIZERS)}.", list(TOKENIZERS))


def _parameter_for(call: StageCall, argument: Argument, index: int, parameters: dict[str, "Field[Any]"]) -> str:
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


def _converted(call: StageCall, argument: Argument, field: "Field[Any]") -> object:
    """The value as the parameter's type. Every type a stage may ask for has its lines here."""
    if field.type is Language:
        codes = [str(language) for language in Language]
        if isinstance(argument.value, Word) and argument.value.text in codes:
            return Language(argument.value.text)
        written = printed(argument.value)
        nearest = nearest_name(written, codes)
        raise WrongArgument(
            argument.place,
            f'"{call.name}" wants a language here, and {written} is none that it knows. {hint(nearest, codes)}',
            codes,
            nearest,
        )
    raise TypeError(f"{call.name}: no conversion for {field.type}")


def _missing(call: StageCall, name: str, wanted: object) -> WrongArgument:
    codes = [str(language) for language in Language] if wanted is Language else []
    example = f", as in {call.name}({codes[0]})" if codes else ""
    return WrongArgument(call.place, f'"{call.name}" needs its {name}{example}.', codes)
