"""Where sentences begin, in any script.

Source: Unicode Standard Annex #29, "Unicode Text Segmentation", sentence boundary rules SB1 to SB998,
with the properties as the `regex` package knows them.
"""

from collections.abc import Iterator
from typing import Final

import regex

_EXTENDED: Final = r"[\p{Sentence_Break=Extend}\p{Sentence_Break=Format}]"


def _kind(*names: str) -> str:
    """A character of one of the kinds, with what extends it (SB5)."""
    return f"{_class(*names)}{_EXTENDED}*+"


def _class(*names: str) -> str:
    return "[" + "".join(rf"\p{{Sentence_Break={name}}}" for name in names) + "]"


_PARAGRAPH_END: Final = r"(?:\r\n|[\p{Sentence_Break=Sep}\p{Sentence_Break=CR}\p{Sentence_Break=LF}])"
_CLOSE, _SPACE = _kind("Close"), _kind("Sp")
_TERMINAL, _MAYBE_TERMINAL = _kind("STerm"), _kind("ATerm")
# SB8: characters that may stand between a full stop and a small letter that shows it ended nothing.
_NEITHER: Final = "[^" + _class("OLetter", "Upper", "Lower", "Sep", "CR", "LF", "STerm", "ATerm")[1:]

_END: Final = regex.compile(
    rf"""
    {_PARAGRAPH_END}                                                            # SB3, SB4
    | (?:
        {_TERMINAL} (?:{_CLOSE})*+ (?:{_SPACE})*+
        | {_MAYBE_TERMINAL}
          (?! {_class("Numeric")})                                              # SB6
          (?! (?<= {_class("Upper", "Lower")} {_EXTENDED}* {_class("ATerm")} {_EXTENDED}*)
              {_class("Upper")})                                                # SB7
          (?:{_CLOSE})*+ (?:{_SPACE})*+
          (?! {_NEITHER}*+ {_class("Lower")})                                   # SB8
      )
      (?! {_class("SContinue", "STerm", "ATerm")})                              # SB8a
      {_PARAGRAPH_END}?                                                         # SB9 to SB11
    """,
    regex.VERBOSE,
)


def sentence_bounds(text: str) -> list[int]:
    """Where sentences begin and end: 0, every boundary, and the length; empty for an empty text.

    >>> sentence_bounds("Fog came. It stayed.")
    [0, 10, 20]
    """
    return [0, *(end for end in _ends(text) if end < len(text)), len(text)] if text else []


def _ends(text: str) -> Iterator[int]:
    return (match.end() for match in _END.finditer(text))
