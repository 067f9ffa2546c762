"""The text of a page out of the words that a machine read, and where each of its letters stands."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from pale_harbor.core.pages.places import Place
from pale_harbor.core.pages.read_words import ReadWord

# A word is parted by these wherever they end a line: soft hyphen, and the not sign, which readers of old type give.
_PARTING: Final = "\u00ad\u00ac"
# By these it may be parted or joined: hyphen-minus, hyphen, double oblique hyphen, and what readers make of the latter.
_HYPHENS: Final = "-\u2010\u2e17="


@dataclass(frozen=True, slots=True)
class ComposedText:
    """A page's text and the places of its letters, in their order."""

    text: str
    places: tuple[Place, ...]


def composed(words: Sequence[ReadWord]) -> ComposedText:
    """One text of a page's words, in their order: lines end with a line feed, blocks with an empty line.

    A word that is parted at the end of a line is one word, which ends its first line, with a place for each part; the
    hyphen is none of its letters. Either the file says so (`part`, `whole`), or a line ends with a letter and a hyphen,
    and the next line of the block goes on with a small letter. Words without letters are passed over.

    >>> from pale_harbor.core.pages.read_words import Box
    >>> first = ReadWord(letters="light-", box=Box(90, 10, 30, 9), line=0, block=0)
    >>> second = ReadWord(letters="house", box=Box(10, 24, 30, 9), line=1, block=0)
    >>> made = composed([first, second])
    >>> made.text, [(one.start, one.end, one.line) for one in made.places]
    ('lighthouse', [(0, 5, 0), (5, 10, 1)])
    """
    text: list[str] = []
    places: list[Place] = []
    length = 0
    before: ReadWord | None = None
    for parts in _parted_words(words):
        between = "" if before is None else _between(before, parts[0])
        text.append(between)
        length += len(between)
        for part, letters in zip(parts, _letters(parts), strict=True):
            text.append(letters)
            if part.box is not None and letters:
                places.append(Place(length, length + len(letters), part.box, part.line, part.confidence))
            length += len(letters)
        before = parts[0]
    return ComposedText("".join(text), tuple(places))


def _parted_words(words: Sequence[ReadWord]) -> list[list[ReadWord]]:
    """Each word with all its parts; most have one."""
    found: list[list[ReadWord]] = []
    for word in words:
        if not word.letters.strip():
            continue
        if found and _goes_on(found[-1][-1], word):
            found[-1].append(word)
        else:
            found.append([word])
    return found


def _goes_on(first: ReadWord, second: ReadWord) -> bool:
    """Whether a word goes on with the next one, which is on another line."""
    if first.part is not None or second.part is not None:
        return first.part == "first" and second.part == "second"
    if first.line == second.line or first.block != second.block:
        return False
    letters, next_letter = first.letters.strip(), second.letters.strip()[0]
    if not letters[-2:-1].isalpha() or not next_letter.isalpha():
        return False
    return letters[-1] in _PARTING or (letters[-1] in _HYPHENS and next_letter.islower())


def _letters(parts: Sequence[ReadWord]) -> list[str]:
    """What each part adds to the word that they make."""
    if len(parts) == 1:
        return [parts[0].letters.strip()]
    whole = next((part.whole.strip() for part in parts if part.whole and part.whole.strip()), None)
    *others, last = [part.letters.strip() for part in parts]
    own = [*(one.rstrip(_PARTING + _HYPHENS) or one for one in others), last]
    if whole is None:
        return own
    # The file may tell it otherwise than it stands there; each part keeps as many letters as it shows.
    given: list[str] = []
    for letters in own[:-1]:
        given.append(whole[: len(letters)])
        whole = whole[len(letters) :]
    return [*given, whole]


def _between(before: ReadWord, word: ReadWord) -> str:
    if before.block != word.block:
        return "\n\n"
    return " " if before.line == word.line else "\n"
