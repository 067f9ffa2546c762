"""Letters that XML may hold."""

import re
from typing import Final

# XML 1.0, production 2: everything else may stand in no document, not even as a reference.
_NO_LETTER: Final = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def as_xml_letters(text: str) -> str:
    """A text with what XML cannot hold replaced by U+FFFD.

    >>> as_xml_letters("fog\\x00bell")
    'fog�bell'
    """
    return _NO_LETTER.sub("\ufffd", text)
