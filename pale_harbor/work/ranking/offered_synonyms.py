"""Words of a record as synonyms of words that it lacks: the entries of a word list that would bring it in."""

from collections.abc import Iterator, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.text import Chain
from pale_harbor.core.text.kinds import StageKind
from pale_harbor.core.text.notation import Argument, ListName, StageCall, format_notation, parse
from pale_harbor.core.text.stages import STAGES
from pale_harbor.core.text.word_lists import SynonymRule, Synonyms, WordList
from pale_harbor.formats.word_lists import csv_of
from pale_harbor.store.records.records import Record
from pale_harbor.work.chains.newest_lists import NewList, newest_of_kind
from pale_harbor.work.chains.saved_parts import name_and_version
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.searching import WhyRecord
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# What the list is called where the reading reads none yet.
LIST: Final = "synonyms"
# Of a query's missing words, and of the words of the record that each is tried with.
MOST_WORDS: Final = 2
MOST_MEANINGS: Final = 3
# In so many readings that have words of it: what weighs most may be no more than an address.
MOST_READINGS: Final = 2
_SHORTEST: Final = 3
# What leaves words that people would write into a list; whatever else comes after the synonyms.
_FOLDS: Final = frozenset(("lower", "casefold", "accents", "possessive", "latin"))


@dataclass(frozen=True, slots=True, kw_only=True)
class SynonymOffered:
    """A synonym to try. document: the changed ranker, which names `new_list`; lists: what it holds, by that name."""

    words: str
    document: dict[str, Any]
    new_list: NewList
    lists: Mapping[str, WordList]


def offered_synonyms(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    chosen: ChosenRanker,
    found: WhyRecord,
    record: Record,
    missing: Sequence[str],
) -> Iterator[SynonymOffered]:
    """The record's most telling words as synonyms of words that it lacks, in the two heaviest readings with any."""
    wanted = [word for word in missing if is_word(word)][:MOST_WORDS]
    left = MOST_READINGS
    for number in readings_of_words(chosen, found, record) if wanted else []:
        entries = entries_in(bench, opened, choice, chosen, number)
        meanings = _telling(found, number, entries.before, texts_of(record.field_values[entries.field]))
        for word in wanted:
            # What becomes of a word of the query, before synonyms are looked up; of several nothing is offered.
            terms = entries.before.terms(word)
            for meaning in meanings[:MOST_MEANINGS] if len(terms) == 1 else []:
                yield entries.with_one_more(chosen, number, terms[0], meaning)
        left -= bool(meanings)
        if left == 0:
            return


@dataclass(frozen=True, slots=True)
class Entries:
    """Where a reading looks synonyms up, or would: `before`, what is done to a word until then, and the whole chain of
    queries as notation; the list that it reads then, with the entries of its newest version."""

    field: str
    before: Chain
    notation: str
    name: str
    version: int
    rules: tuple[SynonymRule, ...]

    def with_one_more(self, chosen: ChosenRanker, number: int, word: str, meaning: str) -> SynonymOffered:
        entry = SynonymRule((word,), (meaning,))
        columns, row = csv_of(Synonyms((entry,))).splitlines()
        document = deepcopy(chosen.document.whole)
        document["readings"][number]["query_chain"] = self.notation
        return SynonymOffered(
            words=f"“{word}” and “{meaning}” in {self.field}, by @{self.name}",
            document=document,
            new_list=NewList(self.name, self.version, columns, row),
            lists={f"{self.name}:{self.version}": Synonyms((*self.rules, entry))},
        )


def entries_in(
    bench: Workbench, opened: OpenCollection, choice: RankerChoice, chosen: ChosenRanker, number: int
) -> Entries:
    """Where one reading looks synonyms up, and the list that it reads then."""
    reading = chosen.ranker.readings[number]
    assert isinstance(reading.query_chain, Chain)
    calls = tuple(parse(reading.query_chain.notation))
    at = next((place for place, call in enumerate(calls) if call.name == "synonyms"), None)
    name, version, rules = _list_read(bench, opened, None if at is None else calls[at])
    if at is None:
        at = after_folds(calls)
        changed = (*calls[:at], *parse(f"synonyms(@{name}:{version})"), *calls[at:])
    else:
        changed = (*calls[:at], reads_list(calls[at], f"{name}:{version}"), *calls[at + 1 :])
    before = bench.chain(opened.collection, format_notation(calls[:at]), read_by=choice)
    return Entries(reading.field, before, format_notation(changed), name, version, rules)


def readings_of_words(chosen: ChosenRanker, found: WhyRecord, record: Record) -> list[int]:
    """The readings of whole words whose field the record fills, those that weigh most first."""
    fit = [
        number
        for number, reading in enumerate(chosen.ranker.readings)
        if number in found.asked.plan.numbers
        and reading.share == 0
        and isinstance(reading.chain, Chain)
        and isinstance(reading.query_chain, Chain)
        and any(texts_of(record.field_values.get(reading.field)))
    ]
    return sorted(fit, key=lambda number: -chosen.ranker.readings[number].weight)


def after_folds(calls: Sequence[StageCall]) -> int:
    """Where synonyms go: before the first stage that makes something else of words."""
    kept = _FOLDS | STAGES[StageKind.TEXT].keys() | STAGES[StageKind.TOKENIZER].keys()
    return next((place for place, call in enumerate(calls) if call.name not in kept), len(calls))


def _list_read(
    bench: Workbench, opened: OpenCollection, call: StageCall | None
) -> tuple[str, int, tuple[SynonymRule, ...]]:
    """The list that an entry is added to: its name, what its next version will be, and the rules of its newest."""
    named = None if call is None else next(one.value for one in call.arguments if isinstance(one.value, ListName))
    name = LIST if named is None else name_and_version(named.name)[0]
    name, version, known = newest_of_kind(bench.pool, opened.collection.id, name, Synonyms)
    return name, version, () if known is None else known.rules


def reads_list(call: StageCall, name: str) -> StageCall:
    """The stage with another version of its list."""
    arguments = [
        Argument(one.name, ListName(name) if isinstance(one.value, ListName) else one.value, one.place)
        for one in call.arguments
    ]
    return StageCall(call.name, tuple(arguments), call.place)


def _telling(found: WhyRecord, number: int, before: Chain, texts: Sequence[str]) -> list[str]:
    """The words of a record's texts that tell most of it: those that few other records have, then those that none has,
    each kind as it stands there."""
    seen: dict[str, int] = {}
    for text in texts:
        for token in before.run(text):
            if token.text not in seen and is_word(token.text):
                seen[token.text] = holding_of_word(found, number, token.text)
    return sorted((word for word, holding in seen.items() if holding), key=lambda word: (seen[word] == 1, seen[word]))


def is_word(text: str) -> bool:
    """Whether it is one that people would write into a list."""
    return len(text) >= _SHORTEST and text.isalpha()


def holding_of_word(found: WhyRecord, number: int, word: str) -> int:
    """How many records hold what the reading makes of a word, in the field."""
    at = found.asked.plan.numbers.index(number)
    chain = found.asked.plan.readings[at].query_chain
    assert isinstance(chain, Chain)
    terms = chain.terms(word)
    return sum(
        min(len(one.record_ids) if (one := slab.readings[at].index.postings(term)) else 0 for term in terms)
        for slab in found.asked.prepared
        if terms
    )
