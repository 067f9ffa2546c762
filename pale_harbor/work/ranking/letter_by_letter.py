"""A query played letter by letter: what each letter that is typed does to the list."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

from pale_harbor.core.measures.letters import as_typed
from pale_harbor.core.ranking import Ranker
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import answer, ask
from pale_harbor.work.running.wanted import check_wanted

# Nobody watches more; of a longer query the first letters are played.
MOST_LETTERS: Final = 120
# So far down a record is looked for.
DEEP: Final = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class LetterPlayed:
    """What stands after a letter. typed: all of the query so far; records: how many match; keys: the first ones.

    rank: of the wanted record, None where it is not among the first hundred.
    """

    typed: str
    records: int
    keys: list[str]
    rank: int | None


@dataclass(frozen=True, slots=True)
class LettersPlayed:
    """A query letter by letter. is_cut: whether it has more letters than are played."""

    letters: list[LetterPlayed]
    is_cut: bool


def play(opened: OpenCollection, ranker: Ranker, question: Question, wanted: str | None, first: int) -> LettersPlayed:
    """The question typed letter by letter. wanted: the key of the record that is looked for; first: rows of each list.

    Raises Unavailable where a space could not be asked.
    """
    typed = as_typed(question.text)
    letters = [
        LetterPlayed(
            typed=text,
            records=records,
            keys=keys[:first],
            rank=keys.index(wanted) + 1 if wanted in keys else None,
        )
        for text, records, keys in lists_by_letter(opened, ranker, question, typed[:MOST_LETTERS], max(first, DEEP))
    ]
    return LettersPlayed(letters, len(typed) > MOST_LETTERS)


def lists_by_letter(
    opened: OpenCollection, ranker: Ranker, question: Question, typed: list[str], depth: int
) -> Iterator[tuple[str, int, list[str]]]:
    """After each letter what is typed, how many records match, and the keys of the first ones."""
    for text in typed:
        check_wanted()
        if not text.strip():
            yield text, 0, []
            continue
        found = answer(opened, ask(opened, ranker, replace(question, text=text, is_typed=True)), depth)
        yield text, found.records, opened.keys_of(found.rows)
