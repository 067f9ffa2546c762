"""The German stemmer. Source: "German stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyäöü")
_S_ENDINGS: Final = frozenset("bdfghklmnrt")
_ST_ENDINGS: Final = frozenset("bdfghklmnt")
_STEP_1: Final = endings("em ern er e en es s")
_STEP_2: Final = endings("en er est st")
_STEP_3: Final = endings("end ung ig ik isch lich heit keit")
_BEFORE_KEIT: Final = endings("lich ig")
_PLAIN: Final = str.maketrans("äöüUY", "aouuy")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = _mark(word.replace("ß", "ss"))
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    r1 = max(3, r1)
    word = _step_1(word, r1)
    word = _step_2(word, r1)
    return _step_3(word, r1, r2).translate(_PLAIN)


def _mark(word: str) -> str:
    """u and y between vowels are no vowels."""
    letters = list(word)
    for i in range(1, len(letters) - 1):
        if letters[i] in "uy" and letters[i - 1] in _VOWELS and letters[i + 1] in _VOWELS:
            letters[i] = letters[i].upper()
    return "".join(letters)


def _step_1(word: str, r1: int) -> str:
    ending = _STEP_1.longest(word)
    if not ending or len(word) - len(ending) < r1:
        return word
    if ending == "s":
        return word[:-1] if len(word) > 1 and word[-2] in _S_ENDINGS else word
    word = word[: -len(ending)]
    if ending in ("e", "en", "es") and word.endswith("niss"):
        word = word[:-1]
    return word


def _step_2(word: str, r1: int) -> str:
    ending = _STEP_2.longest(word)
    if not ending or len(word) - len(ending) < r1:
        return word
    if ending == "st":
        return word[:-2] if len(word) >= 6 and word[-3] in _ST_ENDINGS else word
    return word[: -len(ending)]


def _step_3(word: str, r1: int, r2: int) -> str:
    ending = _STEP_3.longest(word)
    cut = len(word) - len(ending)
    if not ending or cut < r2:
        return word
    before = word[:cut]
    match ending:
        case "end" | "ung":
            word = before
            if word.endswith("ig") and cut - 2 >= r2 and not word.endswith("eig"):
                word = word[:-2]
        case "ig" | "ik" | "isch":
            word = word if before.endswith("e") else before
        case "lich" | "heit":
            word = before
            if word.endswith(("er", "en")) and cut - 2 >= r1:
                word = word[:-2]
        case _:
            word = before
            more = _BEFORE_KEIT.longest(word)
            if more and cut - len(more) >= r2:
                word = word[: -len(more)]
    return word
