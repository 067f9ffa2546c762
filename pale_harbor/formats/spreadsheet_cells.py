"""Cells of our own CSV files that a spreadsheet would take for formulas: told to be text, and read back as they were.

Source: OWASP, "CSV Injection": a cell is a formula that begins with one of six signs; an apostrophe before it makes it
text.
"""

import re
from typing import Final

# What a spreadsheet takes for a formula.
FORMULA_STARTS: Final = ("=", "+", "-", "@", "\t", "\r")
_COULD_BE_ONE: Final = re.compile(r"'*[=+\-@\t\r]")


def guarded_cell(text: str) -> str:
    """The text with an apostrophe before it where it would be a formula, or would be read as a guarded one.

    >>> guarded_cell("-fog"), guarded_cell("'-fog"), guarded_cell("fog-bell"), guarded_cell("'t Hooft")
    ("'-fog", "''-fog", 'fog-bell', "'t Hooft")
    """
    return f"'{text}" if _COULD_BE_ONE.match(text) else text


def unguarded_cell(text: str) -> str:
    """The text of a cell without the apostrophe that guards it.

    >>> unguarded_cell("'-fog"), unguarded_cell("-fog"), unguarded_cell("'t Hooft")
    ('-fog', '-fog', "'t Hooft")
    """
    return text[1:] if text.startswith("'") and _COULD_BE_ONE.match(text) else text
