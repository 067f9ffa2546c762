"""Metaphone, for English.

Source: L. Philips, "Hanging on the Metaphone", Computer Language 7(12), 1990.
"""

from typing import Final

from pale_harbor.core.text.sounding.plain_letters import plain_letters

_VOWELS: Final = frozenset("AEIOU")
_SOFTENING: Final = frozenset("EIY")
_PLAIN: Final = {"F": "F", "J": "J", "L": "L", "M": "M", "N": "N", "R": "R", "Q": "K", "V": "F", "X": "KS", "Z": "S"}


def code(text: str) -> str:
    """Consonants as they sound, 0 for th and X for sh, and a vowel where the word begins with one.

    >>> code("Knight"), code("Schooner"), code("Thatch")
    ('NT', 'SKNR', '0X')
    """
    letters = _beginning(_single(plain_letters(text)))
    return "".join(_sound(letters, i) for i in range(len(letters)))


def _single(letters: str) -> str:
    """Without the second of two equal letters, C excepted."""
    return "".join(letter for i, letter in enumerate(letters) if i == 0 or letter != letters[i - 1] or letter == "C")


def _beginning(letters: str) -> str:
    if letters[:2] in ("AE", "GN", "KN", "PN", "WR"):
        return letters[1:]
    if letters[:1] == "X":
        return "S" + letters[1:]
    if letters[:2] == "WH":
        return "W" + letters[2:]
    return letters


def _sound(letters: str, i: int) -> str:
    letter = letters[i]
    before = letters[i - 1 : i] if i else ""
    after = letters[i + 1 : i + 2]
    rest = letters[i:]
    match letter:
        case "A" | "E" | "I" | "O" | "U":
            return letter if i == 0 else ""
        case "B":
            return "" if before == "M" and not after else "B"
        case "C":
            return _sound_of_c(before, after, rest)
        case "D":
            return "J" if rest[:2] == "DG" and rest[2:3] in _SOFTENING and rest[2:3] else "T"
        case "G":
            return _sound_of_g(letters, i)
        case "H":
            silent = (before in _VOWELS and after not in _VOWELS) or before in ("C", "S", "P", "T", "G")
            return "" if silent or after not in _VOWELS else "H"
        case "K":
            return "" if before == "C" else "K"
        case "P":
            return "F" if after == "H" else "P"
        case "S":
            return "X" if after == "H" or rest[:3] in ("SIO", "SIA") else "S"
        case "T":
            if rest[:3] in ("TIO", "TIA"):
                return "X"
            if after == "H":
                return "0"
            return "" if rest[:3] == "TCH" else "T"
        case "W" | "Y":
            return letter if after in _VOWELS else ""
        case _:
            return _PLAIN[letter]


def _sound_of_c(before: str, after: str, rest: str) -> str:
    if rest[:3] == "CIA":
        return "X"
    if after == "H":
        return "K" if before == "S" else "X"
    if after in _SOFTENING and after:
        return "" if before == "S" else "S"
    return "K"


def _sound_of_g(letters: str, i: int) -> str:
    before = letters[i - 1 : i] if i else ""
    after, rest = letters[i + 1 : i + 2], letters[i:]
    if after == "H":
        # Silent before a consonant, and at the end: night, high.
        return "" if len(rest) == 2 or rest[2] not in _VOWELS else "K"
    if rest in ("GN", "GNED"):
        return ""
    if before == "D" and after in _SOFTENING and after:
        return ""
    return "J" if after in _SOFTENING and after else "K"
