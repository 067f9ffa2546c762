"""The text stage `markup`.

Sources: HTML Living Standard, "Tokenization" and "Named character references"; XML 1.0, sections 2 and 4.1.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from html import unescape
from typing import Any, ClassVar, Final

import regex

from pale_harbor.core.text.mapped_text import MappedText

# Tags within a word do not part it; any other tag does.
_WITHIN_WORDS: Final = frozenset(
    "a abbr b bdi bdo big cite code data del dfn em font i ins kbd mark q s samp small span strike strong sub sup "
    "time tt u var wbr".split()
)

# Every repetition is possessive and ends at the next "<": none gives back what it took, and no text takes long.
_TAG: Final = regex.compile(r"""</?+([A-Za-z][\w:.-]*+)(?:[^<>"']++|"[^"<]*+"|'[^'<]*+')*+>""")
_ENTITY: Final = regex.compile(r"&(?:\#[0-9]{1,7}|\#[xX][0-9A-Fa-f]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});?+")
_BEGINNING: Final = regex.compile("[<&]")
# What stands inside is for programs.
_SILENT: Final = {tag: regex.compile(rf"</{tag}\s*+>", regex.IGNORECASE) for tag in ("script", "style")}


@dataclass(frozen=True, slots=True)
class Markup:
    """Drops HTML and XML tags with comments and scripts, and decodes entities."""

    example: ClassVar[str] = "<p>Fog &amp; <b>be</b>ll</p> becomes Fog & bell"

    def __call__(self, text: MappedText) -> MappedText:
        if "<" not in text.text and "&" not in text.text:
            return text
        return text.with_replaced(_replacements(text.text))


def _replacements(text: str) -> Iterator[tuple[str, int, int]]:
    """What is put in the place of each piece of markup, from left to right: (new text, start, end)."""
    ends = _Ends(text)
    at = 0
    while (found := _BEGINNING.search(text, at)) is not None:
        start = found.start()
        at = start + 1
        if text[start] == "&":
            entity = _ENTITY.match(text, start)
            if entity is not None:
                at = entity.end()
                yield unescape(entity[0]), start, at
        elif text.startswith("<!--", start) and (end := ends.after("-->", start + 4)) is not None:
            at = end
            yield " ", start, at
        elif text.startswith("<![CDATA[", start) and (end := ends.after("]]>", start + 9)) is not None:
            # What stands inside is text as it is: only its borders go.
            at = end
            yield "", start, start + 9
            yield "", at - 3, at
        elif text.startswith(("<!", "<?"), start) and (end := ends.after(">", start)) is not None:
            at = end
            yield " ", start, at
        elif (tag := _TAG.match(text, start)) is not None:
            name = tag[1].lower()
            at = tag.end()
            if name in _SILENT and text[start + 1] != "/":
                at = ends.after_tag(name, at) or at
            yield "" if name in _WITHIN_WORDS else " ", start, at


class _Ends:
    """Finds what ends a piece of markup, and looks no second time for what no longer comes."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.missing: set[str] = set()

    def after(self, ending: str, start: int) -> int | None:
        """Behind the next ending; None where there is none."""
        if ending in self.missing:
            return None
        found = self.text.find(ending, start)
        if found < 0:
            self.missing.add(ending)
            return None
        return found + len(ending)

    def after_tag(self, name: str, start: int) -> int | None:
        """Behind the closing tag of a script or a style; None where there is none."""
        if name in self.missing:
            return None
        found: Any = _SILENT[name].search(self.text, start)
        if found is None:
            self.missing.add(name)
            return None
        return found.end()
