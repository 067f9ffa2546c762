"""The Hungarian stemmer. Source: "Hungarian stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, endings

_VOWELS: Final = frozenset("aeiouáéíóöőúüű")
_DIGRAPHS: Final = ("dzs", "cs", "gy", "ly", "ny", "sz", "ty", "zs")
_DOUBLES: Final = endings("bb cc ccs dd ff gg ggy jj kk ll lly mm nn nny pp rr ss ssz tt tty vv zz zzs")
_STEP_1: Final = endings("al el")
_STEP_5_SHORT: Final = endings("á é")
_CASES: Final = endings(
    "ban ben ba be ra re nak nek val vel tól től ról ről ból ből hoz hez höz nál nél ig at et ot öt ért képp képpen kor "
    "ul ül vá vé onként enként anként ként en on an ön n t"
)
_STEP_4: Final = Endings({"án": "a", "ánként": "a", "én": "e"})
_STEP_5: Final = Endings({"astul": "", "estül": "", "stul": "", "stül": "", "ástul": "a", "éstül": "e"})
_STEP_6: Final = Endings({"oké": "", "öké": "", "aké": "", "eké": "", "ké": "", "éi": "", "é": "", "áké": "a", "áéi": "a", "éké": "e", "ééi": "e", "éé": "e"})  # fmt: skip
_STEP_7: Final = Endings(endings("ünk unk nk juk jük uk ük em om am m od ed ad öd d ja je a e o") | {"ánk": "a", "ájuk": "a", "ám": "a", "ád": "a", "á": "a", "énk": "e", "éjük": "e", "ém": "e", "éd": "e", "é": "e"})  # fmt: skip
_STEP_8: Final = Endings(endings("jaim jeim aim eim im jaid jeid aid eid id jai jei ai ei i jaink jeink eink aink ink jaitok jeitek aitok eitek itek jeik jaik aik eik ik") | {"áim": "a", "áid": "a", "ái": "a", "áink": "a", "áitok": "a", "áik": "a", "éim": "e", "éid": "e", "éi": "e", "éink": "e", "éitek": "e", "éik": "e"})  # fmt: skip
_STEP_9: Final = Endings({"ák": "a", "ék": "e", "ök": "", "ok": "", "ek": "", "ak": "", "k": ""})


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    r1 = _r1_of(word)
    word = _instrumental(word, r1, _STEP_1)
    ending = _ending_in_r1(word, r1, _CASES)
    if ending:
        word = word[: -len(ending)]
        if word.endswith("á") and len(word) - 1 >= r1:
            word = word[:-1] + "a"
        elif word.endswith("é") and len(word) - 1 >= r1:
            word = word[:-1] + "e"
    word = _replace(word, r1, _STEP_4)
    word = _replace(word, r1, _STEP_5)
    word = _instrumental(word, r1, _STEP_5_SHORT)
    for step in (_STEP_6, _STEP_7, _STEP_8, _STEP_9):
        word = _replace(word, r1, step)
    return word


def _r1_of(word: str) -> int:
    """After the first consonant or digraph, if the word begins with a vowel; else after the first vowel."""
    if not word:
        return 0
    if word[0] in _VOWELS:
        for i in range(1, len(word)):
            if word[i] not in _VOWELS:
                digraph = next((d for d in _DIGRAPHS if word.startswith(d, i)), "")
                return i + (len(digraph) or 1)
        return len(word)
    return next((i + 1 for i, letter in enumerate(word) if letter in _VOWELS), len(word))


def _ending_in_r1(word: str, r1: int, tried: Endings) -> str:
    """The longest ending of the word, if it lies in R1: a shorter one does not stand in for it."""
    ending = tried.longest(word)
    return ending if len(word) - len(ending) >= r1 else ""


def _instrumental(word: str, r1: int, tried: Endings) -> str:
    """Cuts an ending that stands after a double consonant, which becomes single."""
    ending = _ending_in_r1(word, r1, tried)
    if not ending:
        return word
    before = word[: -len(ending)]
    if not _DOUBLES.longest(before):
        return word
    # ssz is a long sz: the letter before the last goes; of others it is the same letter.
    return before[:-2] + before[-1]


def _replace(word: str, r1: int, tried: Endings) -> str:
    ending = _ending_in_r1(word, r1, tried)
    return word[: len(word) - len(ending)] + tried[ending] if ending else word
