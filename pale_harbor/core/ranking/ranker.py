"""A ranker: the recipe from a query to a ranked list."""

from dataclasses import KW_ONLY, dataclass
from enum import Enum
from math import ceil
from typing import Annotated, Final

from pale_harbor.core.blend import Blend, QueryKind, SecondStage, SpaceUse
from pale_harbor.core.fields import Filter
from pale_harbor.core.knobs import Knob, Names, Where
from pale_harbor.core.ranking.as_typed import Typing
from pale_harbor.core.ranking.feedback import Feedback
from pale_harbor.core.ranking.rules import Rule
from pale_harbor.core.ranking.signals import Signal
from pale_harbor.core.text.chain_choice import ChainChoice
from pale_harbor.core.typing.correcting import Corrections
from pale_harbor.core.typing.recipe import Completions

FIELD_LETTERS: Final = 200
MOST_WEIGHT: Final = 1_000_000


@dataclass(frozen=True, slots=True)
class Nearness:
    """Extra for words of the query that stand near each other in a record."""

    weight: Annotated[float, Knob("weight", "how much it adds", above=0, most=1_000, step=0.1, reach=10)] = 1.0
    gap: Annotated[
        int, Knob("gap", "how many other words may stand between", least=0, most=50, unit="words", step=1, reach=10)
    ] = 0
    same_order: Annotated[bool, Knob("in the query’s order", "whether they must come as in the query")] = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One field read through a chain, and how much its matches weigh."""

    field: Annotated[str, Knob("field", "the field that is read", longest=FIELD_LETTERS, names=Names.FIELD)]
    chain: Annotated[
        ChainChoice,
        Knob(
            "chain",
            "its record chain: notation, `@name` or `@name:version` of a saved chain, or "
            "[a chain for each language](chains.md#saved-chains-and-a-chain-for-each-language)",
        ),
    ]
    query_chain: Annotated[ChainChoice, Knob("query chain", "the chain for the query", like="chain")]
    _: KW_ONLY
    weight: Annotated[
        float,
        Knob(
            "weight",
            "how much its matches weigh; 0 switches the reading off",
            least=0,
            most=MOST_WEIGHT,
            step=0.1,
            reach=10,
        ),
    ] = 1.0
    k1: Annotated[
        float, Knob("k1", "how long more occurrences of a term go on adding", least=0, most=1_000, step=0.1, reach=3)
    ] = 1.2
    b: Annotated[float, Knob("b", "how much longer values are held back", least=0, most=1, step=0.05)] = 0.75
    share: Annotated[
        float,
        Knob(
            "share of a word's terms",
            "of the terms that a word is cut into, how many a record must hold before this reading finds the word; "
            "0: any one. For grams",
            least=0,
            most=1,
            step=0.05,
        ),
    ] = 0.0
    slack: Annotated[bool, Knob("spelling slack", "whether spelling slack reaches it")] = True
    nearness: Annotated[
        Nearness | None, Knob("nearness", "extra for words of the query that stand near each other")
    ] = None
    synonyms: Annotated[
        float,
        Knob(
            "worth of synonyms",
            "what a word counts that the query chain's synonyms put beside a word of the query",
            above=0,
            most=1,
            step=0.05,
        ),
    ] = 0.6


class CombineHow(Enum):
    """How the scores of readings become one."""

    SUM = "sum"
    STRONGEST = "strongest"
    POOLED = "pooled"


@dataclass(frozen=True, slots=True)
class Combine:
    """How readings become one score."""

    how: Annotated[
        CombineHow,
        Knob(
            "readings combined",
            "how readings become one score",
            choices={"sum": "summed", "strongest": "the strongest", "pooled": "pooled"},
        ),
    ] = CombineHow.SUM
    share: Annotated[
        float,
        Knob(
            "share of the rest",
            "with `strongest`, how much of the other readings' scores is added",
            least=0,
            most=1,
            step=0.05,
            where=Where(name="how", says=("strongest",)),
        ),
    ] = 0.0
    k1: Annotated[
        float,
        Knob(
            "k1 of the pool",
            "with `pooled`, how long more occurrences of a term go on adding",
            least=0,
            most=1_000,
            step=0.1,
            reach=5,
            where=Where(name="how", says=("pooled",)),
        ),
    ] = 1.2


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


class SlackWhen(Enum):
    """When spelling slack is given: always, or only where the exact term is rare or missing."""

    ALWAYS = "always"
    RARE = "rare"
    MISSING = "missing"


@dataclass(frozen=True, slots=True, kw_only=True)
class Spelling:
    """Spelling slack: terms near a word of the query count as well, and less."""

    edits: Annotated[
        int | None,
        Knob(
            "edits",
            "how many letters may be left out, put in, exchanged or have changed places: 0, 1, 2, or by the length of "
            "the word",
            least=0,
            most=2,
            step=1,
            none="by_length",
        ),
    ] = None
    lengths: Annotated[
        tuple[int, int],
        Knob(
            "lengths",
            "from how many letters on a word is allowed one edit, and two",
            least=1,
            most=60,
            unit="letters",
            where=Where(name="edits", says=("by_length",)),
        ),
    ] = (5, 8)
    fixed_start: Annotated[
        int,
        Knob(
            "letters that must agree",
            "so many letters at the beginning must be the same",
            least=0,
            most=10,
            unit="letters",
            step=1,
            reach=4,
        ),
    ] = 1
    most: Annotated[
        int,
        Knob(
            "most terms",
            "of all candidates for a word, the nearest and most frequent so many count",
            least=1,
            most=100,
            unit="terms",
            step=1,
        ),
    ] = 20
    worth: Annotated[
        float, Knob("worth", "what a term one edit away is worth; two away, its square", above=0, most=1, step=0.05)
    ] = 0.5
    when: Annotated[
        SlackWhen,
        Knob(
            "when",
            "always, where few records hold the word, or where none does in a reading that takes slack",
            choices={"missing": "no record has it", "rare": "few records have it", "always": "always"},
        ),
    ] = SlackWhen.MISSING
    rare: Annotated[
        int,
        Knob(
            "rare below",
            "with `rare`, so many records are no longer few",
            least=1,
            most=1_000_000,
            unit="records",
            step=1,
            reach=100,
            where=Where(name="when", says=("rare",)),
        ),
    ] = 5
    similar: Annotated[
        float | None,
        Knob(
            "similar from",
            "terms that share so much of their trigrams are candidates too, worth their similarity: for names",
            least=0.1,
            most=1,
            step=0.05,
            begins=0.5,
        ),
    ] = None

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranker:
    """The whole recipe. Equal scores go by `equals_by`, then by key."""

    readings: Annotated[
        tuple[Reading, ...], Knob("reading", "the fields that are read, each through a chain", items=(1, 64))
    ]
    _: KW_ONLY
    combine: Annotated[Combine, Knob("", "[how readings become one score](#combining-readings)")] = Combine()
    need: Annotated[Need, Knob("words needed", "[how many words of a query](#words-needed) a record must hold")] = ANY
    spelling: Annotated[
        Spelling | None, Knob("spelling slack", "[what words near a word of the query count](#spelling-slack)")
    ] = None
    typing: Annotated[
        Typing | None, Knob("as typed", "[the last word is a beginning](typing.md) while it is being typed")
    ] = None
    completions: Annotated[
        Completions | None,
        Knob("completions", "[whole suggestions](typing.md#completions) for what is being typed"),
    ] = None
    corrections: Annotated[
        Corrections | None,
        Knob("did you mean", "[what a query may have meant](typing.md#did-you-mean)"),
    ] = None
    feedback: Annotated[
        Feedback | None,
        Knob("feedback", "[words of the first records](#feedback-from-the-list) that are looked for too"),
    ] = None
    signals: Annotated[
        tuple[Signal, ...],
        Knob("signal", "[numbers known about a record](#signals) before any query", items=(0, 32)),
    ] = ()
    rules: Annotated[tuple[Rule, ...], Knob("rule", "[what is done for certain queries](#rules)", items=(0, 500))] = ()
    filters: Annotated[
        tuple[Filter, ...],
        Knob("filter", "[what every record in a list has to pass](#filters-facets-sorting-pages)", items=(0, 32)),
    ] = ()
    one_per: Annotated[
        str | None,
        Knob(
            "one per",
            "a field: of the records that share a value only the best is shown",
            longest=FIELD_LETTERS,
            names=Names.FIELD,
        ),
    ] = None
    equals_by: Annotated[
        tuple[FieldOrder, ...],
        Knob("equals by", "fields that settle equal scores, `-` for the greatest first; then the key", items=(0, 16)),
    ] = ()
    spaces: Annotated[
        tuple[SpaceUse, ...],
        Knob("space", "[spaces of vectors](vectors.md) that are asked beside the words", items=(0, 8)),
    ] = ()
    blend: Annotated[Blend, Knob("blend", "[how words and meaning become one list](vectors.md#the-blend)")] = (
        PLAIN_BLEND
    )
    second_stage: Annotated[
        SecondStage | None, Knob("second stage", "the first records in a new order, word by word")
    ] = None
    kinds: Annotated[
        tuple[QueryKind, ...], Knob("kind of queries", "kinds of queries with a blend of their own", items=(0, 32))
    ] = ()
