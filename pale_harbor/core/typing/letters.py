"""The letters by which what is typed is compared with what is suggested: case, accents, signs and blanks aside."""

from typing import Final
from unicodedata import category, combining, normalize

from pale_harbor.core.text.stages.accents import bare

# Between the words of a suggestion, whatever stood there.
BLANK: Final = " "


def letters_of(text: str) -> str:
    """A text as it is compared: in small letters, without accents, its words with one blank between them.

    What is typed keeps a blank at its end, since its last word is complete then; blanks at the beginning go.

    >>> letters_of("  The Skærgård's  fog-bell, 1904 ")
    'the skaergards fog bell 1904 '
    """
    if not text.isascii():
        text = normalize("NFKC", text)
    spread = bare(text.casefold()).casefold().translate(_SIGNS)
    joined = BLANK.join(spread.split())
    return joined + BLANK if joined and spread[-1] == BLANK else joined


def whole_letters_of(text: str) -> str:
    """The letters of a text that is complete: without a blank at its end."""
    return letters_of(text).rstrip(BLANK)


def stretch_of(text: str, start: int, length: int) -> tuple[int, int]:
    """Where in a text stand so many of its letters, from a place among them on. In code points.

    >>> stretch_of("Größe des Schiffs", 7, 3), letters_of("Größe des Schiffs")[7:10]
    ((6, 9), 'des')
    """
    begins = next((i for i in range(len(text)) if len(letters_of(text[: i + 1])) > start), len(text))
    ends = next((i for i in range(begins, len(text)) if len(letters_of(text[:i])) >= start + length), len(text))
    while ends < len(text) and combining(text[ends]):
        ends += 1
    return begins, ends


class _Signs(dict[int, str]):
    """Signs between words are blanks, signs inside of them nothing; learned as they are met."""

    def __missing__(self, code: int) -> str:
        self[code] = made = _made_of(chr(code))
        return made


_APOSTROPHES: Final = frozenset("'’ʼ‛＇")


def _made_of(letter: str) -> str:
    if letter in _APOSTROPHES:
        return ""
    kind = category(letter)
    # A joiner holds a picture together; other controls stand between words.
    if kind[0] in "PZ" or kind == "Cc":
        return BLANK
    return letter


_SIGNS: Final = _Signs()
