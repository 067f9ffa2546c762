"""Known-item queries made up from records: what somebody might type who remembers one record.

A record is drawn, every one as likely; then how many words are typed, one and a Poisson number more; then each word: of
the record with probability 1 − noise, of the whole sample otherwise. A word of the record is drawn from one of its
fields, each as likely, by how often it stands there and how rare it is:

    p(t | field) ∝ tf(t) · ln(records / df(t))

Some queries are typed badly: one of their words with a slip of the finger, or cut short.

Sources: L. Azzopardi, M. de Rijke and K. Balog, "Building simulated queries for known-item topics", 2007, for the steps
and for popularity and discrimination; J. Kim and W. B. Croft, "Retrieval experiments using pseudo-desktop collections",
2009, for words drawn field by field.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import log
from typing import Final

import numpy as np

from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.simulating.slips import ONE_WORD_SLIPS, slipped_word

MOST_WORDS: Final = 6
# Of a word that is cut short so much stays, but three letters at least; a slip needs a word of five.
_STAYS: Final = 0.6
_SHORTEST_CUT: Final = 3
_SHORTEST_SLIP: Final = 5


class Typed(StrEnum):
    """How a query was typed."""

    WELL = "as written"
    SLIP = "misspelled"
    SHORT = "cut short"


@dataclass(frozen=True, slots=True)
class Drawing:
    """How queries are made up. more_words: how many beside the first, on average; noise: how many words of a query are
    not of its record; slips, short: the shares of queries that are typed so."""

    more_words: float = 1.5
    noise: float = 0.1
    slips: float = 0.15
    short: float = 0.15


@dataclass(frozen=True, slots=True)
class KnownItemQuery:
    """A query, and which of the records was meant."""

    text: str
    record: int
    typed: Typed


def known_item_queries(
    records: Sequence[Mapping[str, Sequence[str]]], count: int, drawing: Drawing = Drawing(), seed: int = 0
) -> list[KnownItemQuery]:
    """So many queries; fewer where too few records hold words that tell one from another.

    records: each with the texts of its fields. The same seed gives the same queries.

    >>> records = [{"title": ["brass lamp"]}, {"title": ["iron bell"]}]
    >>> plain = Drawing(more_words=0, noise=0, slips=0, short=0)
    >>> sorted(one.text for one in known_item_queries(records, 4, plain, seed=1))
    ['bell', 'brass', 'iron', 'lamp']
    """
    chance = np.random.default_rng(seed)
    words = [_words_of(record) for record in records]
    holding = Counter(word for fields in words for word in {word for own in fields for word in own})
    telling = [number for number, fields in enumerate(words) if fields]
    everything = sorted(holding)
    common = np.array([holding[word] for word in everything], np.float64)
    found: dict[str, KnownItemQuery] = {}
    for _ in range(4 * count if telling else 0):
        number = telling[int(chance.integers(len(telling)))]
        length = min(MOST_WORDS, 1 + int(chance.poisson(drawing.more_words)))
        chosen: list[str] = []
        for _ in range(length):
            if chance.random() < drawing.noise and chosen:
                chosen.append(everything[int(chance.choice(len(everything), p=common / common.sum()))])
            else:
                word = _drawn(words[number], holding, len(records), chance)
                if word is not None and word not in chosen:
                    chosen.append(word)
        if not chosen:
            continue
        typed, chosen = _typed(chosen, drawing, chance)
        query = " ".join(chosen)
        found.setdefault(query, KnownItemQuery(query, number, typed))
        if len(found) == count:
            break
    return list(found.values())


def _words_of(record: Mapping[str, Sequence[str]]) -> list[Counter[str]]:
    """The words of each field that has any, in small letters."""
    fields = [
        Counter(text[start:end].casefold() for text in texts for start, end in word_stretches(text))
        for texts in record.values()
    ]
    return [own for own in fields if own]


def _drawn(
    fields: Sequence[Counter[str]], holding: Mapping[str, int], records: int, chance: np.random.Generator
) -> str | None:
    """A word of one of the fields; None where all of that field's words stand in every record."""
    own = fields[int(chance.integers(len(fields)))]
    words = sorted(own)
    weights = np.array([own[word] * log(records / holding[word]) for word in words])
    total = weights.sum()
    return None if total <= 0 else words[int(chance.choice(len(words), p=weights / total))]


def _typed(words: list[str], drawing: Drawing, chance: np.random.Generator) -> tuple[Typed, list[str]]:
    draw = chance.random()
    if draw < drawing.slips:
        long = [place for place, word in enumerate(words) if len(word) >= _SHORTEST_SLIP and word.isalpha()]
        if long:
            place = long[int(chance.integers(len(long)))]
            return Typed.SLIP, [*words[:place], slipped(words[place], chance), *words[place + 1 :]]
    elif draw < drawing.slips + drawing.short and len(words[-1]) > _SHORTEST_CUT and words[-1].isalpha():
        return Typed.SHORT, [*words[:-1], cut_short(words[-1])]
    return Typed.WELL, words


def cut_short(word: str) -> str:
    """The beginning of a word, as somebody types it who does not go on.

    >>> cut_short("lighthouse"), cut_short("bell")
    ('lighth', 'bel')
    """
    return word[: max(_SHORTEST_CUT, round(_STAYS * len(word)))]


def slipped(word: str, chance: np.random.Generator) -> str:
    """A word with one letter left out, put in, exchanged, or two that changed places; the first letter stays.

    Always another word.
    """
    while True:
        other = slipped_word(word, ONE_WORD_SLIPS[int(chance.integers(len(ONE_WORD_SLIPS)))], chance)
        if other != word:
            return other
