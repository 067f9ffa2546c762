"""The English stemmer.

Source: M. F. Porter, "The English (Porter2) stemming algorithm", published with Snowball; its names
for regions and steps are kept, so that the two can be read side by side.
"""

import re
from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, endings

_VOWELS: Final = frozenset("aeiouy")
_DOUBLES: Final = ("bb", "dd", "ff", "gg", "mm", "nn", "pp", "rr", "tt")
_LI_ENDINGS: Final = frozenset("cdeghkmnrt")

_WHOLE_WORDS: Final = {
    "skis": "ski",
    "skies": "sky",
    "dying": "die",
    "lying": "lie",
    "tying": "tie",
    "idly": "idl",
    "gently": "gentl",
    "ugly": "ugli",
    "early": "earli",
    "only": "onli",
    "singly": "singl",
} | {word: word for word in ("sky", "news", "howe", "atlas", "cosmos", "bias", "andes")}

_DONE_AFTER_STEP_1A: Final = frozenset(
    ("inning", "outing", "canning", "herring", "earring", "proceed", "exceed", "succeed")
)

_STEP_2: Final = Endings(
    {
        "ational": "ate",
        "fulness": "ful",
        "iveness": "ive",
        "ization": "ize",
        "ousness": "ous",
        "biliti": "ble",
        "lessli": "less",
        "tional": "tion",
        "alism": "al",
        "aliti": "al",
        "ation": "ate",
        "entli": "ent",
        "fulli": "ful",
        "iviti": "ive",
        "ousli": "ous",
        "abli": "able",
        "alli": "al",
        "anci": "ance",
        "ator": "ate",
        "enci": "ence",
        "izer": "ize",
        "bli": "ble",
        "ogi": "og",
        "li": "",
    }
)
_STEP_3: Final = Endings(
    {
        "ational": "ate",
        "tional": "tion",
        "alize": "al",
        "ative": "",
        "icate": "ic",
        "iciti": "ic",
        "ical": "ic",
        "ness": "",
        "ful": "",
    }
)
_STEP_4: Final = endings("ement ance ence able ible ment ant ent ism ate iti ous ive ize ion al er ic")
_STEP_0: Final = endings("'s' 's '")
_STEP_1B: Final = endings("eedly eed ingly edly ing ed")
_REGION: Final = re.compile("[aeiouy][^aeiouy]")
_SPECIAL_R1: Final = ("gener", "commun", "arsen")
_APOSTROPHES: Final = str.maketrans("\u2019\u2018\u201b", "'''")


def stem(word: str) -> str:
    """The stem of an English word in small letters.

    >>> stem("harbors"), stem("sailing"), stem("generously")
    ('harbor', 'sail', 'generous')
    """
    if len(word) <= 2:
        return word
    if not word.isascii():
        word = word.translate(_APOSTROPHES)
    if word in _WHOLE_WORDS:
        return _WHOLE_WORDS[word]
    word = word.removeprefix("'")
    word = _with_consonant_y(word)
    r1, r2 = _regions(word)
    word = _step_0(word)
    word = _step_1a(word)
    if word in _DONE_AFTER_STEP_1A:
        return word
    word = _step_1b(word, r1)
    word = _step_1c(word)
    word = _step_2(word, r1)
    word = _step_3(word, r1, r2)
    word = _step_4(word, r2)
    return _step_5(word, r1, r2).replace("Y", "y")


def _with_consonant_y(word: str) -> str:
    """Y, in capitals, where y is a consonant: at the start and after a vowel."""
    if "y" not in word:
        return word
    letters = list(word)
    for i, letter in enumerate(letters):
        if letter == "y" and (i == 0 or letters[i - 1] in _VOWELS):
            letters[i] = "Y"
    return "".join(letters)


def _regions(word: str) -> tuple[int, int]:
    """Where R1 and R2 begin: after the first non-vowel following a vowel, and the same again."""
    if word.startswith(_SPECIAL_R1):
        r1 = next(len(special) for special in _SPECIAL_R1 if word.startswith(special))
    else:
        found = _REGION.search(word)
        r1 = found.end() if found else len(word)
    found = _REGION.search(word, r1)
    return r1, found.end() if found else len(word)


def _has_vowel(part: str) -> bool:
    return not _VOWELS.isdisjoint(part)


def _ends_in_short_syllable(word: str) -> bool:
    if len(word) == 2:
        return word[0] in _VOWELS and word[1] not in _VOWELS
    return (
        len(word) > 2
        and word[-1] not in _VOWELS
        and word[-1] not in "wxY"
        and word[-2] in _VOWELS
        and word[-3] not in _VOWELS
    )


def _step_0(word: str) -> str:
    ending = _STEP_0.longest(word)
    return word[: len(word) - len(ending)]


def _step_1a(word: str) -> str:
    if word.endswith("sses"):
        return word[:-2]
    if word.endswith(("ied", "ies")):
        return word[:-2] if len(word) > 4 else word[:-1]
    if word.endswith(("us", "ss")):
        return word
    if word.endswith("s") and _has_vowel(word[:-2]):
        return word[:-1]
    return word


def _step_1b(word: str, r1: int) -> str:
    ending = _STEP_1B.longest(word)
    if not ending:
        return word
    before = word[: -len(ending)]
    if ending in ("eedly", "eed"):
        return before + "ee" if len(before) >= r1 else word
    if not _has_vowel(before):
        return word
    if before.endswith(("at", "bl", "iz")):
        return before + "e"
    if before.endswith(_DOUBLES):
        return before[:-1]
    if len(before) <= r1 and _ends_in_short_syllable(before):
        return before + "e"
    return before


def _step_1c(word: str) -> str:
    if len(word) > 2 and word[-1] in "yY" and word[-2] not in _VOWELS:
        return word[:-1] + "i"
    return word


def _step_2(word: str, r1: int) -> str:
    ending = _STEP_2.longest(word)
    before = word[: len(word) - len(ending)]
    if not ending or len(before) < r1:
        return word
    if ending == "ogi" and not before.endswith("l"):
        return word
    if ending == "li" and before[-1:] not in _LI_ENDINGS:
        return word
    return before + _STEP_2[ending]


def _step_3(word: str, r1: int, r2: int) -> str:
    ending = _STEP_3.longest(word)
    before = word[: len(word) - len(ending)]
    if not ending or len(before) < (r2 if ending == "ative" else r1):
        return word
    return before + _STEP_3[ending]


def _step_4(word: str, r2: int) -> str:
    ending = _STEP_4.longest(word)
    before = word[: len(word) - len(ending)]
    if not ending or len(before) < r2 or (ending == "ion" and before[-1:] not in ("s", "t")):
        return word
    return before


def _step_5(word: str, r1: int, r2: int) -> str:
    before = word[:-1]
    if word.endswith("e") and (len(before) >= r2 or (len(before) >= r1 and not _ends_in_short_syllable(before))):
        return before
    if word.endswith("l") and len(before) >= r2 and before.endswith("l"):
        return before
    return word
