"""How values that are no plain ones are written in a document, and read from it."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from math import isnan
from typing import Annotated, Any, Final

from pydantic import AfterValidator, Field

from pale_harbor.core.blend import Formula, FormulaError, formula_of
from pale_harbor.core.fields import day_of
from pale_harbor.core.knobs import Names
from pale_harbor.core.ranking import FieldOrder, Need
from pale_harbor.core.ranking.rules import ListedWords
from pale_harbor.core.text import Chain, ChainError, ChainsByLanguage
from pale_harbor.core.text.patterns import SafePattern, safe_pattern
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.stages import STAGE_NAMES
from pale_harbor.core.text.word_lists import WordList, WordSet
from pale_harbor.core.typing.recipe import WithheldWords
from pale_harbor.errors import BadInput
from pale_harbor.formats.names import FieldName

UNUSABLE: Final = "This ranker document cannot be used."
MOST_LANGUAGES: Final = 102
_BARE_NAME: Final = re.compile(r"[a-z0-9][a-z0-9_-]*(?::\d+)?")
_PERCENT: Final = re.compile(r"(?:100|[1-9]?\d)%")


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What a document's names stand for where it is read. formula_names: what a formula may ask of a candidate."""

    chain: Callable[[str], Chain]
    lists: Mapping[str, WordList]
    formula_names: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Form:
    """How a value is written. shape: for the reader of documents; read: what it means, said to stand at a path."""

    shape: Any
    read: Callable[[Any, Surroundings, str], object]


def _is_choice(chain: dict[str, Any]) -> dict[str, Any]:
    """A chain for each language: {"by": FIELD, LANGUAGE: CHAIN …, "else": CHAIN}."""
    missing = [key for key in ("by", "else") if key not in chain]
    if missing:
        raise ValueError(
            f'a chain for each language needs "{missing[0]}": {{"by": "language", "en": "@english", "else": "@plain"}}.'
        )
    if len(chain) > MOST_LANGUAGES:
        raise ValueError(f"there are at most {MOST_LANGUAGES - 2} languages.")
    return chain


def reference(text: str) -> str:
    """A bare name that is no stage is the name of a saved chain."""
    name = text.strip()
    return f"@{name}" if _BARE_NAME.fullmatch(name) and name not in STAGE_NAMES else text


def _choice(written: str | dict[str, str], around: Surroundings, where: str) -> object:
    if isinstance(written, str):
        return _chain(written, around, where)
    chains = [
        (language, _chain(reference(text), around, f"{where}.{language}"))
        for language, text in written.items()
        if language not in ("by", "else")
    ]
    return ChainsByLanguage(written["by"], tuple(chains), _chain(reference(written["else"]), around, f"{where}.else"))


def _chain(text: str, around: Surroundings, where: str) -> Chain:
    try:
        return around.chain(text)
    except ChainError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error


def _check_amount(amount: int | str) -> None:
    if isinstance(amount, str) and amount not in ("any", "all") and not _PERCENT.fullmatch(amount):
        raise ValueError('this is "any", "all", a number of words such as 2, or a share of them such as "75%".')
    if isinstance(amount, int) and not 1 <= amount <= 100:
        raise ValueError("a number of words is from 1 to 100.")


def _is_need(need: int | str | dict[str, int | str]) -> int | str | dict[str, int | str]:
    """An amount, or amounts by the length of the query: from so many words on."""
    for start, amount in need.items() if isinstance(need, dict) else [("1", need)]:
        if not (start.isdecimal() and 1 <= int(start) <= 100):
            raise ValueError(f'"{start}" is no number of words: {{"1": "all", "4": "75%"}} needs all of up to three.')
        _check_amount(amount)
    return need


def _need(need: int | str | dict[str, int | str], _around: Surroundings, _where: str) -> Need:
    steps = need if isinstance(need, dict) else {"1": need}
    return Need(tuple(sorted((int(start), _amount(amount)) for start, amount in steps.items())))


def _amount(amount: int | str) -> int | float | None:
    if amount == "all":
        return None
    if amount == "any":
        return 1
    return int(amount[:-1]) / 100 if isinstance(amount, str) else amount


def _pattern(source: str, _around: Surroundings, where: str) -> SafePattern:
    try:
        return safe_pattern(source, place_of(source, 0, len(source)))
    except ChainError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error


def _formula(text: str, around: Surroundings, where: str) -> Formula:
    try:
        return formula_of(text, around.formula_names)
    except FormulaError as error:
        raise BadInput(UNUSABLE, [(where, str(error))]) from error


def _listed_words(written: str, around: Surroundings, where: str) -> ListedWords:
    return ListedWords(*_word_set(written, around, where, "A rule looks for the words of a list of that kind."))


def _withheld_words(written: str, around: Surroundings, where: str) -> WithheldWords:
    return WithheldWords(*_word_set(written, around, where, "What is withheld are words of a list of that kind."))


def _word_set(written: str, around: Surroundings, where: str, for_what: str) -> tuple[str, WordSet]:
    name = written.removeprefix("@")
    words = around.lists.get(name)
    if not isinstance(words, WordSet):
        raise BadInput(UNUSABLE, [(where, f'there is no list of words "{written}". {for_what}')])
    return name, words


def field_order(name: str) -> FieldOrder:
    """`year`, or `-year` for the greatest first."""
    return FieldOrder(name.removeprefix("-"), name.startswith("-"))


def _is_moment(now: float | str) -> float | str:
    if isinstance(now, str) and isnan(day_of(now, last=False)):
        raise ValueError(f'"{now}" is no date: write it as 2024-05-31, or as a number for a field of numbers.')
    return now


def _is_day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError(f'"{text}" is no day: write it as 2030-05-31.') from None


ChainText = Annotated[str, Field(min_length=1, max_length=10_000)]
_ListName = Annotated[str, Field(pattern=r"^@[a-z0-9][a-z0-9_-]*(?::\d+)?$")]
_ByLanguage = Annotated[dict[FieldName, ChainText], AfterValidator(_is_choice)]

# By the type of a value.
FORM_OF: Final[Mapping[Any, Form]] = {
    Chain: Form(shape=ChainText | _ByLanguage, read=_choice),
    Need: Form(shape=Annotated[int | str | dict[str, int | str], AfterValidator(_is_need)], read=_need),
    SafePattern: Form(shape=Annotated[str, Field(min_length=1)], read=_pattern),
    Formula: Form(shape=Annotated[str, Field(min_length=1)], read=_formula),
    ListedWords: Form(shape=_ListName, read=_listed_words),
    WithheldWords: Form(shape=_ListName, read=_withheld_words),
    FieldOrder: Form(shape=FieldName, read=lambda name, _around, _where: field_order(name)),
}
# By what a number stands for.
FORM_NAMED: Final[Mapping[Names, Form]] = {
    Names.MOMENT: Form(
        shape=Annotated[float | str, AfterValidator(_is_moment)],
        read=lambda now, _around, _where: day_of(now, last=False) if isinstance(now, str) else now,
    ),
    Names.LAST_DAY: Form(
        shape=Annotated[str, AfterValidator(_is_day)], read=lambda day, _around, _where: day_of(day, last=False)
    ),
}
# What these values are where nothing is written.
UNWRITTEN: Final[Mapping[Any, Any]] = {Need: "any"}
