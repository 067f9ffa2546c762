"""Synonyms that judged records suggest: words of good records that the words of the queries which miss them never meet.

A pair counts for as many queries as have a missed good record with it, and by how much more often those records hold
the word than records at large do:

    tells(word, meaning) = n · ln((n / missed) / (holding / records))

with n of the `missed` records that lack the word holding the meaning. Source of the sum: the pointwise share of the
Kullback-Leibler divergence, S. Kullback and R. Leibler, "On information and sufficiency", 1951.
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from math import log
from typing import Final

from pale_harbor.store.records.records import Record
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.changes import missing_words
from pale_harbor.work.ranking.offered_synonyms import (
    Entries,
    SynonymOffered,
    entries_in,
    holding_of_word,
    is_word,
    readings_of_words,
)
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.tuning.ailing import AilingQuery, MissedWhy
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

# A word that more than this share of all records holds means nothing in particular.
MOST_COMMON: Final = 0.1
# In so many records a word is rare, however few there are in all.
FEW: Final = 2
# Of each word that is missed so many meanings are tried.
MOST_MEANINGS: Final = 3


@dataclass(frozen=True, slots=True)
class FoundSynonym:
    """A pair to try. queries: ids of those that it might save; records: missed ones that hold the meaning."""

    offered: SynonymOffered
    queries: frozenset[str]
    records: int


@dataclass(slots=True)
class _Pair:
    queries: set[str] = field(default_factory=set[str])
    records: set[str] = field(default_factory=set[str])
    holding: int = 0


def tells(holding_both: int, missed: int, holding: int, records: int) -> float:
    """How much a word of missed records tells of the word that they lack; 0 and less where nothing.

    holding_both: of the `missed` records so many hold it; holding: of all `records`.

    >>> tells(2, 2, 10, 1000) > tells(2, 4, 10, 1000) > 0
    True
    """
    return holding_both * log((holding_both / missed) / (holding / records))


def found_synonyms(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    chosen: ChosenRanker,
    ailing: Sequence[AilingQuery],
    records: dict[str, Record],
    most: int,
) -> list[FoundSynonym]:
    """The pairs that may save the most queries, at most so many. records: the missed ones by key."""
    entries: dict[int, Entries] = {}
    pairs: dict[tuple[int, str, str], _Pair] = defaultdict(_Pair)
    missed: dict[tuple[int, str], set[str]] = defaultdict(set)
    for one in ailing:
        for record in one.missed:
            kept = records.get(record.key)
            words = [] if kept is None else _lacked(chosen, record, kept)
            if kept is None or not words:
                continue
            for number in readings_of_words(chosen, record.why, kept):
                if number not in entries:
                    entries[number] = entries_in(bench, opened, choice, chosen, number)
                _note(pairs, missed, one, record, kept, words, entries[number], number, opened.record_count)
    ranked: list[tuple[int, float, tuple[int, str, str]]] = []
    for key, pair in pairs.items():
        in_all = len(missed[key[0], key[1]])
        ranked.append((len(pair.queries), tells(len(pair.records), in_all, pair.holding, opened.record_count), key))
    ranked.sort(key=lambda one: (-one[0], -one[1], one[2]))
    found: list[FoundSynonym] = []
    meanings: dict[str, set[str]] = defaultdict(set)
    for _, weight, (number, word, meaning) in ranked:
        pair = pairs[number, word, meaning]
        # One record of several that lack the word tells nothing of it.
        is_alone = len(pair.records) == 1 < len(missed[number, word])
        if weight <= 0 or is_alone or len(meanings[word]) == MOST_MEANINGS or meaning in meanings[word]:
            continue
        meanings[word].add(meaning)
        offered = entries[number].with_one_more(chosen, number, word, meaning)
        found.append(FoundSynonym(offered, frozenset(pair.queries), len(pair.records)))
        if len(found) == most:
            break
    return found


def _lacked(chosen: ChosenRanker, record: MissedWhy, kept: Record) -> list[str]:
    """The words that a missed record lacks. What it only spells otherwise is no synonym."""
    counted = {word for word in record.lacked if is_word(word)}
    if not counted:
        return []
    missing = missing_words(chosen.ranker, record.why, kept)
    return [one.word for one in missing if one.word in counted and not one.near]


def _note(
    pairs: dict[tuple[int, str, str], _Pair],
    missed: dict[tuple[int, str], set[str]],
    query: AilingQuery,
    record: MissedWhy,
    kept: Record,
    lacked: Sequence[str],
    entries: Entries,
    number: int,
    records: int,
) -> None:
    """Notes the words of a missed record beside each word that it lacks."""
    read = [entries.before.terms(word) for word in lacked]
    words = {terms[0] for terms in read if len(terms) == 1}
    if not words:
        return
    asked = set(entries.before.terms(query.query.query))
    meanings: dict[str, int] = {}
    for text in texts_of(kept.field_values.get(entries.field)):
        for token in entries.before.run(text):
            if token.text not in meanings and token.text not in asked and is_word(token.text):
                meanings[token.text] = holding_of_word(record.why, number, token.text)
    for word in words:
        missed[number, word].add(record.key)
        for meaning, holding in meanings.items():
            if 0 < holding <= max(FEW, MOST_COMMON * records):
                pair = pairs[number, word, meaning]
                pair.queries.add(query.query.query_id)
                pair.records.add(record.key)
                pair.holding = holding
