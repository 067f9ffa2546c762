"""The text stage `replace`."""

from dataclasses import dataclass
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
        return text.with_replaced(
            (_expand(self.text, found), *found.span()) for found in self.pattern.matches(text.text)
        )


def _expand(template: str, found: "regex.Match[str]") -> str:
    return regex.sub(r"\\([0-9]{1,2})", lambda number: found[int(number[1])] or "", template)
