"""The Danish stemmer. Source: "Danish stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("aeiouyæåø")
_S_ENDINGS: Final = frozenset("abcdfghjklmnoprtvyzå")
_STEP_1: Final = endings(
    "hed ethed ered e erede ende erende ene erne ere en heden eren er heder erer heds es endes erendes enes ernes eres "
    "ens hedens erens ers ets erets et eret s"
)
_STEP_2: Final = endings("gd dt gt kt")
_STEP_3: Final = endings("ig lig elig els løst")


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
    if word.endswith("igst"):
        word = word[:-2]
    ending = _STEP_3.longest(word[r1:])
    if ending == "løst":
        word = word[:-1]
    elif ending:
        word = word[: -len(ending)]
        if _STEP_2.longest(word[r1:]):
            word = word[:-1]
    if len(word) - r1 >= 1 and len(word) > 1 and word[-1] == word[-2] and word[-1] not in _VOWELS:
        word = word[:-1]
    return word
