"""The three kinds of stage, and what each must be able to do.

A stage is a small frozen dataclass: its fields are its arguments, the first line of its docstring
says what it does, and its `example` is shown wherever it is explained.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar, Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.tokens import IntArray, Token


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


class Kind(StrEnum):
    """What a stage works on; it settles where in a chain the stage may stand."""

    TEXT = "text stage"
    TOKENIZER = "tokenizer"
    TOKEN = "token stage"


@dataclass(frozen=True, slots=True)
class Cuts:
    """Where a tokenizer cut texts laid end to end: int32 columns of shape (tokens,)."""

    text_ids: IntArray
    starts: IntArray
    ends: IntArray


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
    """Makes of one token none, one or several; what it makes depends on the token's text alone."""

    example: ClassVar[str]

    def __call__(self, token: Token) -> Iterable[Token]: ...


def codes_of(text: str) -> NDArray[np.uint32]:
    """The code points of a text, lone surrogates included."""
    return np.frombuffer(text.encode("utf-32-le", "surrogatepass"), np.uint32)


def text_firsts_of(texts: Sequence[str]) -> NDArray[np.int64]:
    """Where each text begins when all are laid end to end, and where the last one ends."""
    return np.cumsum([0, *map(len, texts)], dtype=np.int64)
