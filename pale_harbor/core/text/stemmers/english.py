"""The English stemmer.

Source: M. F. Porter, "The English (Porter2) stemming algorithm", published with Snowball; its names
for regions and steps are kept, so that the two can be read side by side.
"""

import re
from typing import Final

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

# Longest first within each step: the first ending that fits is the one that counts.
_STEP_2: Final = (
    ("ational", "ate"),
    ("fulness", "ful"),
    ("iveness", "ive"),
    ("ization", "ize"),
    ("ousness", "ous"),
    ("biliti", "ble"),
    ("lessli", "less"),
    ("tional", "tion"),
    ("alism", "al"),
    ("aliti", "al"),
    ("ation", "ate"),
    ("entli", "ent"),
    ("fulli", "ful"),
    ("iviti", "ive"),
    ("ousli", "ous"),
    ("abli", "able"),
    ("alli", "al"),
    ("anci", "ance"),
    ("ator", "ate"),
    ("enci", "ence"),
    ("izer", "ize"),
    ("bli", "ble"),
    ("ogi", "og"),
    ("li", ""),
)
_STEP_3: Final = (
    ("ational", "ate"),
    ("tional", "tion"),
    ("alize", "al"),
    ("ative", ""),
    ("icate", "ic"),
    ("iciti", "ic"),
    ("ical", "ic"),
    ("ness", ""),
    ("ful", ""),
)
_STEP_4: Final = (
    *("ement",),
    *("ance", "ence", "able", "ible", "ment"),
    *("ant", "ent", "ism", "ate", "iti", "ous", "ive", "ize", "ion"),
    *("al", "er", "ic"),
)
_REGION: Final = re.compile("[aeiouy][^aeiouy]")
_SPECIAL_R1: Final = re.compile("gener|commun|arsen")


def stem(word: str) -> str:
    """The stem of an English word in small letters.

    >>> stem("harbors"), stem("sailing"), stem("generously")
    ('harbor', 'sail', 'generous')
    """
    if len(word) <= 2:
        return word
    word = word.replace("\u2019", "'").replace("\u2018", "'").replace("\u201b", "'")
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
    special = _SPECIAL_R1.match(word)
    found = _REGION.search(word)
    r1 = special.end() if special else found.end() if found else len(word)
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
    for ending in ("'s'", "'s", "'"):
        if word.endswith(ending):
            return word[: -len(ending)]
    return word


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
    for ending in ("eedly", "eed"):
        if word.endswith(ending):
            return word[: -len(ending)] + "ee" if len(word) - len(ending) >= r1 else word
    for ending in ("ingly", "edly", "ing", "ed"):
        if word.endswith(ending):
            before = word[: -len(ending)]
            if not _has_vowel(before):
                return word
            if before.endswith(("at", "bl", "iz")):
                return before + "e"
            if before.endswith(_DOUBLES):
                return before[:-1]
            if len(before) <= r1 and _ends_in_short_syllable(before):
                return before + "e"
            return before
    return word


def _step_1c(word: str) -> str:
    if len(word) > 2 and word[-1] in "yY" and word[-2] not in _VOWELS:
        return word[:-1] + "i"
    return word


def _step_2(word: str, r1: int) -> str:
    for ending, new in _STEP_2:
        if word.endswith(ending):
            before = word[: -len(ending)]
            if len(before) < r1:
                return word
            if ending == "ogi" and not before.endswith("l"):
                return word
            if ending == "li" and before[-1:] not in _LI_ENDINGS:
                return word
            return before + new
    return word


def _step_3(word: str, r1: int, r2: int) -> str:
    for ending, new in _STEP_3:
        if word.endswith(ending):
            before = word[: -len(ending)]
            if len(before) < (r2 if ending == "ative" else r1):
                return word
            return before + new
    return word


def _step_4(word: str, r2: int) -> str:
    for ending in _STEP_4:
        if word.endswith(ending):
            before = word[: -len(ending)]
            if len(before) < r2 or (ending == "ion" and before[-1:] not in ("s", "t")):
                return word
            return before
    return word


def _step_5(word: str, r1: int, r2: int) -> str:
    before = word[:-1]
    if word.endswith("e") and (len(before) >= r2 or (len(before) >= r1 and not _ends_in_short_syllable(before))):
        return before
    if word.endswith("l") and len(before) >= r2 and before.endswith("l"):
        return before
    return word
