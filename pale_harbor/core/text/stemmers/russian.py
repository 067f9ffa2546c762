"""The Russian stemmer. Source: "Russian stemming algorithm", published with Snowball."""

from typing import Final

from pale_harbor.core.text.stemmers.endings import Endings, by_kind, endings
from pale_harbor.core.text.stemmers.regions import r1_of

_VOWELS: Final = frozenset("аеиоуыэюя")
# Some stand after а or я only, which stays.
_GERUND: Final = by_kind(
    {"after а": "в вши вшись".split(), "anywhere": "ив ивши ившись ыв ывши ывшись".split()},
)
_ADJECTIVE: Final = endings("ее ие ые ое ими ыми ей ий ый ой ем им ым ом его ого ему ому их ых ую юю ая яя ою ею")
_PARTICIPLE: Final = by_kind({"after а": "ем нн вш ющ щ".split(), "anywhere": "ивш ывш ующ".split()})
_REFLEXIVE: Final = endings("ся сь")
_VERB: Final = by_kind(
    {
        "after а": "ла на ете йте ли й л ем н ло но ет ют ны ть ешь нно".split(),
        "anywhere": (
            "ила ыла ена ейте уйте ите или ыли ей уй ил ыл им ым ен ило ыло ено ят ует уют ит ыт ены ить ыть ишь ую ю"
        ).split(),
    }
)
_NOUN: Final = endings(
    "а ев ов ие ье е иями ями ами еи ии и ией ей ой ий й иям ям ием ем ам ом о у ах иях ях ы ь ию ью ю ия ья я"
)
_DERIVED: Final = endings("ость ост")
_SUPERLATIVE: Final = endings("ейше ейш")


def stem(word: str) -> str:
    """The stem of a word in small letters."""
    word = word.replace("ё", "е")
    rv = next((i + 1 for i, letter in enumerate(word) if letter in _VOWELS), len(word))
    r2 = r1_of(word, _VOWELS, r1_of(word, _VOWELS))
    after = _cut(word, rv, _GERUND)
    if after == word:
        word = _cut(word, rv, _REFLEXIVE)
        after = _adjectival(word, rv)
        if after == word:
            after = _cut(word, rv, _VERB)
            if after == word:
                after = _cut(word, rv, _NOUN)
    word = after
    if word[rv:].endswith("и"):
        word = word[:-1]
    ending = _DERIVED.longest(word)
    if ending and len(word) - len(ending) >= r2:
        word = word[: -len(ending)]
    return _tidy(word, rv)


def _cut(word: str, rv: int, tried: Endings) -> str:
    """Cuts the longest ending in RV."""
    ending = tried.longest(word[rv:])
    if not ending:
        return word
    before = word[: -len(ending)]
    if tried[ending] != "after а" or before[rv:].endswith(("а", "я")):
        return before
    return word


def _adjectival(word: str, rv: int) -> str:
    before = _cut(word, rv, _ADJECTIVE)
    return word if before == word else _cut(before, rv, _PARTICIPLE)


def _tidy(word: str, rv: int) -> str:
    ending = _SUPERLATIVE.longest(word[rv:])
    if ending:
        word = word[: -len(ending)]
    if word[rv:].endswith("нн"):
        return word[:-1]
    return word[:-1] if not ending and word[rv:].endswith("ь") else word
