"""The Italian stemmer. Source: "Italian stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of, romance_rv_of, without_one_of

_VOWELS: Final = frozenset("aeiouàèìòù")
_GRAVE: Final = str.maketrans("áéíóú", "àèìòù")
_SMALL: Final = str.maketrans("IU", "iu")
_PRONOUNS: Final = endings(
    "ci gli la le li lo mi ne si ti vi sene gliela gliele glieli glielo gliene mela mele meli melo mene tela tele teli "
    "telo tene cela cele celi celo cene vela vele veli velo vene"
)
_STEP_1: Final = by_kind({
    "cut": "anza anze ico ici ica ice iche ichi ismo ismi abile abili ibile ibili ista iste isti istà istè istì oso osi osa ose mente atrice atrici ante anti".split(),
    "ic": "azione azioni atore atori".split(),
    "log": ["logia", "logie"],
    "u": "uzione uzioni usione usioni".split(),
    "ente": ["enza", "enze"],
    "rv": "amento amenti imento imenti".split(),
    "amente": ["amente"],
    "ità": ["ità"],
    "ivo": "ivo ivi iva ive".split(),
})  # fmt: skip
_STEP_2: Final = endings(
    "ammo ando ano are arono asse assero assi assimo ata ate ati ato ava avamo avano avate avi avo emmo enda ende endi "
    "endo erà erai eranno ere erebbe erebbero erei eremmo eremo ereste eresti erete erò erono essero ete eva evamo "
    "evano evate evi evo Yamo iamo immo irà irai iranno ire irebbe irebbero irei iremmo iremo ireste iresti irete irò "
    "irono isca iscano isce isci isco iscono issero ita ite iti ito iva ivamo ivano ivate ivi ivo ono uta ute uti uto "
    "ar ir"
)


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = _mark(word.translate(_GRAVE))
    rv = romance_rv_of(word, _VOWELS)
    r1 = r1_of(word, _VOWELS)
    r2 = r1_of(word, _VOWELS, r1)
    word = _without_pronoun(word, rv)
    after = _step_1(word, rv, r1, r2)
    if after == word:
        ending = _STEP_2.longest(word[rv:])
        after = word[: len(word) - len(ending)]
    return _step_3(after, rv).translate(_SMALL)


def _mark(word: str) -> str:
    """u after q, and u and i between vowels, are no vowels."""
    letters = list(word)
    for i, letter in enumerate(letters):
        if letter == "u" and i > 0 and letters[i - 1] == "q":
            letters[i] = "U"
        elif letter in "iu" and 0 < i < len(letters) - 1 and letters[i - 1] in _VOWELS and letters[i + 1] in _VOWELS:
            letters[i] = letter.upper()
    return "".join(letters)


def _without_pronoun(word: str, rv: int) -> str:
    pronoun = _PRONOUNS.longest(word)
    if not pronoun:
        return word
    before = word[: -len(pronoun)]
    if before[rv:].endswith(("ando", "endo")):
        return before
    if before[rv:].endswith(("ar", "er", "ir")):
        return before + "e"
    return word


def _step_1(word: str, rv: int, r1: int, r2: int) -> str:
    ending = _STEP_1.longest(word)
    if not ending:
        return word
    cut = len(word) - len(ending)
    before, kind = word[:cut], _STEP_1[ending]
    if cut < {"rv": rv, "amente": r1}.get(kind, r2):
        return word
    match kind:
        case "ic":
            return without_one_of(before, ("ic",), r2)
        case "log" | "u" | "ente":
            return before + kind
        case "amente":
            if before.endswith("iv") and cut - 2 >= r2:
                return without_one_of(before[:-2], ("at",), r2)
            return without_one_of(before, ("os", "ic", "abil"), r2)
        case "ità":
            return without_one_of(before, ("abil", "ic", "iv"), r2)
        case "ivo":
            shorter = without_one_of(before, ("at",), r2)
            return without_one_of(shorter, ("ic",), r2) if shorter != before else before
        case _:
            return before


def _step_3(word: str, rv: int) -> str:
    if word[rv:].endswith(tuple("aeioàèìò")):
        word = word[:-1]
        if word[rv:].endswith("i"):
            word = word[:-1]
    if word[rv:].endswith(("ch", "gh")):
        word = word[:-1]
    return word
