"""The Hungarian stemmer. Source: "Hungarian stemming algorithm", published with Snowball."""

from collections.abc import Iterable
from typing import Final

from pale_harbor.core.text.stemmers.regions import longest_ending

_VOWELS: Final = frozenset("aeiouáéíóöőúüű")
_DIGRAPHS: Final = ("cs", "gy", "ly", "ny", "sz", "ty", "zs", "dzs")
_DOUBLES: Final = ("bb cc ccs dd ff gg ggy jj kk ll lly mm nn nny pp rr ss ssz tt tty vv zz zzs").split()
_CASES: Final = (
    "ban ben ba be ra re nak nek val vel tól től ról ről ból ből hoz hez höz nál nél ig at et ot öt ért képp képpen kor "
    "ul ül vá vé onként enként anként ként en on an ön n t"
).split()
_STEP_4: Final = {"án": "a", "ánként": "a", "én": "e"}
_STEP_5: Final = {"astul": "", "estül": "", "stul": "", "stül": "", "ástul": "a", "éstül": "e"}
_STEP_6: Final = {"oké": "", "öké": "", "aké": "", "eké": "", "ké": "", "éi": "", "é": "", "áké": "a", "áéi": "a", "éké": "e", "ééi": "e", "éé": "e"}  # fmt: skip
_STEP_7: Final = dict.fromkeys("ünk unk nk juk jük uk ük em om am m od ed ad öd d ja je a e o".split(), "") | {"ánk": "a", "ájuk": "a", "ám": "a", "ád": "a", "á": "a", "énk": "e", "éjük": "e", "ém": "e", "éd": "e", "é": "e"}  # fmt: skip
_STEP_8: Final = dict.fromkeys("jaim jeim aim eim im jaid jeid aid eid id jai jei ai ei i jaink jeink eink aink ink jaitok jeitek aitok eitek itek jeik jaik aik eik ik".split(), "") | {"áim": "a", "áid": "a", "ái": "a", "áink": "a", "áitok": "a", "áik": "a", "éim": "e", "éid": "e", "éi": "e", "éink": "e", "éitek": "e", "éik": "e"}  # fmt: skip
_STEP_9: Final = {"ák": "a", "ék": "e", "ök": "", "ok": "", "ek": "", "ak": "", "k": ""}


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    r1 = _r1_of(word)
    word = _instrumental(word, r1, ("al", "el"))
    ending = _ending_in_r1(word, r1, _CASES)
    if ending:
        word = word[: -len(ending)]
        if word.endswith("á") and len(word) - 1 >= r1:
            word = word[:-1] + "a"
        elif word.endswith("é") and len(word) - 1 >= r1:
            word = word[:-1] + "e"
    word = _replace(word, r1, _STEP_4)
    word = _replace(word, r1, _STEP_5)
    word = _instrumental(word, r1, ("á", "é"))
    for endings in (_STEP_6, _STEP_7, _STEP_8, _STEP_9):
        word = _replace(word, r1, endings)
    return word


def _r1_of(word: str) -> int:
    """After the first consonant or digraph, if the word begins with a vowel; else after the first vowel."""
    if not word:
        return 0
    if word[0] in _VOWELS:
        for i in range(1, len(word)):
            if word[i] not in _VOWELS:
                digraph = next((d for d in sorted(_DIGRAPHS, key=len, reverse=True) if word.startswith(d, i)), "")
                return i + (len(digraph) or 1)
        return len(word)
    return next((i + 1 for i, letter in enumerate(word) if letter in _VOWELS), len(word))


def _ending_in_r1(word: str, r1: int, endings: Iterable[str]) -> str:
    """The longest ending of the word, if it lies in R1: a shorter one does not stand in for it."""
    ending = longest_ending(word, endings)
    return ending if len(word) - len(ending) >= r1 else ""


def _instrumental(word: str, r1: int, endings: tuple[str, ...]) -> str:
    """Cuts an ending that stands after a double consonant, which becomes single."""
    ending = _ending_in_r1(word, r1, endings)
    if not ending:
        return word
    before = word[: -len(ending)]
    if not longest_ending(before, _DOUBLES):
        return word
    # ssz is a long sz: the letter before the last goes; of others it is the same letter.
    return before[:-2] + before[-1]


def _replace(word: str, r1: int, endings: dict[str, str]) -> str:
    ending = _ending_in_r1(word, r1, endings)
    return word[: len(word) - len(ending)] + endings[ending] if ending else word
