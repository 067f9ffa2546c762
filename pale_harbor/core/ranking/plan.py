"""A plan: what a query looks for, before any index is asked.

Each word of the query that can be counted has a bit. What a record holds is a set of bits, and whether it
matches is settled by them alone: at least so many of the words, and whatever the visitor's signs demand.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Final

from pale_harbor.core.query import (
    Both,
    Either,
    Group,
    InField,
    Node,
    Not,
    ParsedQuery,
    QueryWord,
    Quoted,
    Range,
    runs_of_words,
)
from pale_harbor.core.query.words import holds_words, literal_chain, value_chain, word_stretches
from pale_harbor.core.ranking.as_typed import Typing, TypingWhen
from pale_harbor.core.ranking.ranker import Ranker, Reading
from pale_harbor.core.text import Chain
from pale_harbor.core.text.chain_choice import ChainChoice
from pale_harbor.core.text.unstemmed import unstemmed

# Bits of a 64 bit number, its sign left alone. Further words count for the score only.
MOST_BITS: Final = 62
# Beginnings and endings of words are looked up among all terms: no visitor needs many.
MOST_OPEN_WORDS: Final = 8


@dataclass(frozen=True, slots=True)
class WordRun:
    """Words side by side, read together. words: their stretches within `text`, each with its bit.

    scored: false where records that match are left out. field: the only one looked at, None: all.
    """

    text: str
    words: tuple[tuple[int, int, int], ...]
    scored: bool
    field: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenWord:
    """The beginning or the ending of a word."""

    text: str
    begins: bool
    bit: int
    scored: bool
    field: str | None


@dataclass(frozen=True, slots=True)
class TypedWord:
    """The last word of a run, of which only the beginning may be there yet: it is looked for besides the word itself.

    if_missing: only where no record has the word.
    """

    run: WordRun
    if_missing: bool

    @property
    def field(self) -> str | None:
        """The only field looked at, None: all."""
        return self.run.field

    @property
    def stretch(self) -> tuple[int, int]:
        """Where the word stands within the run."""
        start, end, _ = self.run.words[-1]
        return start, end


@dataclass(frozen=True, slots=True)
class LiteralWords:
    """Quoted words: taken literally, in order, next to each other. whole: they are all that a value says."""

    text: str
    bit: int
    scored: bool
    field: str | None
    whole: bool = False

    @property
    def chain(self) -> Chain:
        """What records and words are read through to be compared."""
        return value_chain() if self.whole else literal_chain()


@dataclass(frozen=True, slots=True)
class ValueRange:
    """A field's value from low to high."""

    field: str
    low: str | None
    high: str | None
    bit: int


Leaf = WordRun | TypedWord | OpenWord | LiteralWords | ValueRange


@dataclass(frozen=True, slots=True)
class Holds:
    """Whether a record holds the word of this bit."""

    bit: int


@dataclass(frozen=True, slots=True)
class AtLeast:
    """Whether so many of the demands are met, as the ranker's need says for their number."""

    demands: tuple["Demand", ...]


@dataclass(frozen=True, slots=True)
class Each:
    """Whether every demand is met."""

    demands: tuple["Demand", ...]


@dataclass(frozen=True, slots=True)
class One:
    """Whether some demand is met."""

    demands: tuple["Demand", ...]


@dataclass(frozen=True, slots=True)
class No:
    """Whether the demand is not met."""

    demand: "Demand"


Demand = Holds | AtLeast | Each | One | No


