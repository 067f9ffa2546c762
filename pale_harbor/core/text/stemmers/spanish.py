"""The Spanish stemmer. Source: "Spanish stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of, romance_rv_of, without_one_of

_VOWELS: Final = frozenset("aeiouáéíóúü")
_PRONOUNS: Final = endings("me se sela selo selas selos la le lo las les los nos")
_AFTER: Final = endings("iéndo ándo ár ér ír ando iendo ar er ir yendo")
_PLAIN: Final = str.maketrans("áéíóú", "aeiou")
_STEP_1: Final = by_kind({
    "cut": "anza anzas ico ica icos icas ismo ismos able ables ible ibles ista istas oso osa osos osas amiento amientos imiento imientos".split(),
    "ic": "adora ador ación adoras adores aciones ante antes ancia ancias".split(),
    "log": ["logía", "logías"],
    "u": ["ución", "uciones"],
    "ente": ["encia", "encias"],
    "amente": ["amente"],
    "mente": ["mente"],
    "idad": ["idad", "idades"],
    "iva": "iva ivo ivas ivos".split(),
})  # fmt: skip
_STEP_2A: Final = endings("ya ye yan yen yeron yendo yo yó yas yes yais yamos")
_STEP_2B_GU: Final = endings("en es éis emos")
_STEP_2B: Final = Endings(
    _STEP_2B_GU
    | endings(
        "arían arías arán arás aríais aría aréis aríamos aremos ará aré erían erías erán erás eríais ería eréis eríamos "
        "eremos erá eré irían irías irán irás iríais iría iréis iríamos iremos irá iré aba ada ida ía ara iera ad ed id "
        "ase iese aste iste an aban ían aran ieran asen iesen aron ieron ado ido ando iendo ió ar er ir as abas adas idas "
        "ías aras ieras ases ieses ís áis abais íais arais ierais aseis ieseis asteis isteis ados idos amos ábamos íamos "
        "imos áramos iéramos iésemos ásemos"
    )
)
_STEP_3: Final = endings("os a o á í ó e é")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    rv = romance_rv_of(word, _VOWELS)
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    word = _without_pronoun(word, rv)
    after = _step_1(word, r1, r2)
    if after == word:
        after = _step_2a(word, rv)
        if after == word:
            after = _step_2b(word, rv)
    return _step_3(after, rv).translate(_PLAIN)


def _without_pronoun(word: str, rv: int) -> str:
    pronoun = _PRONOUNS.longest(word)
    if not pronoun:
        return word
    before = word[: -len(pronoun)]
    ending = _AFTER.longest(before[rv:])
    if not ending or (ending == "yendo" and not before.endswith("uyendo")):
        return word
    return before[: len(before) - len(ending)] + ending.translate(_PLAIN)


def _step_1(word: str, r1: int, r2: int) -> str:
    ending = _STEP_1.longest(word)
    if not ending:
        return word
    cut = len(word) - len(ending)
    kind = _STEP_1[ending]
    if cut < (r1 if kind == "amente" else r2):
        return word
    before = word[:cut]
    match kind:
        case "ic":
            return without_one_of(before, ("ic",), r2)
        case "log" | "u" | "ente":
            return before + kind
        case "amente":
            if before.endswith("iv") and cut - 2 >= r2:
                return without_one_of(before[:-2], ("at",), r2)
            return without_one_of(before, ("os", "ic", "ad"), r2)
        case "mente":
            return without_one_of(before, ("ante", "able", "ible"), r2)
        case "idad":
            return without_one_of(before, ("abil", "ic", "iv"), r2)
        case "iva":
            return without_one_of(before, ("at",), r2)
        case _:
            return before


def _step_2a(word: str, rv: int) -> str:
    ending = _STEP_2A.longest(word[rv:])
    if ending and word[: -len(ending)].endswith("u"):
        return word[: -len(ending)]
    return word


def _step_2b(word: str, rv: int) -> str:
    ending = _STEP_2B.longest(word[rv:])
    if not ending:
        return word
    before = word[: -len(ending)]
    if ending in _STEP_2B_GU and before.endswith("gu"):
        return before[:-1]
    return before


def _step_3(word: str, rv: int) -> str:
    ending = _STEP_3.longest(word[rv:])
    if not ending:
        return word
    before = word[: -len(ending)]
    if ending in ("e", "é") and before.endswith("gu") and len(before) - 1 >= rv:
        return before[:-1]
    return before
