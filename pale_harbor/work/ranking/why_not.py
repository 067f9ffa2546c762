"""Why a record is not in a list: what it lacks, what shut it out, and which knob would bring it in.

A suggestion is tried before it is made: the changed ranker is asked the same question, and the record's rank
in its list stands beside the suggestion.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any, Final

from pale_harbor.core.blend import SpaceUse
from pale_harbor.core.ranking import Ranker
from pale_harbor.core.ranking.rules import Hide
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.records.records import Record, record_with_key
from pale_harbor.work.chains.newest_lists import NewList
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.changes import WordMissing, changes_to_try, missing_words
from pale_harbor.work.ranking.offered_synonyms import SynonymOffered, offered_synonyms
from pale_harbor.work.ranking.searching import WhyRecord, why_record
from pale_harbor.work.workbench import RankerChoice, Workbench

# Changes that need an index of their own are tried in collections of up to so many records.
MOST_INDEXED: Final = 20_000
MOST_TRIED: Final = 28
_DEEP: Final = 100


@dataclass(frozen=True, slots=True)
class Suggestion:
    """A change of the ranker that was tried and brings the record in. rank: where it would be; new_list: a version of
    a word list that it reads and that is to be kept first."""

    words: str
    document: RankerDocument
    rank: int
    new_list: NewList | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyNot:
    """Everything that keeps a record out of a list, or down in it.

    shut_out: in plain sentences; missing: words that it lacks in every reading. suggestions: knobs that bring it in;
    synonyms: entries of a word list that do, if the two words mean the same. tried: how many knobs were; untried: how
    many others need an index of their own, which takes long in a collection of this size.
    """

    why: WhyRecord
    record: Record
    shut_out: list[str]
    missing: list[WordMissing]
    suggestions: list[Suggestion]
    synonyms: list[Suggestion]
    tried: int
    untried: int


def why_not(bench: Workbench, opened: OpenCollection, choice: RankerChoice, question: Question, key: str) -> WhyNot:
    """Why a record is not in the list, or not higher. Raises NotFound where there is no such record."""
    chosen = bench.choose(opened.collection, choice)
    found = why_record(opened, chosen.ranker, question, key)
    with bench.pool.connection() as connection:
        record = record_with_key(connection, opened.collection, key)
    missing = missing_words(chosen.ranker, found, record)
    shut_out = shut_out_by(chosen.ranker, found)
    suggestions: list[Suggestion] = []
    synonyms: list[Suggestion] = []
    tried = untried = 0
    if found.rank is None or found.rank > _DEEP:
        changes = changes_to_try(opened, chosen, found, record, missing)
        for words, document, needs_index in islice(changes, MOST_TRIED):
            if needs_index and opened.record_count > MOST_INDEXED:
                untried += 1
                continue
            tried += 1
            suggestion = _try(bench, opened, choice, question, key, words, document)
            if suggestion is not None and not _adds_nothing(suggestion, suggestions):
                suggestions.append(suggestion)
        # What is only misspelt is no synonym.
        lacking = [word.word for word in missing if not word.near]
        for offered in offered_synonyms(bench, opened, choice, chosen, found, record, lacking):
            suggestion = _try_synonym(bench, opened, choice, question, key, offered)
            if suggestion is not None:
                synonyms.append(suggestion)
        suggestions.sort(key=lambda one: one.rank)
        synonyms.sort(key=lambda one: one.rank)
    return WhyNot(
        why=found,
        record=record,
        shut_out=shut_out,
        missing=missing,
        suggestions=suggestions,
        synonyms=synonyms,
        tried=tried,
        untried=untried,
    )


def _try(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    question: Question,
    key: str,
    words: str,
    document: dict[str, Any],
) -> Suggestion | None:
    """The suggestion with the rank that it gives; None where it does not bring the record in."""
    try:
        changed = ranker_document(document)
        ranker = bench.choose(opened.collection, RankerChoice(choice.name, choice.version, changed)).ranker
        rank = why_record(opened, ranker, question, key).rank
    except (BadInput, NotFound):
        return None
    return None if rank is None else Suggestion(words, changed, rank)


def _try_synonym(
    bench: Workbench,
    opened: OpenCollection,
    choice: RankerChoice,
    question: Question,
    key: str,
    offered: SynonymOffered,
) -> Suggestion | None:
    try:
        changed = ranker_document(offered.document)
        tried = RankerChoice(choice.name, choice.version, changed)
        rank = why_record(opened, bench.ranker_with_lists(opened.collection, tried, offered.lists), question, key).rank
    except (BadInput, NotFound):
        # A chain that has as many stages as it may, say.
        return None
    return None if rank is None else Suggestion(offered.words, changed, rank, offered.new_list)


def _adds_nothing(suggestion: Suggestion, before: Sequence[Suggestion]) -> bool:
    """Whether a gentler change of spelling slack ranks the record as high."""
    return suggestion.document.whole["spelling"] is not None and any(
        one.rank <= suggestion.rank
        for one in before
        if one.document.whole["spelling"] is not None
        and one.document.whole["readings"] == suggestion.document.whole["readings"]
    )


def shut_out_by(ranker: Ranker, found: WhyRecord) -> list[str]:
    """What keeps a record out of a list, in plain sentences; empty where it is in it."""
    said: list[str] = []
    if found.hidden:
        said += [
            f"Rule {number + 1} hides it" + (f": {found.rules[number].reason}" if found.rules[number].reason else ".")
            for number in found.applied
            if isinstance(found.rules[number].do, Hide)
        ]
    said += [f"It does not pass the filter: {one}." for one in found.failed_filters]
    words = [word for word in found.why.words if word.counted]
    if not found.why.matched and words:
        held = [word.word for word in words if word.held]
        if held:
            said.append(
                f"It holds {len(held)} of {len(words)} words of the query ({', '.join(held)}), and that is not enough."
            )
        else:
            said.append("It holds no word of the query in any reading.")
    if not words and not found.asked.question.filters:
        said.append("No word of the query is left to look for.")
    return said + _not_near(found)


def _not_among(space: str, use: SpaceUse, value: float) -> str:
    said = f'The space "{space}" gives its {use.fetch} nearest records; this one, {value:.3f} alike, is not among them'
    if use.near_enough is None:
        return f"{said}."
    return f"{said}, or lies in a group of vectors that was not looked through: the space is asked near enough."


def _not_near(found: WhyRecord) -> list[str]:
    """The spaces whose lists do not hold the record."""
    meaning, row = found.asked.meaning, found.blended
    if meaning is None or row is None or found.rank is not None:
        return []
    alike = zip(meaning.spaces, row.ranks[1:], row.list_scores[1:], row.passages, strict=True)
    return [
        _not_among(asked.space.name, asked.use, value)
        if passage >= 0
        else f'The record has no vector in the space "{asked.space.name}".'
        for asked, rank, value, passage in alike
        if asked.vector is not None and rank == 0
    ]
