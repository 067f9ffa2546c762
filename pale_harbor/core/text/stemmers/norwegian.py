"""The Norwegian (Bokmål) stemmer. Source: "Norwegian stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyæåø")
_S_ENDINGS: Final = frozenset("bcdfghjlmnoprtvyz")
_STEP_1: Final = endings(
    "a e ede ande ende ane ene hetene en heten ar er heter as es edes endes enes hetenes ens hetens ers ets et het ast",
    "s erte ert",
)
_STEP_3: Final = endings("leg eleg ig eig lig elig els lov elov slov hetslov")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    r1 = max(3, r1_of(word, _VOWELS))
    ending = _STEP_1.longest(word[r1:])
    if ending in ("erte", "ert"):
        word = word[: len(word) - len(ending)] + "er"
    elif ending == "s":
        if len(word) > 1 and (
            word[-2] in _S_ENDINGS or (word[-2] == "k" and len(word) > 2 and word[-3] not in _VOWELS)
        ):
            word = word[:-1]
    elif ending:
        word = word[: -len(ending)]
    if word[r1:].endswith(("dt", "vt")):
        word = word[:-1]
    ending = _STEP_3.longest(word[r1:])
    return word[: len(word) - len(ending)]
