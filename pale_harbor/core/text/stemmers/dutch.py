"""The Dutch stemmer. Source: "Dutch stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyè")
_PLAIN: Final = str.maketrans("äëïöüáéíóú", "aeiouaeiou")
_SMALL: Final = str.maketrans("IY", "iy")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = _mark(word.translate(_PLAIN))
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    r1 = max(3, r1)
    word = _step_1(word, r1)
    word, e_removed = _step_2(word, r1)
    if word.endswith("heid") and len(word) - 4 >= r2 and not word.endswith("cheid"):
        word = word[:-4]
        if word.endswith("en"):
            word = _without_en(word, 2, r1)
    word = _step_3b(word, r1, r2, e_removed)
    # Step 4: a long vowel between consonants is written short.
    long = len(word) >= 4 and word[-3:-1] in ("aa", "ee", "oo", "uu") and word[-4] not in _VOWELS
    if long and _is_consonant(word[-1]) and word[-1] != "I":
        word = word[:-2] + word[-1]
    return word.translate(_SMALL)


def _is_consonant(letter: str) -> bool:
    return letter not in _VOWELS


def _mark(word: str) -> str:
    letters = list(word)
    for i, letter in enumerate(letters):
        if letter == "y" and (i == 0 or letters[i - 1] in _VOWELS):
            letters[i] = "Y"
        elif letter == "i" and 0 < i < len(letters) - 1 and letters[i - 1] in _VOWELS and letters[i + 1] in _VOWELS:
            letters[i] = "I"
    return "".join(letters)


def _undouble(word: str) -> str:
    return word[:-1] if word.endswith(("kk", "dd", "tt")) else word


def _without_en(word: str, size: int, r1: int) -> str:
    """Cuts an en-ending of this size: in R1, after a consonant that is not in `gem`."""
    before = word[: len(word) - size]
    if len(before) >= r1 and before and _is_consonant(before[-1]) and not before.endswith("gem"):
        return _undouble(before)
    return word


def _step_1(word: str, r1: int) -> str:
    if word.endswith("heden"):
        return word[:-5] + "heid" if len(word) - 5 >= r1 else word
    for ending in ("ene", "en"):
        if word.endswith(ending):
            return _without_en(word, len(ending), r1)
    for ending in ("se", "s"):
        if word.endswith(ending):
            before = word[: -len(ending)]
            if len(before) >= r1 and before and _is_consonant(before[-1]) and before[-1] != "j":
                return before
            return word
    return word


def _step_2(word: str, r1: int) -> tuple[str, bool]:
    if word.endswith("e") and len(word) - 1 >= r1 and len(word) > 1 and _is_consonant(word[-2]):
        return _undouble(word[:-1]), True
    return word, False


def _step_3b(word: str, r1: int, r2: int, e_removed: bool) -> str:
    for ending in ("baar", "lijk", "bar", "end", "ing", "ig"):
        if not word.endswith(ending):
            continue
        before = word[: -len(ending)]
        if len(before) < r2:
            return word
        match ending:
            case "end" | "ing":
                if before.endswith("ig") and len(before) - 2 >= r2 and not before.endswith("eig"):
                    return before[:-2]
                return _undouble(before)
            case "ig":
                return word if before.endswith("e") else before
            case "lijk":
                return _step_2(before, r1)[0]
            case "baar":
                return before
            case _:
                return before if e_removed else word
    return word
