"""What text may be stored: everything but NUL and lone surrogates, which no UTF-8 text can hold."""

import re
from typing import Final

_UNSTORABLE: Final = re.compile("[\x00\ud800-\udfff]")
_SURROGATE: Final = re.compile("[\ud800-\udfff]")
REPLACEMENT: Final = "\ufffd"


def unstorable(text: str) -> str | None:
    """What makes a text unfit to be stored, in words; None where nothing does."""
    found = _UNSTORABLE.search(text)
    if found is None:
        return None
    if found.group() == "\x00":
        return f"a NUL character (U+0000) at character {found.start() + 1}"
    return f"half of a surrogate pair (U+{ord(found.group()):04X}) at character {found.start() + 1}"


def well_formed(text: str) -> str:
    """The text with lone surrogates replaced by U+FFFD, one for one, so that offsets stay right."""
    return _SURROGATE.sub(REPLACEMENT, text)
