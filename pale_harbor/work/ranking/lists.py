"""The lists behind a blend, side by side: by words, by each space, and the one made of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pale_harbor.core.ranking import Placed, Ranker
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import ask, candidates
from pale_harbor.work.ranking.meaning import check_asks_spaces


@dataclass(frozen=True, slots=True)
class ListedRow:
    """A row. ranks: of the record in every list, words, spaces, blended; 0 where it is not in it."""

    key: str
    score: float
    ranks: list[int]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListsFound:
    """names: words, the spaces', blended; lists: their first rows; field_values: by key, of all rows' records.

    kind: of queries that the blend is for.
    """

    names: list[str]
    lists: list[list[ListedRow]]
    field_values: dict[str, dict[str, Any]]
    kind: str | None
    notes: list[str]


def lists_of_question(opened: OpenCollection, ranker: Ranker, question: Question, top: int) -> ListsFound:
    """The first `top` rows of every list. Raises BadInput where the ranker asks no space."""
    check_asks_spaces(ranker)
    opened.make_ready(ranker)
    asked = ask(opened, ranker, question)
    meaning = asked.meaning
    assert meaning is not None
    found = candidates(opened, asked, asked.filters).blended
    names = ["words", *(one.space.name for one in meaning.spaces), "blended"]
    if found is None:
        # Nothing could be asked but words.
        return ListsFound(
            names=names, lists=[[] for _ in names], field_values={}, kind=meaning.kind, notes=list(asked.notes)
        )
    whole: list[Sequence[Placed]] = [found.word_rows, *found.space_rows]
    whole.append([Placed(slab, one, found.score((slab, one))) for slab, one in found.places])
    ranks = [{(row.slab, row.record_id): i for i, row in enumerate(rows, start=1)} for rows in whole]
    lists = [
        [
            ListedRow(opened.key(row), row.score, [own.get((row.slab, row.record_id), 0) for own in ranks])
            for row in rows[:top]
        ]
        for rows in whole
    ]
    keys = sorted({row.key for rows in lists for row in rows})
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    values = {key: record.field_values for key, record in records.items()}
    return ListsFound(names=names, lists=lists, field_values=values, kind=meaning.kind, notes=list(asked.notes))
