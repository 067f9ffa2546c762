"""Words that queries had better do without: those that the good records which several queries miss all lack.

A word counts for as many queries as miss a good record that lacks it though it has another of their words. It is tried
in a list of words that the chains of queries drop; records keep it.
"""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any, Final

from pale_harbor.core.text import Chain
from pale_harbor.core.text.notation import ListName, StageCall, format_notation, parse
from pale_harbor.core.text.word_lists import ListKind, WordList, WordSet
from pale_harbor.formats.word_lists import COLUMNS
from pale_harbor.work.chains.newest_lists import NewList, newest_of_kind
from pale_harbor.work.chains.saved_parts import name_and_version
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.offered_synonyms import after_folds, reads_list
from pale_harbor.work.tuning.ailing import AilingQuery
from pale_harbor.work.workbench import ChosenRanker, RankerChoice, Workbench

LIST: Final = "left-out"
# A word that a single query does without is that query's affair.
FEWEST_QUERIES: Final = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class StopWordOffered:
    """A word to leave out of queries. document: the changed ranker, which names `new_list`; lists: what it holds, by
    that name; queries: how many may be helped."""

    words: str
    document: dict[str, Any]
    new_list: NewList
    lists: dict[str, WordList]
    queries: int


def found_stop_words(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    chosen: ChosenRanker,
    ailing: Sequence[AilingQuery],
    most: int,
) -> Iterator[StopWordOffered]:
    """The words that may help the most queries, at most so many."""
    queries: dict[str, set[str]] = defaultdict(set)
    for one in ailing:
        for record in one.missed:
            words = [word for word in record.why.why.words if word.counted]
            if any(word.held for word in words):
                for word in words:
                    if not word.held and word.word.isalpha():
                        queries[word.word.lower()].add(one.query.query_id)
    ranked = sorted((-len(own), word) for word, own in queries.items() if len(own) >= FEWEST_QUERIES)
    name, version, kept = newest_of_kind(bench.pool, opened.collection.id, LIST, WordSet)
    before = frozenset[str]() if kept is None else kept.words
    left = most
    for count, word in ranked:
        if left == 0:
            return
        document = _without_word(bench, opened, choice, chosen, word, f"{name}:{version}")
        if document is None or word in before:
            continue
        left -= 1
        yield StopWordOffered(
            words=f"“{word}” left out of queries, by @{name}",
            document=document,
            new_list=NewList(name, version, ",".join(COLUMNS[ListKind.WORDS]), word),
            lists={f"{name}:{version}": WordSet(before | {word})},
            queries=-count,
        )


def _without_word(
    bench: Workbench, opened: OpenCollection, choice: RankerChoice, chosen: ChosenRanker, word: str, list_name: str
) -> dict[str, Any] | None:
    """The document whose readings drop the list's words from queries; None where no reading has the word as it is."""
    document = deepcopy(chosen.document.whole)
    reads = False
    for number, reading in enumerate(chosen.ranker.readings):
        if not reading.weight or not isinstance(reading.query_chain, Chain):
            continue
        calls = tuple(parse(reading.query_chain.notation))
        at = next((place for place, call in enumerate(calls) if _reads(call, list_name)), None)
        if at is None:
            at = after_folds(calls)
            changed = (*calls[:at], *parse(f"stopwords(@{list_name})"), *calls[at:])
        else:
            changed = (*calls[:at], reads_list(calls[at], list_name), *calls[at + 1 :])
        folded = bench.chain(opened.collection, format_notation(calls[:at]), read_by=choice)
        if folded.terms(word) == [word]:
            document["readings"][number]["query_chain"] = format_notation(changed)
            reads = True
    return document if reads else None


def _reads(call: StageCall, list_name: str) -> bool:
    """Whether a stage drops the words of some version of the list."""
    values: list[Any] = [one.value for one in call.arguments]
    named = name_and_version(list_name)[0]
    return call.name == "stopwords" and any(
        isinstance(one, ListName) and name_and_version(one.name)[0] == named for one in values
    )
