"""The Portuguese stemmer. Source: "Portuguese stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of, romance_rv_of, without_one_of

_VOWELS: Final = frozenset("aeiouáéíóúâêô")
_STEP_1: Final = by_kind({
    "cut": "eza ezas ico ica icos icas ismo ismos ável ível ista istas oso osa osos osas amento amentos imento imentos adora ador aça~o adoras adores aço~es ante antes ância".split(),
    "log": ["logia", "logias"],
    "u": ["uça~o", "uço~es"],
    "ente": ["ência", "ências"],
    "amente": ["amente"],
    "mente": ["mente"],
    "idade": ["idade", "idades"],
    "iva": "iva ivo ivas ivos".split(),
    "ira": ["ira", "iras"],
})  # fmt: skip
_STEP_2: Final = endings(
    "ada ida ia aria eria iria ará ara erá era irá ava asse esse isse aste este iste ei arei erei irei am iam ariam "
    "eriam iriam aram eram iram avam em arem erem irem assem essem issem ado ido ando endo indo ara~o era~o ira~o ar er "
    "ir as adas idas ias arias erias irias arás aras erás eras irás avas es ardes erdes irdes ares eres ires asses esses "
    "isses astes estes istes is ais eis íeis aríeis eríeis iríeis áreis areis éreis ereis íreis ireis ásseis ésseis "
    "ísseis áveis ados idos ámos amos íamos aríamos eríamos iríamos áramos éramos íramos ávamos emos aremos eremos iremos "
    "ássemos êssemos íssemos imos armos ermos irmos eu iu ou ira iras"
)
_STEP_4: Final = endings("os a i o á í ó")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = word.replace("ã", "a~").replace("õ", "o~")
    rv = romance_rv_of(word, _VOWELS)
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    after = _step_1(word, rv, r1, r2)
    if after == word:
        ending = _STEP_2.longest(word[rv:])
        after = word[: len(word) - len(ending)]
    if after != word:
        if after.endswith("ci") and len(after) - 1 >= rv:
            after = after[:-1]
    else:
        ending = _STEP_4.longest(after[rv:])
        after = after[: len(after) - len(ending)]
    return _step_5(after, rv).replace("a~", "ã").replace("o~", "õ")


def _step_1(word: str, rv: int, r1: int, r2: int) -> str:
    ending = _STEP_1.longest(word)
    if not ending:
        return word
    cut = len(word) - len(ending)
    before, kind = word[:cut], _STEP_1[ending]
    if kind == "ira":
        return before + "ir" if cut >= rv and before.endswith("e") else word
    if cut < (r1 if kind == "amente" else r2):
        return word
    match kind:
        case "log" | "u" | "ente":
            return before + kind
        case "amente":
            if before.endswith("iv") and cut - 2 >= r2:
                return without_one_of(before[:-2], ("at",), r2)
            return without_one_of(before, ("os", "ic", "ad"), r2)
        case "mente":
            return without_one_of(before, ("ante", "avel", "ível"), r2)
        case "idade":
            return without_one_of(before, ("abil", "ic", "iv"), r2)
        case "iva":
            return without_one_of(before, ("at",), r2)
        case _:
            return before


def _step_5(word: str, rv: int) -> str:
    if word.endswith("ç"):
        return word[:-1] + "c"
    if word[rv:].endswith(("e", "é", "ê")):
        word = word[:-1]
        if word.endswith(("gu", "ci")) and len(word) - 1 >= rv:
            word = word[:-1]
    return word
