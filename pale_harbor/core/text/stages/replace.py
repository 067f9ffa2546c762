"""The text stage `replace`."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import ClassVar

import regex

from pale_harbor.core.text.mapped_text import MappedText
from pale_harbor.core.text.patterns import SafePattern


@dataclass(frozen=True, slots=True)
class Replace:
    r"""Replaces what a regular expression finds; \1 stands for its first group."""

    pattern: SafePattern
    text: str
    example: ClassVar[str] = r'replace(/(\d)\s(\d)/, "\1\2"): 12 500 becomes 12500'

    def __post_init__(self) -> None:
        groups = regex.compile(self.pattern.source).groups
        highest = max((int(number) for number in regex.findall(r"\\([0-9]{1,2})", self.text)), default=0)
        if highest > groups:
            raise ValueError(f"the text names group {highest}, and the pattern has {groups}.")

    def __call__(self, text: MappedText) -> MappedText:
        if not text.text:
            return text
        parts = _parts(self.text)
        return text.with_replaced(piece for found in self.pattern.matches(text.text) for piece in _pieces(parts, found))


def _parts(template: str) -> list[str | int]:
    """What is put in: texts, and numbers of groups."""
    split = regex.split(r"\\([0-9]{1,2})", template)
    return [int(part) if place % 2 else part for place, part in enumerate(split) if part]


def _pieces(parts: list[str | int], found: "regex.Match[str]") -> Iterator[tuple[str, int, int]]:
    """What replaces a find, in (new text, start, end) from its start to its end.

    A group maps to where it stood, so that a mark is on its letters and not on all that was found; where groups are
    put in another order than they stood in, all of it maps to all that was found.
    """
    start, end = found.span()
    spans = [found.span(part) for part in parts if isinstance(part, int) and found[part]]
    if any(after[0] < before[1] for before, after in pairwise(spans)):
        yield "".join(part if isinstance(part, str) else found[part] or "" for part in parts), start, end
        return
    at, between = start, ""
    kept: tuple[str, int, int] | None = None
    for part in parts:
        if isinstance(part, str) or not found[part]:
            between += part if isinstance(part, str) else ""
            continue
        if kept is not None:
            yield kept
        first, last = found.span(part)
        if first > at:
            yield between, at, first
            between = ""
        kept, at, between = (between + found[part], first, last), last, ""
    if kept is not None:
        # What is put in where nothing stood goes with the group beside it.
        text, first, last = kept
        yield (text, first, last) if end > at else (text + between, first, last)
    if end > at or kept is None:
        yield between, at, end
