"""The text stage `swap`."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, ClassVar

import regex

from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.word_lists import Replacements


@dataclass(frozen=True, slots=True)
class Swap:
    """Replaces characters or strings by a list, wherever they stand in the text; the longest goes first."""

    replacements: Replacements
    example: ClassVar[str] = "swap(@old-letters), where ſ stands for s: ſloop becomes sloop"

    def __call__(self, text: MappedText) -> MappedText:
        pattern = _any_of(self.replacements)
        if pattern is None:
            return text
        by_word = self.replacements.by_word
        return text.with_replaced((by_word[found[0]], *found.span()) for found in pattern.finditer(text.text))


@lru_cache(maxsize=64)
def _any_of(replacements: Replacements) -> Any:
    longest_first = sorted((word for word in replacements.by_word if word), key=lambda word: (-len(word), word))
    return regex.compile("|".join(regex.escape(word) for word in longest_first)) if longest_first else None
