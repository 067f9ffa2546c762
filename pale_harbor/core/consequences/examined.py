"""What the chain doctor examines, and what it says."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

from pale_harbor.core.consequences.figures import Gathered
from pale_harbor.core.text import Chain
from pale_harbor.core.text.binding import BoundStage
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Argument, StageCall, Value, format_notation
from pale_harbor.core.text.parameters import parameters_of
from pale_harbor.core.text.place import Place
from pale_harbor.core.text.stages.as_is import AsIs
from pale_harbor.core.text.stages.decompound import Decompound
from pale_harbor.core.text.stages.grams import Grams, TextGrams
from pale_harbor.core.text.stages.lemmas import Lemmas
from pale_harbor.core.text.stages.prefixes import Prefixes, TextPrefixes
from pale_harbor.core.text.stages.stopwords import StopWords
from pale_harbor.core.text.stages.synonyms import SynonymStage

_WORDS_TRIED: Final = 3_000

# A change of a chain: gives its new notation.
Change = Callable[[Chain], str]
# Stages that look words up in lists.
READING_LISTS: Final = (StopWords, AsIs, Lemmas, SynonymStage, Decompound)
AnyGrams = Grams | Prefixes | TextGrams | TextPrefixes
GRAM_STAGES: Final = (Grams, Prefixes, TextGrams, TextPrefixes)


@dataclass(frozen=True, slots=True)
class AskedQuery:
    """A query: the open one, or one of a judged set. query_id: None for the open one."""

    query_id: str | None
    query: str


@dataclass(frozen=True, slots=True)
class Mend:
    """What one key does about it: the chains as they would be; None where one stays as it is."""

    label: str
    record_chain: str | None = None
    query_chain: str | None = None
    # What it would do, in words: no mend is offered untried.
    would: str = ""


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that is likely wrong: a plain sentence, and what shows it."""

    name: str
    sentence: str
    evidence: tuple[str, ...]
    mend: Mend | None = None


@dataclass(frozen=True)
class Examined:
    """A pair of chains, the queries asked through them, and what the record chain does to the collection."""

    record_chain: Chain
    query_chain: Chain
    asked: tuple[AskedQuery, ...]
    gathered: Gathered
    texts: Sequence[str] = ()

    @property
    def chains(self) -> tuple[Chain, ...]:
        """The record chain, and the query chain where it is another one."""
        return (self.record_chain,) if self.same else (self.record_chain, self.query_chain)

    @cached_property
    def words(self) -> list[str]:
        """The collection's words, as they were cut, commonest first; the first 3,000."""
        counts = self.gathered.surfaces
        return sorted(counts, key=lambda word: (-counts[word], word))[:_WORDS_TRIED]

    @property
    def same(self) -> bool:
        """Whether one chain reads both."""
        return self.record_chain == self.query_chain

    @cached_property
    def query_terms(self) -> list[tuple[AskedQuery, list[str]]]:
        """Each query that is asked, with the terms that the query chain makes of it."""
        return [(asked, self.query_chain.terms(asked.query)) for asked in self.asked]

    def mend(self, label: str, change: Change) -> Mend:
        """The same change on both sides, where both have what it changes."""
        record, query = change(self.record_chain), change(self.query_chain)
        return Mend(
            label,
            record if record != self.record_chain.notation else None,
            None if self.same or query == self.query_chain.notation else query,
        )


@dataclass(frozen=True, slots=True)
class Without:
    """Takes out every stage that says the same as one."""

    call: StageCall

    def __call__(self, chain: Chain) -> str:
        return format_notation(tuple(call for call in chain.calls if call != self.call))


@dataclass(frozen=True, slots=True)
class WithoutNumber:
    """Takes out the stage with a number, and no other that says the same."""

    number: int

    def __call__(self, chain: Chain) -> str:
        return format_notation(tuple(call for number, call in enumerate(chain.calls) if number != self.number))