@dataclass(frozen=True, slots=True, kw_only=True)
class QueryPlan:
    """What is looked for, in which readings, and what makes a record match.

    readings: those of the ranker that take part, then literal ones for quoted words, and for beginnings and endings of
    words; numbers: which of the ranker's readings the former are.
    """

    ranker: Ranker
    readings: tuple[Reading, ...]
    numbers: tuple[int, ...]
    leaves: tuple[Leaf, ...]
    demand: Demand
    notes: tuple[str, ...] = ()

    def is_literal(self, reading: int) -> bool:
        """Whether this reading is there for quoted words, or for beginnings and endings, only."""
        return reading >= len(self.numbers)

    def looks_for(self, reading: int, leaf: Leaf) -> bool:
        """Whether something is looked for in one of the readings."""
        own, here = self.readings[: len(self.numbers)], self.readings[reading]
        if isinstance(leaf, ValueRange) or leaf.field not in (None, here.field):
            return False
        is_literal = self.is_literal(reading)
        if isinstance(leaf, LiteralWords):
            return is_literal and here.chain == leaf.chain
        if here.field not in {one.field for one in own}:
            return True
        if isinstance(leaf, WordRun):
            return not is_literal
        is_read = any(one.field == here.field and one.chain == here.chain for one in own)
        return here.chain in open_chains(own, here.field) and not (is_literal and is_read)


@dataclass(frozen=True, slots=True)
class LookedFor:
    """What a query looks for, whatever the ranker."""

    leaves: tuple[Leaf, ...]
    demand: Demand
    notes: tuple[str, ...]


def looked_for(query: ParsedQuery, typing: Typing | None = None, is_typed: bool = False) -> LookedFor:
    """What a query looks for, each word that can be counted with a bit of its own.

    typing: how the last word is taken for a beginning; is_typed: whether it is being typed.
    """
    planner = _Planner(query, typing, is_typed)
    demand = planner.side_by_side(query.root, None, scored=True)
    return LookedFor(tuple(planner.leaves), demand, (*query.notes, *dict.fromkeys(planner.notes)))


def plan_of(query: ParsedQuery | LookedFor, ranker: Ranker, weights: Sequence[tuple[str, float]] = ()) -> QueryPlan:
    """The plan of a query for a ranker. weights: by field, what the weights of its readings are multiplied with."""
    wanted = query if isinstance(query, LookedFor) else looked_for(query, ranker.typing)
    weighed = _weigh(ranker, weights)
    numbers = tuple(number for number, reading in enumerate(weighed) if reading.weight > 0)
    readings = [weighed[number] for number in numbers]
    literal = _literal_readings(wanted.leaves, readings)
    return QueryPlan(
        ranker=ranker,
        readings=(*readings, *literal),
        numbers=numbers,
        leaves=wanted.leaves,
        demand=wanted.demand,
        notes=wanted.notes,
    )


def _weigh(ranker: Ranker, weights: Sequence[tuple[str, float]]) -> list[Reading]:
    readings = list(ranker.readings)
    for field, by in weights:
        readings = [replace(r, weight=r.weight * by) if r.field == field else r for r in readings]
    return readings


def open_chains(readings: Sequence[Reading], field: str) -> list[ChainChoice]:
    """What a field is read through where the beginning or the ending of a word is looked for: its own chains, but
    without what leaves a stem or a gram of a word, since a beginning of a word need not be one of its stem."""
    return list(dict.fromkeys(unstemmed(reading.chain) for reading in readings if reading.field == field))


def _literal_readings(leaves: Sequence[Leaf], readings: Sequence[Reading]) -> list[Reading]:
    """The literal readings that quoted words and open ones are looked for in, as heavy as the field's heaviest."""
    wanted: dict[tuple[str, ChainChoice], None] = {}
    own = list(dict.fromkeys(reading.field for reading in readings))
    for leaf in leaves:
        if isinstance(leaf, ValueRange):
            continue
        for field in own if leaf.field is None else [leaf.field]:
            if isinstance(leaf, LiteralWords):
                wanted[field, leaf.chain] = None
            elif field not in own:
                # A field that no reading reads can be asked for by name all the same.
                wanted[field, literal_chain()] = None
            elif isinstance(leaf, OpenWord | TypedWord):
                read = {reading.chain for reading in readings if reading.field == field}
                wanted |= dict.fromkeys((field, one) for one in open_chains(readings, field) if one not in read)
    literal: list[Reading] = []
    for field, chain in wanted:
        heaviest = max((r for r in readings if r.field == field), key=lambda reading: reading.weight, default=None)
        if heaviest is None:
            literal.append(Reading(field=field, chain=chain, query_chain=chain, slack=False))
            continue
        k1, b = heaviest.k1, heaviest.b
        literal.append(
            Reading(field=field, chain=chain, query_chain=chain, weight=heaviest.weight, k1=k1, b=b, slack=False)
        )
    return literal


