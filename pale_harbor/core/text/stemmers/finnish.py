"""The Finnish stemmer. Source: "Finnish stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import endings

_V1: Final = frozenset("aeiouyäö")
_V2: Final = frozenset("aeiouäö")
_CONSONANTS: Final = frozenset("bcdfghjklmnpqrstvwxz")
_LONG: Final = ("aa", "ee", "ii", "oo", "uu", "ää", "öö")
_PARTICLES: Final = endings("kin kaan kään ko kö han hän pa pä sti")
_POSSESSIVES: Final = endings("si ni nsa nsä mme nne an än en")
_BEFORE_AN: Final = ("ta", "ssa", "sta", "lla", "lta", "na")
_BEFORE_AEN: Final = ("tä", "ssä", "stä", "llä", "ltä", "nä")
_CASES: Final = endings(
    "han hen hin hon hän hön siin seen den tten n a ä tta ttä ta tä ssa ssä sta stä lla llä lta ltä lle na nä ksi ine"
)
_COMPARATIVES: Final = endings("mpi mpa mpä mmi mma mmä impi impa impä immi imma immä eja ejä")
_PLURALS: Final = endings("mma imma")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    p1, p2 = _regions(word)
    word = _without_particle(word, p1, p2)
    word = _without_possessive(word, p1)
    word, ending_removed = _without_case(word, p1)
    word = _without_comparative(word, p2)
    if ending_removed:
        if word[p1:].endswith(("i", "j")):
            word = word[:-1]
    else:
        word = _without_t_plural(word, p1, p2)
    return _tidy(word, p1)


def _regions(word: str) -> tuple[int, int]:
    p1 = _after_vowel_and_consonant(word, 0)
    return p1, _after_vowel_and_consonant(word, p1)


def _after_vowel_and_consonant(word: str, start: int) -> int:
    for i in range(start, len(word)):
        if word[i] in _V1:
            for j in range(i + 1, len(word)):
                if word[j] not in _V1:
                    return j + 1
            return len(word)
    return len(word)


def _without_particle(word: str, p1: int, p2: int) -> str:
    ending = _PARTICLES.longest(word[p1:])
    before = word[: len(word) - len(ending)]
    if ending == "sti":
        return before if len(before) >= p2 else word
    if ending and before and (before[-1] in _V1 or before[-1] in "nt"):
        return before
    return word


def _without_possessive(word: str, p1: int) -> str:
    ending = _POSSESSIVES.longest(word[p1:])
    before = word[: len(word) - len(ending)]
    match ending:
        case "si":
            return word if before.endswith("k") else before
        case "ni":
            return before[:-3] + "ksi" if before.endswith("kse") else before
        case "nsa" | "nsä" | "mme" | "nne":
            return before
        case "an":
            return before if before.endswith(_BEFORE_AN) else word
        case "än":
            return before if before.endswith(_BEFORE_AEN) else word
        case "en":
            return before if before.endswith(("lle", "ine")) else word
        case _:
            return word


def _is_vi(text: str) -> bool:
    return len(text) > 1 and text[-1] == "i" and text[-2] in _V2


def _without_case(word: str, p1: int) -> tuple[str, bool]:
    """The word without its case ending, and whether there was one."""
    for ending in _CASES.all_of(word[p1:]):
        before = word[: len(word) - len(ending)]
        match ending:
            case "siin" | "den" | "tten":
                # Where these do not fit, a shorter ending may.
                if not _is_vi(before):
                    continue
                return before, True
            case "seen":
                if not before.endswith(_LONG):
                    continue
                return before, True
            case "n":
                # A long vowel before it, or ie, loses its last letter too.
                return (before[:-1] if before.endswith((*_LONG, "ie")) else before), True
            case "han" | "hen" | "hin" | "hon" | "hän" | "hön":
                fits = before.endswith(ending[1])
            case "a" | "ä":
                fits = len(before) > 1 and before[-1] in _V1 and before[-2] in _CONSONANTS
            case "tta" | "ttä":
                fits = before.endswith("e")
            case _:
                fits = True
        return (before, True) if fits else (word, False)
    return word, False


def _without_comparative(word: str, p2: int) -> str:
    ending = _COMPARATIVES.longest(word[p2:])
    before = word[: len(word) - len(ending)]
    if ending in ("mpi", "mpa", "mpä", "mmi", "mma", "mmä") and before.endswith("po"):
        return word
    return before if ending else word


def _without_t_plural(word: str, p1: int, p2: int) -> str:
    if not word[p1:].endswith("t") or len(word) < 2 or word[-2] not in _V1 or len(word) - 2 < p1:
        return word
    word = word[:-1]
    ending = _PLURALS.longest(word[p2:])
    before = word[: len(word) - len(ending)]
    if ending == "imma" or (ending == "mma" and not before.endswith("po")):
        return before
    return word


def _tidy(word: str, p1: int) -> str:
    if word[p1:].endswith(_LONG):
        word = word[:-1]
    if len(word) - 2 >= p1 and word[-1] in "aäei" and word[-2] in _CONSONANTS:
        word = word[:-1]
    if word[p1:].endswith(("oj", "uj")):
        word = word[:-1]
    if word[p1:].endswith("jo"):
        word = word[:-1]
    # The last consonant, if it is double and only vowels follow, becomes single.
    last = len(word)
    while last > 0 and word[last - 1] in _V1:
        last -= 1
    if last > 1 and word[last - 1] == word[last - 2] and word[last - 1] in _CONSONANTS:
        word = word[: last - 1] + word[last:]
    return word
