"""Text put into Markdown without becoming markup."""

import re
from typing import Final

# What CommonMark gives a meaning within a line, and HTML's own signs.
_SIGNS: Final = re.compile(r"([\\`*_{}\[\]<>#|~!&])")
_BEGINS: Final = re.compile(r"^(\s*)([-+=]|\d+[.)])")


def escape(text: str) -> str:
    """The text on one line, every sign of CommonMark escaped.

    >>> escape("a | b *c*")
    'a \\\\| b \\\\*c\\\\*'
    """
    line = " ".join(text.split())
    line = _SIGNS.sub(r"\\\1", line)
    return _BEGINS.sub(lambda found: f"{found.group(1)}{_first(found.group(2))}", line)


def _first(sign: str) -> str:
    return f"\\{sign}" if len(sign) == 1 else f"{sign[:-1]}\\{sign[-1]}"
