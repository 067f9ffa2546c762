"""The French stemmer. Source: "French stemming algorithm", published with Snowball."""

import re
from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyâàëéêèïîôûù")
_SMALL: Final = str.maketrans("IUY", "iuy")
_STEP_1: Final = by_kind({
    "cut": "ance iqUe isme able iste eux ances iqUes ismes ables istes".split(),
    "ic": "atrice ateur ation atrices ateurs ations".split(),
    "log": ["logie", "logies"],
    "u": "usion ution usions utions".split(),
    "ent": ["ence", "ences"],
    "ement": ["ement", "ements"],
    "ité": ["ité", "ités"],
    "if": "if ive ifs ives".split(),
    "eau": ["eaux"],
    "al": ["aux"],
    "euse": ["euse", "euses"],
    "issement": ["issement", "issements"],
    "amment": ["amment"],
    "emment": ["emment"],
    "ment": ["ment", "ments"],
})  # fmt: skip
_STEP_2A: Final = endings(
    "îmes ît îtes i ie Ie ies ir ira irai iraIent irais irait iras irent irez iriez irions irons iront is issaIent issais "
    "issait issant issante issantes issants isse issent isses issez issiez issions issons it"
)
_STEP_2B_E: Final = endings(
    "é ée ées és èrent er era erai eraIent erais erait eras erez eriez erions erons eront ez iez"
)
_STEP_2B_A: Final = endings("âmes ât âtes a ai aIent ais ait ant ante antes ants as asse assent asses assiez assions")
_STEP_2B: Final = Endings(_STEP_2B_E | _STEP_2B_A | endings("ions"))
_STEP_4: Final = endings("ion ier ière Ier Ière e")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = _mark(word)
    rv = _rv_of(word)
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    after, goes_on = _step_1(word, rv, r1, r2)
    if goes_on:
        shorter = _step_2a(after, rv)
        if shorter == after:
            shorter = _step_2b(after, rv, r2)
        goes_on = shorter == after and after == word
        after = shorter
    if goes_on:
        after = _step_4(after, rv, r2)
    elif after.endswith("Y"):
        after = after[:-1] + "i"
    elif after.endswith("ç"):
        after = after[:-1] + "c"
    return _tidy(after)


def _mark(word: str) -> str:
    """u and i between vowels, y beside one and u after q are no vowels; ë and ï are kept apart."""
    letters = list(word)
    for i, letter in enumerate(letters):
        before = letters[i - 1] if i > 0 else ""
        after = letters[i + 1] if i + 1 < len(letters) else ""
        if letter in "ui" and before in _VOWELS and after in _VOWELS and before and after:
            letters[i] = letter.upper()
        elif letter == "y" and ((before and before in _VOWELS) or (after and after in _VOWELS)):
            letters[i] = "Y"
        elif letter == "u" and before == "q":
            letters[i] = "U"
        elif letter == "ë":
            letters[i] = "He"
        elif letter == "ï":
            letters[i] = "Hi"
    return "".join(letters)


def _rv_of(word: str) -> int:
    if word.startswith(("par", "col", "tap")) or re.match("[aeiouyâàëéêèïîôûù]{2}", word):
        return min(3, len(word))
    found = next((i for i in range(1, len(word)) if word[i] in _VOWELS), None)
    return len(word) if found is None else found + 1


def _step_1(word: str, rv: int, r1: int, r2: int) -> tuple[str, bool]:
    """The word after step 1, and whether step 2 is to follow."""
    ending = _STEP_1.longest(word)
    if not ending:
        return word, True
    cut = len(word) - len(ending)
    before, kind = word[:cut], _STEP_1[ending]
    in_r2 = cut >= r2
    match kind:
        case "eau":
            return before + "eau", False
        case "al":
            return (before + "al", False) if cut >= r1 else (word, True)
        case "euse":
            return (before, False) if in_r2 else (before + "eux", False) if cut >= r1 else (word, True)
        case "issement":
            return (before, False) if cut >= r1 and before and before[-1] not in _VOWELS else (word, True)
        case "amment":
            return (before + "ant", True) if cut >= rv else (word, True)
        case "emment":
            return (before + "ent", True) if cut >= rv else (word, True)
        case "ment":
            return (before, True) if before and before[-1] in _VOWELS and cut - 1 >= rv else (word, True)
        case "ement":
            return (_after_ement(before, rv, r1, r2), False) if cut >= rv else (word, True)
        case _ if not in_r2:
            return word, True
        case "ic":
            return _with_ic(before, r2), False
        case "log" | "u" | "ent":
            return before + kind, False
        case "ité":
            return _after_ity(before, r2), False
        case "if":
            if before.endswith("at") and cut - 2 >= r2:
                return _with_ic(before[:-2], r2), False
            return before, False
        case _:
            return before, False


def _with_ic(word: str, r2: int) -> str:
    if word.endswith("ic"):
        return word[:-2] if len(word) - 2 >= r2 else word[:-2] + "iqU"
    return word


def _after_ement(word: str, rv: int, r1: int, r2: int) -> str:
    cut = len(word)
    if word.endswith("iv") and cut - 2 >= r2:
        word = word[:-2]
        return word[:-2] if word.endswith("at") and len(word) - 2 >= r2 else word
    if word.endswith("eus"):
        return word[:-3] if cut - 3 >= r2 else word[:-1] + "x" if cut - 3 >= r1 else word
    if word.endswith(("abl", "iqU")):
        return word[:-3] if cut - 3 >= r2 else word
    if word.endswith(("ièr", "Ièr")):
        return word[:-3] + "i" if cut - 3 >= rv else word
    return word


def _after_ity(word: str, r2: int) -> str:
    if word.endswith("abil"):
        return word[:-4] if len(word) - 4 >= r2 else word[:-4] + "abl"
    if word.endswith("ic"):
        return _with_ic(word, r2)
    return word[:-2] if word.endswith("iv") and len(word) - 2 >= r2 else word


def _step_2a(word: str, rv: int) -> str:
    ending = _STEP_2A.longest(word[rv:])
    before = word[: len(word) - len(ending)]
    if ending and len(before) - 1 >= rv and before[-1] not in _VOWELS and before[-1] != "H":
        return before
    return word


def _step_2b(word: str, rv: int, r2: int) -> str:
    ending = _STEP_2B.longest(word[rv:])
    before = word[: len(word) - len(ending)]
    if not ending:
        return word
    if ending == "ions":
        return before if len(before) >= r2 else word
    if ending in _STEP_2B_A and before[rv:].endswith("e"):
        return before[:-1]
    return before


def _step_4(word: str, rv: int, r2: int) -> str:
    if word.endswith("s") and len(word) > 1 and (word[-2] not in "aiouès" or word.endswith("His")):
        word = word[:-1]
    ending = _STEP_4.longest(word[rv:])
    before = word[: len(word) - len(ending)]
    match ending:
        case "ion":
            return before if len(before) >= r2 and before[rv:].endswith(("s", "t")) else word
        case "ier" | "ière" | "Ier" | "Ière":
            return before + "i"
        case "e":
            return before
        case _:
            return word


def _tidy(word: str) -> str:
    if word.endswith(("enn", "onn", "ett", "ell", "eill")):
        word = word[:-1]
    # Step 6: an accent on the last vowel goes where consonants follow it.
    found = re.search("[éè]([^aeiouyâàëéêèïîôûù]+)$", word)
    if found is not None:
        word = word[: found.start()] + "e" + found[1]
    return word.replace("He", "ë").replace("Hi", "ï").replace("H", "").translate(_SMALL)
