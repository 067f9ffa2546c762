"""Characters that seldom stand in a text on purpose, and that make words miss each other."""

import re
import unicodedata
from collections.abc import Callable
from typing import Final

import regex

# UTF-8 read as Windows-1252 or Latin-1: a letter of the first half of a pair, then one of the second.
_MOJIBAKE: Final = re.compile(
    "[\u00c2\u00c3][\u0080-\u00bf]|[\u00c2\u00c3][€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|\u00e2\u20ac[\u2122\u0153\u201c\u201d\u02dc\u00a6]"
)
_PRIVATE: Final = regex.compile(r"\p{Private_Use}")
_CONTROL: Final = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]")
_INVISIBLE: Final = re.compile("[\u00ad\u200b\u200c\u200e\u200f\u202a-\u202e\u2060-\u2064\u2066-\u2069\ufeff]")
_MARKUP: Final = re.compile(r"</?[A-Za-z][A-Za-z0-9]*(?:\s[^<>]{0,200})?/?>|&(?:#\d{1,7}|[A-Za-z]{2,12});")

ODDITIES: Final[dict[str, str]] = {
    "mixed normal forms": "letters whose accents stand apart (Unicode NFD among NFC): nfkc brings them together",
    "mojibake suspects": "UTF-8 read in another encoding, like Ã¼ for ü: import again with the right encoding",
    "replacement characters": "U+FFFD: a letter was lost before the text came here",
    "private use": "characters that only one font or program knows",
    "control characters": "characters that are no letters and cannot be seen",
    "invisible characters": "soft hyphens, joiners and direction marks: words that look alike may differ",
    "markup": "tags or entities of HTML or XML that stand in the text",
}

_TESTS: Final[dict[str, Callable[[str], bool]]] = {
    "mixed normal forms": lambda text: not unicodedata.is_normalized("NFC", text),
    "mojibake suspects": lambda text: _MOJIBAKE.search(text) is not None,
    "replacement characters": lambda text: "\ufffd" in text,
    "private use": lambda text: _PRIVATE.search(text) is not None,
    "control characters": lambda text: _CONTROL.search(text) is not None,
    "invisible characters": lambda text: _INVISIBLE.search(text) is not None,
    "markup": lambda text: ("<" in text or "&" in text) and _MARKUP.search(text) is not None,
}


def oddities_of(text: str) -> list[str]:
    """What is odd about a text, by the names of ODDITIES.

    >>> oddities_of("M\\u00c3\\u00bcller"), oddities_of("Müller")
    (['mojibake suspects'], [])
    """
    return [name for name, test in _TESTS.items() if test(text)] if not text.isascii() or _may_be_odd(text) else []


def _may_be_odd(text: str) -> bool:
    return "<" in text or "&" in text or _CONTROL.search(text) is not None
