"""The three kinds of stage, and what each must be able to do.

A stage is a small frozen dataclass: its fields are its arguments, the first line of its docstring
says what it does, and its `example` is shown wherever it is explained.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from itertools import pairwise
from typing import ClassVar, Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray, distinct
from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.tokens import Token, TokenTable


class Language(StrEnum):
    """A language by its ISO 639-1 code."""

    ENGLISH = "en"
    GERMAN = "de"
    FRENCH = "fr"
    SPANISH = "es"
    ITALIAN = "it"
    PORTUGUESE = "pt"
    DUTCH = "nl"
    SWEDISH = "sv"
    NORWEGIAN = "no"
    DANISH = "da"
    FINNISH = "fi"
    RUSSIAN = "ru"
    ROMANIAN = "ro"
    HUNGARIAN = "hu"


class StageKind(StrEnum):
    """What a stage works on; it settles where in a chain the stage may stand."""

    TEXT = "text stage"
    TOKENIZER = "tokenizer"
    TOKEN = "token stage"


@dataclass(frozen=True, slots=True)
class Cuts:
    """Where a tokenizer cut texts laid end to end: int32 columns of shape (tokens,).

    positions: within each text; None where each token stands one after the one before it.
    """

    text_ids: IntArray
    starts: IntArray
    ends: IntArray
    positions: IntArray | None = None


@runtime_checkable
class TextStage(Protocol):
    """Rewrites a text before it is cut."""

    example: ClassVar[str]

    def __call__(self, text: MappedText) -> MappedText: ...


@runtime_checkable
class Tokenizer(Protocol):
    """Cuts text into tokens."""

    example: ClassVar[str]

    def cut(self, codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> Cuts:
        """The tokens of texts laid end to end.

        codes: (code points,); text_firsts: (texts + 1,), where each text begins, and the end.
        """
        ...


@runtime_checkable
class TokenStage(Protocol):
    """Makes of one token none, one or several; what it makes depends on the token alone.

    It leaves position and span as they are. Kept tokens are never handed to it.
    """

    example: ClassVar[str]

    def __call__(self, token: Token) -> Iterable[Token]: ...


@runtime_checkable
class SequenceStage(Protocol):
    """Makes tokens of all the tokens of a text together, such as grams of several words."""

    example: ClassVar[str]

    def __call__(self, tokens: Sequence[Token]) -> "Iterable[Made]":
        """The new tokens in order of position, each with the index of the token it came from."""
        ...

    def concerns(self, token: Token) -> bool:
        """Whether a text with this token in it may come out changed."""
        ...


@cache
def is_sequence(stage: type) -> bool:
    """Whether stages of a class look at all tokens of a text together; asked for every query, so once a class."""
    return hasattr(stage, "concerns")


@cache
def is_quick(stage: type) -> bool:
    """Whether stages of a class know a way through columns."""
    return is_sequence(stage) and hasattr(stage, "plain_texts")


class QuickSequenceStage(SequenceStage, Protocol):
    """A sequence stage that also knows a way through columns."""

    def plain_texts(self, table: TokenTable) -> IntArray:
        """The texts for which the plain way is needed."""
        ...

    def read(self, table: TokenTable) -> tuple[TokenTable, IntArray]:
        """The new table of all other texts, and for each of its rows the row it came from."""
        ...


Made = tuple[Token, int]


def codes_of(text: str) -> NDArray[np.uint32]:
    """The code points of a text, lone surrogates included. Shape (letters,)."""
    return np.frombuffer(text.encode("utf-32-le", "surrogatepass"), np.uint32)


def text_firsts_of(texts: Sequence[str]) -> NDArray[np.int64]:
    """Where each text begins when all are laid end to end, and where the last one ends. Shape (texts + 1,)."""
    return np.cumsum([0, *map(len, texts)], dtype=np.int64)


def texts_of_codes(codes: NDArray[np.uint32], text_firsts: NDArray[np.int64]) -> list[str]:
    """The texts that were laid end to end. codes: (letters,); text_firsts: (texts + 1,)."""
    whole = codes.tobytes().decode("utf-32-le", "surrogatepass")
    firsts = text_firsts.tolist()
    return [whole[first:last] for first, last in pairwise(firsts)]


def cuts_of_each(
    codes: NDArray[np.uint32], text_firsts: NDArray[np.int64], stretches: Callable[[str], Iterable[tuple[int, int]]]
) -> Cuts:
    """Cuts text by text: `stretches` gives a text's tokens from left to right."""
    text_ids: list[int] = []
    starts: list[int] = []
    ends: list[int] = []
    for text_id, text in enumerate(texts_of_codes(codes, text_firsts)):
        first = int(text_firsts[text_id])
        for start, end in stretches(text):
            text_ids.append(text_id)
            starts.append(first + start)
            ends.append(first + end)
    return Cuts(np.array(text_ids, np.int32), np.array(starts, np.int32), np.array(ends, np.int32))


def runs_of(solid: NDArray[np.bool_], text_firsts: NDArray[np.int64]) -> Cuts:
    """Cuts at whatever is not solid; no token runs from one text into the next. solid: (code points,)."""
    starts_here = solid.copy()
    starts_here[1:] &= ~solid[:-1]
    ends_here = solid.copy()
    ends_here[:-1] &= ~solid[1:]
    firsts = distinct(text_firsts)
    inner = firsts[(firsts > 0) & (firsts < solid.size)]
    starts_here[inner] = solid[inner]
    ends_here[inner - 1] = solid[inner - 1]
    starts = np.flatnonzero(starts_here)
    text_ids = np.searchsorted(text_firsts, starts, side="right") - 1
    return Cuts(text_ids.astype(np.int32), starts.astype(np.int32), (np.flatnonzero(ends_here) + 1).astype(np.int32))
