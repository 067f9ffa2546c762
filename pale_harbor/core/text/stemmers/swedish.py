"""The Swedish stemmer. Source: "Swedish stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyäåö")
_S_ENDINGS: Final = frozenset("bcdfghjklmnoprtvy")
_STEP_1: Final = endings(
    "a arna erna heterna orna ad e ade ande arne are aste en anden aren heten ern ar er heter or as arnas ernas ornas "
    "es ades andes ens arens hetens erns at andet het ast s"
)
_STEP_2: Final = endings("dd gd nn dt gt kt tt")
_STEP_3: Final = Endings({"lig": "", "ig": "", "els": "", "löst": "lös", "fullt": "full"})


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    r1 = max(3, r1_of(word, _VOWELS))
    ending = _STEP_1.longest(word[r1:])
    if ending == "s":
        if len(word) > 1 and word[-2] in _S_ENDINGS:
            word = word[:-1]
    elif ending:
        word = word[: -len(ending)]
    if _STEP_2.longest(word[r1:]):
        word = word[:-1]
    ending = _STEP_3.longest(word[r1:])
    return word[: len(word) - len(ending)] + _STEP_3[ending] if ending else word
