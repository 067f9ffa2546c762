"""The Romanian stemmer. Source: "Romanian stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of, romance_rv_of

_VOWELS: Final = frozenset("aeiouâîă")
_SMALL: Final = str.maketrans("IU", "iu")
_STEP_0: Final = by_kind(
    {
        "cut": ["ul", "ului"],
        "a": ["aua"],
        "e": ["ea", "ele", "elor"],
        "i": ["ii", "iua", "iei", "iile", "iilor", "ilor"],
        "ile": ["ile"],
        "at": ["atei"],
        "aţi": ["aţie", "aţia"],
    }
)
_COMBINING: Final = by_kind({
    "abil": ["abilitate", "abilitati", "abilităi", "abilităţi"],
    "ibil": ["ibilitate"],
    "iv": ["ivitate", "ivitati", "ivităi", "ivităţi"],
    "ic": "icitate icitati icităi icităţi icala icale icali icală icator icatori iciv iciva icive icivi icivă ical".split(),
    "at": "ativ ativa ative ativi ativă aţiune atoare ator atori ătoare ător ători".split(),
    "it": "itiv itiva itive itivi itivă iţiune itoare itor itori".split(),
})  # fmt: skip
_STEP_2_CUT: Final = endings(
    "at ata ată ati ate ut uta ută uti ute it ita ită iti ite ic ica ice ici ică abil abila abile abili abilă ibil ibila "
    "ibile ibili ibilă oasa oasă oase os osi oşi ant anta ante anti antă ator atori itate itati ităi ităţi iv iva ive "
    "ivi ivă"
)
_STEP_2_IST: Final = endings("ism isme ist ista iste isti istă işti")
_STEP_2_TI: Final = endings("iune iuni")
_STEP_2: Final = Endings(_STEP_2_CUT | _STEP_2_IST | _STEP_2_TI)
_VERB_AFTER: Final = endings(
    "are ere ire âre ind ând indu ându eze ească ez ezi ează esc eşti eşte ăsc ăşti ăşte am ai au eam eai ea eaţi eau iam "
    "iai ia iaţi iau ui aşi arăm arăţi ară uşi urăm urăţi ură işi irăm irăţi iră âi âşi ârăm ârăţi âră asem aseşi ase "
    "aserăm aserăţi aseră isem iseşi ise iserăm iserăţi iseră âsem âseşi âse âserăm âserăţi âseră usem useşi use userăm "
    "userăţi useră"
)
_VERB: Final = endings(
    "ăm aţi em eţi im iţi âm âţi seşi serăm serăţi seră sei se sesem seseşi sese seserăm seserăţi seseră"
)
_STEP_3: Final = Endings(_VERB_AFTER | _VERB)
_STEP_4: Final = endings("a e i ie ă")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = _mark(word)
    rv = romance_rv_of(word, _VOWELS)
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    word = _step_0(word, r1)
    word, changed = _step_1(word, r1)
    word, cut = _step_2(word, r2)
    if not (changed or cut):
        word = _step_3(word, rv)
    ending = _STEP_4.longest(word[rv:])
    return word[: len(word) - len(ending)].translate(_SMALL)


def _mark(word: str) -> str:
    letters = list(word)
    for i in range(1, len(letters) - 1):
        if letters[i] in "iu" and letters[i - 1] in _VOWELS and letters[i + 1] in _VOWELS:
            letters[i] = letters[i].upper()
    return "".join(letters)


def _step_0(word: str, r1: int) -> str:
    ending = _STEP_0.longest(word)
    cut = len(word) - len(ending)
    if not ending or cut < r1:
        return word
    before, kind = word[:cut], _STEP_0[ending]
    match kind:
        case "cut":
            return before
        case "ile":
            return word if before.endswith("ab") else before + "i"
        case _:
            return before + kind


def _step_1(word: str, r1: int) -> tuple[str, bool]:
    """Combining endings become one, again and again."""
    changed = False
    while True:
        ending = _COMBINING.longest(word)
        cut = len(word) - len(ending)
        if not ending or cut < r1:
            return word, changed
        word, changed = word[:cut] + _COMBINING[ending], True


def _step_2(word: str, r2: int) -> tuple[str, bool]:
    ending = _STEP_2.longest(word)
    cut = len(word) - len(ending)
    if not ending or cut < r2:
        return word, False
    before = word[:cut]
    if ending in _STEP_2_IST:
        return before + "ist", True
    if ending in _STEP_2_TI:
        return (before[:-1] + "t", True) if before.endswith("ţ") else (word, False)
    return before, True


def _step_3(word: str, rv: int) -> str:
    ending = _STEP_3.longest(word[rv:])
    before = word[: len(word) - len(ending)]
    if not ending:
        return word
    if ending in _VERB:
        return before
    last = before[rv:][-1:]
    return before if last and (last not in _VOWELS or last == "u") else word
