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

# Every repetition is possessive: none gives back what it took, so that no text takes long.
_MARKUP: Final = regex.compile(
    r"""
      (?P<hidden>  <!--.*?-->
                 | <(?P<silent>script|style)\b[^>]*+>.*?</(?P=silent)\s*+> )
    | <!\[CDATA\[(?P<cdata>.*?)\]\]>
    | <[?!][^>]*+>
    | </?+(?P<tag>[A-Za-z][\w:.-]*+)(?:[^<>"']++|"[^"<]*+"|'[^'<]*+')*+>
    | (?P<entity>&(?:\#[0-9]{1,7}|\#[xX][0-9A-Fa-f]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});?+)
    """,
    regex.VERBOSE | regex.DOTALL | regex.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Markup:
    """Drops HTML and XML tags with comments and scripts, and decodes entities."""

    example: ClassVar[str] = "<p>Fog &amp; <b>be</b>ll</p> becomes Fog & bell"

    def __call__(self, text: MappedText) -> MappedText:
        if "<" not in text.text and "&" not in text.text:
            return text
        return text.with_replaced(_replaced(text.text))


def _replaced(text: str) -> Iterator[tuple[str, int, int]]:
    for found in _MARKUP.finditer(text):
        start, end = found.span()
        if found["entity"]:
            yield unescape(found["entity"]), start, end
        elif found["cdata"] is not None:
            # What stands inside is text as it is: only its borders go.
            yield "", start, found.start("cdata")
            yield "", found.end("cdata"), end
        else:
            yield _gap(found), start, end


def _gap(found: Any) -> str:
    tag = found["tag"]
    return "" if tag and tag.lower() in _WITHIN_WORDS else " "
