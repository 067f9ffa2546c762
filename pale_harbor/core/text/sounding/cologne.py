"""Cologne phonetics, for German.

Source: H. J. Postel, "Die Kölner Phonetik", 1969.
"""

from itertools import groupby
from typing import Final

from pale_harbor.core.text.sounding.plain_letters import plain_letters

_DIGITS: Final = {
    letter: digit
    for letters, digit in (
        ("AEIJOUY", "0"), ("B", "1"), ("FVW", "3"), ("GKQ", "4"), ("L", "5"), ("MN", "6"), ("R", "7"), ("SZ", "8"),
        ("H", ""),
    )
    for letter in letters
}  # fmt: skip


def code(text: str) -> str:
    """Digits, of which 0 stands at the beginning only; empty where there is no letter.

    >>> code("Müller-Lüdenscheidt")
    '65752682'
    """
    letters = plain_letters(text)
    digits = "".join(
        _digit(letters[i - 1] if i else "", letter, letters[i + 1] if i + 1 < len(letters) else "")
        for i, letter in enumerate(letters)
    )
    single = "".join(digit for digit, _ in groupby(digits))
    return single[:1] + single[1:].replace("0", "")


def _digit(before: str, letter: str, after: str) -> str:
    match letter:
        case "P":
            return "3" if after == "H" else "1"
        case "D" | "T":
            return "8" if after and after in "CSZ" else "2"
        case "X":
            return "8" if before and before in "CKQ" else "48"
        case "C":
            hard = "AHKLOQRUX" if not before else "AHKOQUX"
            return "4" if after and after in hard and not (before and before in "SZ") else "8"
        case _:
            return _DIGITS[letter]