@dataclass(frozen=True, slots=True)
class Put:
    """Puts a stage into a chain that has none like it, before or after others of its stages.

    before: kinds of stage before the first of which it goes, else at the end; None: directly after the tokenizer.
    """

    call: StageCall
    before: tuple[type, ...] | None = None

    def __call__(self, chain: Chain) -> str:
        if any(call.name == self.call.name for call in chain.calls):
            return chain.notation
        calls = list(chain.calls)
        if self.before is None:
            at = len(chain.bound(StageKind.TEXT)) + 1
        else:
            at = next((i for i, bound in enumerate(chain.stages) if isinstance(bound.stage, self.before)), len(calls))
        return format_notation((*calls[:at], self.call, *calls[at:]))


@dataclass(frozen=True, slots=True)
class Instead:
    """Puts a stage in the place of another."""

    call: StageCall
    other: StageCall

    def __call__(self, chain: Chain) -> str:
        return format_notation(tuple(self.other if call == self.call else call for call in chain.calls))


@dataclass(frozen=True, slots=True)
class After:
    """Moves a stage to behind another, where the chain has both."""

    moved: StageCall
    other: StageCall

    def __call__(self, chain: Chain) -> str:
        if self.other not in chain.calls or self.moved not in chain.calls:
            return chain.notation
        rest = [call for call in chain.calls if call != self.moved]
        at = rest.index(self.other) + 1
        return format_notation((*rest[:at], self.moved, *rest[at:]))


@dataclass(frozen=True, slots=True)
class Before:
    """Moves a stage to before another, or puts it there where the chain has none."""

    moved: StageCall
    other: StageCall

    def __call__(self, chain: Chain) -> str:
        if self.other not in chain.calls:
            return chain.notation
        rest = [call for call in chain.calls if call != self.moved]
        at = rest.index(self.other)
        return format_notation((*rest[:at], self.moved, *rest[at:]))


def with_argument(bound: BoundStage, name: str, value: Value) -> StageCall:
    """A call with one of its arguments set anew, wherever it stands."""
    call = bound.call
    names = list(parameters_of(type(bound.stage)))
    place = names.index(name)
    arguments = list(call.arguments)
    for number, argument in enumerate(arguments):
        given = argument.name or names[number]
        if given == name:
            arguments[number] = replace(argument, value=value)
            return replace(call, arguments=tuple(arguments))
    by_place = len(arguments) == place and all(argument.name is None for argument in arguments)
    arguments.append(Argument(None if by_place else name, value, call.place))
    return replace(call, arguments=tuple(arguments))


def stage_call(name: str, *arguments: Value) -> StageCall:
    """A call written for a mend."""
    here = Place(0, 1, 1)
    return StageCall(name, tuple(Argument(None, value, here) for value in arguments), here)


def cut_words(chain: Chain, text: str) -> list[str]:
    """What a chain's tokenizer cuts of a text, before any token stage."""
    return [token.text for token in chain.cut(text)]


def gram_stage(chain: Chain) -> BoundStage | None:
    """The first stage that cuts words or the text into pieces of letters."""
    found = [*chain.bound(StageKind.TOKENIZER), *token_stages(chain)]
    return next((bound for bound in found if isinstance(bound.stage, AnyGrams)), None)


def token_stages(chain: Chain) -> list[BoundStage]:
    """A chain's token stages, in order."""
    return chain.bound(StageKind.TOKEN)


def examples_in_words(examples: Sequence[str], most: int = 6) -> str:
    """Examples in a sentence, the rest counted."""
    shown = ", ".join(f"“{example}”" for example in examples[:most])
    more = len(examples) - most
    return f"{shown} and {more:,} more" if more > 0 else shown


def query_in_quotes(asked: AskedQuery) -> str:
    """A query as evidence names it."""
    return f"“{asked.query}”" if asked.query_id is None else f"“{asked.query}” ({asked.query_id})"
