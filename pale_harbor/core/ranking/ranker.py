"""A ranker: the recipe from a query to a ranked list."""

from dataclasses import dataclass
from enum import Enum
from math import ceil
from typing import Final

from pale_harbor.core.blend import Blend, QueryKind, SecondStage, SpaceUse
from pale_harbor.core.fields import Filter
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.core.ranking.signals import Signal
from pale_harbor.core.text.chain_choice import ChainChoice


@dataclass(frozen=True, slots=True)
class Nearness:
    """Extra for words of the query that stand near each other in a record.

    gap: how many other words may stand between; same_order: whether they must come as in the query.
    """

    weight: float = 1.0
    gap: int = 0
    same_order: bool = True


@dataclass(frozen=True, slots=True)
class Reading:
    """One field read through a chain, and how much its matches weigh.

    chain: the record chain; query_chain: the chain for queries. k1: how long more occurrences go on
    adding; b: how much longer values are held back. share: of a word's terms, how many a record must
    hold before this reading finds the word; 0: any one. slack: whether spelling slack reaches it.
    """

    field: str
    chain: ChainChoice
    query_chain: ChainChoice
    weight: float = 1.0
    k1: float = 1.2
    b: float = 0.75
    share: float = 0.0
    slack: bool = True
    nearness: Nearness | None = None


class How(Enum):
    """How the scores of readings become one."""

    SUM = "sum"
    STRONGEST = "strongest"
    POOLED = "pooled"


@dataclass(frozen=True, slots=True)
class Combine:
    """share: with STRONGEST, how much of the other readings' scores is added; k1: of the pool, with POOLED."""

    how: How = How.SUM
    share: float = 0.0
    k1: float = 1.2


@dataclass(frozen=True, slots=True)
class Need:
    """How many words of a query a record must hold.

    steps: (from so many words on, so many of them or such a share): the last step that applies does.
    An integer counts words, a float is a share of them, rounded up; None is all of them.

    >>> Need(((1, None), (4, 0.75))).of(4), Need(((1, None), (4, 0.75))).of(2)
    (3, 2)
    """

    steps: tuple[tuple[int, int | float | None], ...] = ((1, 1),)

    def of(self, words: int) -> int:
        """How many of so many words: at least one, at most all."""
        wanted: int | float | None = 1
        for start, amount in self.steps:
            if words >= start:
                wanted = amount
        if wanted is None:
            return max(1, words)
        # A share is meant in whole percent: 70 % of ten words are seven, whatever binary makes of 0.7.
        count = ceil(round(wanted * 100) * words / 100) if isinstance(wanted, float) else wanted
        return max(1, min(words, count))


ANY: Final = Need()
PLAIN_BLEND: Final = Blend()


class When(Enum):
    """When spelling slack is given: always, or only where the exact term is rare or missing."""

    ALWAYS = "always"
    RARE = "rare"
    MISSING = "missing"


@dataclass(frozen=True, slots=True)
class Spelling:
    """Spelling slack: terms near a word of the query count as well, and less.

    edits: at most so many, or None by the length of the word: lengths[0] letters allow one edit,
    lengths[1] two. fixed_start: letters at the beginning that must agree. most: of the candidate
    terms of a word, the nearest and most frequent so many. worth: of a term one edit away, and again
    for the second. rare: with When.RARE, fewer records than this hold the exact term. similar: terms
    that share so many trigrams are candidates too, worth their similarity; None: no.
    """

    edits: int | None = None
    lengths: tuple[int, int] = (5, 8)
    fixed_start: int = 1
    most: int = 20
    worth: float = 0.5
    when: When = When.MISSING
    rare: int = 5
    similar: float | None = None

    def edits_for(self, word: str) -> int:
        """How many edits a word is allowed. Words with digits have none: another year is another year."""
        if any(letter.isdigit() for letter in word):
            return 0
        if self.edits is not None:
            return self.edits
        return sum(len(word) >= length for length in self.lengths)


@dataclass(frozen=True, slots=True)
class FieldOrder:
    """A field that settles the order of equal scores; records without a value come last."""

    field: str
    descending: bool = False


@dataclass(frozen=True, slots=True)
class Ranker:
    """The whole recipe. Equal scores go by `equals_by`, then by key.

    spelling: None where there is no slack. one_per: of the records with the same value of this field
    only the best is shown. filters: what every record has to pass. spaces: those that are asked beside
    the words, if any; blend: how their lists and the words' become one, unless a query is of one of the kinds.
    """

    readings: tuple[Reading, ...]
    equals_by: tuple[FieldOrder, ...] = ()
    combine: Combine = Combine()
    need: Need = ANY
    spelling: Spelling | None = None
    signals: tuple[Signal, ...] = ()
    rules: tuple[Rule, ...] = ()
    one_per: str | None = None
    filters: tuple[Filter, ...] = ()
    spaces: tuple[SpaceUse, ...] = ()
    blend: Blend = PLAIN_BLEND
    second_stage: SecondStage | None = None
    kinds: tuple[QueryKind, ...] = ()
