"""Soundex, as the American census uses it.

Source: U.S. National Archives, "The Soundex Indexing System".
"""

from typing import Final

from pale_harbor.core.text.sounding.plain_letters import plain_letters

_DIGITS: Final = {
    letter: digit
    for letters, digit in (("BFPV", "1"), ("CGJKQSXZ", "2"), ("DT", "3"), ("L", "4"), ("MN", "5"), ("R", "6"))
    for letter in letters
}


def code(text: str) -> str:
    """The first letter and three digits; empty where there is no letter.

    >>> code("Ashcraft"), code("Pfister")
    ('A261', 'P236')
    """
    letters = plain_letters(text)
    if not letters:
        return ""
    digits: list[str] = []
    before = _DIGITS.get(letters[0], "")
    for letter in letters[1:]:
        digit = _DIGITS.get(letter, "")
        if digit and digit != before:
            digits.append(digit)
        # H and W do not part two letters of one digit; a vowel does.
        if letter not in "HW":
            before = digit
    return (letters[0] + "".join(digits) + "000")[:4]
