"""The Russian stemmer. Source: "Russian stemming algorithm", published with Snowball."""

from collections.abc import Sequence
from typing import Final

from pale_harbor.core.text.stemmers.regions import longest_ending, r1_of

_VOWELS: Final = frozenset("аеиоуыэюя")
# Endings of the first groups stand after а or я only, which stays.
_GERUND_1: Final = ("в", "вши", "вшись")
_GERUND_2: Final = ("ив", "ивши", "ившись", "ыв", "ывши", "ывшись")
_ADJECTIVE: Final = ("ее ие ые ое ими ыми ей ий ый ой ем им ым ом его ого ему ому их ых ую юю ая яя ою ею").split()
_PARTICIPLE_1: Final = ("ем", "нн", "вш", "ющ", "щ")
_PARTICIPLE_2: Final = ("ивш", "ывш", "ующ")
_REFLEXIVE: Final = ("ся", "сь")
_VERB_1: Final = "ла на ете йте ли й л ем н ло но ет ют ны ть ешь нно".split()
_VERB_2: Final = (
    "ила ыла ена ейте уйте ите или ыли ей уй ил ыл им ым ен ило ыло ено ят ует уют ит ыт ены ить ыть ишь ую ю"
).split()
_NOUN: Final = (
    "а ев ов ие ье е иями ями ами еи ии и ией ей ой ий й иям ям ием ем ам ом о у ах иях ях ы ь ию ью ю ия ья я"
).split()


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = word.replace("ё", "е")
    rv = next((i + 1 for i, letter in enumerate(word) if letter in _VOWELS), len(word))
    r2 = r1_of(word, _VOWELS, r1_of(word, _VOWELS))
    after = _cut(word, rv, _GERUND_1, _GERUND_2)
    if after == word:
        word = _cut(word, rv, (), _REFLEXIVE)
        after = _adjectival(word, rv)
        if after == word:
            after = _cut(word, rv, _VERB_1, _VERB_2)
            if after == word:
                after = _cut(word, rv, (), _NOUN)
    word = after
    if word[rv:].endswith("и"):
        word = word[:-1]
    ending = longest_ending(word, ("ость", "ост"))
    if ending and len(word) - len(ending) >= r2:
        word = word[: -len(ending)]
    return _tidy(word, rv)


def _cut(word: str, rv: int, after_a: Sequence[str], anywhere: Sequence[str]) -> str:
    """Cuts the longest ending in RV; one of the first group only after а or я in RV."""
    ending = longest_ending(word[rv:], [*after_a, *anywhere])
    if not ending:
        return word
    before = word[: -len(ending)]
    if ending in anywhere or before[rv:].endswith(("а", "я")):
        return before
    return word


def _adjectival(word: str, rv: int) -> str:
    before = _cut(word, rv, (), _ADJECTIVE)
    return word if before == word else _cut(before, rv, _PARTICIPLE_1, _PARTICIPLE_2)


def _tidy(word: str, rv: int) -> str:
    ending = longest_ending(word[rv:], ("ейше", "ейш"))
    if ending:
        word = word[: -len(ending)]
    if word[rv:].endswith("нн"):
        return word[:-1]
    return word[:-1] if not ending and word[rv:].endswith("ь") else word