class _Planner:
    """Goes over a query once, hands out bits and collects what is looked for."""

    def __init__(self, query: ParsedQuery, typing: Typing | None, is_typed: bool) -> None:
        self.text = query.text
        self.typing = None if typing is None or (typing.when is TypingWhen.TYPED and not is_typed) else typing
        self.if_missing = not is_typed and typing is not None and typing.when is TypingWhen.MISSING
        self.counts_signs = not holds_words(query.text)
        self.leaves: list[Leaf] = []
        self.notes: list[str] = []
        self.bits = 0
        self.open_words = 0

    def side_by_side(self, group: Group, field: str | None, scored: bool) -> Demand:
        counted: list[Demand] = []
        musts: list[Demand] = []
        for run in runs_of_words(group.nodes):
            first = run[0]
            if isinstance(first, QueryWord) and not (first.begins or first.ends):
                counted += self._words(first.start, run[-1].end, field, scored)
            elif isinstance(first, QueryWord | Either | Group):
                counted.append(self._demand(first, field, scored))
            else:
                musts.append(self._demand(first, field, scored))
        if not counted:
            return Each(tuple(musts))
        return Each((AtLeast(tuple(counted)), *musts)) if musts else AtLeast(tuple(counted))

    def _demand(self, node: Node, field: str | None, scored: bool) -> Demand:
        match node:
            case QueryWord(begins=False, ends=False):
                return Each(tuple(self._words(node.start, node.end, field, scored)))
            case QueryWord(text=text, begins=begins):
                self.open_words += 1
                if self.open_words > MOST_OPEN_WORDS:
                    self.notes.append(f"Only {MOST_OPEN_WORDS} beginnings or endings of words were looked for.")
                    return Each(())
                return self._leaf(lambda bit: OpenWord(text=text, begins=begins, bit=bit, scored=scored, field=field))
            case Quoted(text=text, whole=whole):
                return self._leaf(lambda bit: LiteralWords(text, bit, scored, field, whole))
            case Range(field=own, low=low, high=high):
                return self._leaf(lambda bit: ValueRange(own, low, high, bit))
            case InField(own, inner):
                return self._demand(inner, own, scored)
            case Not(inner):
                return No(self._demand(inner, field, scored=False))
            case Both(nodes):
                return Each(tuple(self._demand(one, field, scored) for one in nodes))
            case Either(nodes):
                return One(tuple(self._demand(one, field, scored) for one in nodes))
            case Group():
                return self.side_by_side(node, field, scored)

    def _leaf(self, leaf: Callable[[int], Leaf]) -> Demand:
        bit = self._bit()
        if bit is None:
            return Each(())
        self.leaves.append(leaf(bit))
        return Holds(bit)

    def _words(self, start: int, end: int, field: str | None, scored: bool) -> list[Demand]:
        text = self.text[start:end]
        words: list[tuple[int, int, int]] = []
        for first, last in word_stretches(text) if self.counts_signs or holds_words(text) else ():
            bit = self._bit()
            words.append((first, last, -1 if bit is None else bit))
        run = WordRun(text, tuple(words), scored, field)
        self.leaves.append(run)
        if self._is_being_typed(run, end):
            self.leaves.append(TypedWord(run, self.if_missing))
        return [Holds(bit) for _, _, bit in words if bit >= 0]

    def _is_being_typed(self, run: WordRun, end: int) -> bool:
        """Whether the run's last word may be a beginning: the query ends with it, and not with a sign or a blank."""
        if self.typing is None or not run.scored or end != len(self.text) or not run.words:
            return False
        start, word_end, bit = run.words[-1]
        return bit >= 0 and word_end == len(run.text) and self.typing.is_beginning(run.text[start:word_end])

    def _bit(self) -> int | None:
        if self.bits == MOST_BITS:
            self.notes.append(f"Only the first {MOST_BITS} words were counted; further ones only add to the score.")
            return None
        self.bits += 1
        return self.bits - 1
