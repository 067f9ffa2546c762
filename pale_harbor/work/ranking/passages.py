"""The best passages of a list's records: row by row, or of all together for a program that goes on with them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

from pale_harbor.core.marking import MarkedWord, best_passages, in_utf16, marked_words, merge_stretches, word_weights
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.ranking import Placed, Ranker
from pale_harbor.core.stretch import Stretch
from pale_harbor.core.typing.letters import whole_letters_of
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Asked, Question
from pale_harbor.work.ranking.asking import Answer, ask, candidates, first_rows
from pale_harbor.work.records.values import texts_of

# Passages that share so many of their words say the same.
_ALIKE: Final = 0.8


@dataclass(frozen=True, slots=True)
class PassagesWanted:
    """length: of a passage in letters; most: of one field."""

    length: int = 300
    most: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundPassage:
    """A passage of a record's field. start, end: where it stands in the field's values, laid end to end and one letter
    apart; marks: within `text`; score, share: by the words that it holds, see docs/ranking.md. space: in which it is
    the nearest to the query, where only its meaning brought its record in; nothing in it is marked then."""

    field: str
    start: int
    end: int
    text: str
    marks: list[Stretch]
    score: float
    share: float
    space: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ListPassage:
    """A passage among the best of a whole list. rank: of its record; score: its record's score against the first one's,
    times the share of the query's words that it holds, each as rare as it is."""

    key: str
    rank: int
    score: float
    passage: FoundPassage


@dataclass(frozen=True, slots=True, kw_only=True)
class ListPassages:
    """The best passages of a list, best first. letters: of all their texts; records: that were looked at; repeats: that
    were left out since another one says the same."""

    passages: list[ListPassage]
    letters: int
    records: int
    repeats: int


def passages_of(
    opened: OpenCollection,
    asked: Asked,
    answer: Answer,
    row: Placed,
    field_values: Mapping[str, Any],
    wanted: PassagesWanted,
    utf16: bool,
    fields: frozenset[str] | None = None,
) -> list[FoundPassage]:
    """The best passages of one record, of each field in which the query's words are found; best first.

    Of a record that only its meaning brought in, the passage that is nearest to the query. fields: of which they are
    told, None: of all.
    """
    by_words = _by_words(asked, row, field_values, wanted, utf16, fields) if asked.prepared else []
    return by_words or _nearest(opened, asked, answer, row, field_values, utf16, fields)


def _by_words(
    asked: Asked,
    row: Placed,
    field_values: Mapping[str, Any],
    wanted: PassagesWanted,
    utf16: bool,
    fields: frozenset[str] | None,
) -> list[FoundPassage]:
    query = asked.prepared[row.slab]
    weights = word_weights(query)
    (marked,) = marked_words(query, [row.record_id])
    found: list[FoundPassage] = []
    for field, words in marked.items():
        if fields is not None and field not in fields:
            continue
        text = "\n".join(texts_of(field_values.get(field)))
        found += [
            _found(text, field, (one.start, one.end), words, one.score, one.share, utf16)
            for one in best_passages(text, words, weights, wanted.length, wanted.most)
        ]
    return sorted(found, key=lambda one: (-one.score, one.field, one.start))


def _nearest(
    opened: OpenCollection,
    asked: Asked,
    answer: Answer,
    row: Placed,
    field_values: Mapping[str, Any],
    utf16: bool,
    fields: frozenset[str] | None,
) -> list[FoundPassage]:
    if answer.blended is None or asked.meaning is None:
        return []
    for one, number in zip(asked.meaning.spaces, answer.blended.passages((row.slab, row.record_id)), strict=True):
        if number < 0:
            continue
        stretch = one.space.covered.stretch(field_values, one.space.table(opened, row.slab).places[number].tolist())
        if stretch is not None and (fields is None or stretch[0] in fields):
            field, start, end = stretch
            text = "\n".join(texts_of(field_values.get(field)))
            found = _found(text, field, (start, end), [], 0.0, 1.0, utf16)
            return [replace(found, space=one.space.name)]
    return []


def _found(
    text: str, field: str, stretch: Stretch, words: Sequence[MarkedWord], score: float, share: float, utf16: bool
) -> FoundPassage:
    start, end = stretch
    own = text[start:end]
    marks = merge_stretches((one.start - start, min(one.end, end) - start) for one in words if start <= one.start < end)
    if utf16:
        marks = in_utf16(own, marks)
        (start, end) = in_utf16(text, [stretch])[0]
    return FoundPassage(field=field, start=start, end=end, text=own, marks=marks, score=score, share=share)


def list_passages(
    opened: OpenCollection,
    ranker: Ranker,
    question: Question,
    letters: int,
    wanted: PassagesWanted,
    records: int,
    utf16: bool = False,
) -> ListPassages:
    """The best passages of the first records of a list, within so many letters in all.

    Of a record that only its meaning brought in, the passage that is nearest to the query counts as if it held all of
    its words. A passage that says what a better one says is left out: the same letters, or four fifths of the same
    words (A. Broder, "On the resemblance and containment of documents", 1997). One that has no room any more is passed
    over.

    letters: in code points.
    """
    opened.make_ready(ranker)
    asked = ask(opened, ranker, question)
    found = first_rows(opened, asked, candidates(opened, asked, asked.filters), records)
    keys = opened.keys_of(found.rows)
    with opened.pool.connection() as connection:
        kept = records_with_keys(connection, opened.collection.id, keys)
    best = max((row.score for row in found.rows), default=0.0)
    every: list[ListPassage] = []
    for rank, (key, row) in enumerate(zip(keys, found.rows, strict=True), start=1):
        if key not in kept:
            continue
        own = passages_of(opened, asked, found, row, kept[key].field_values, wanted, utf16)
        part = row.score / best if best > 0 else 1 / rank
        every += [ListPassage(key=key, rank=rank, score=part * one.share, passage=one) for one in own]
    every.sort(key=lambda one: (-one.score, one.rank, one.passage.field, one.passage.start))
    chosen: list[ListPassage] = []
    said: list[tuple[str, frozenset[str]]] = []
    taken = repeats = 0
    for one in every:
        if taken + len(one.passage.text) > letters:
            continue
        whole = whole_letters_of(one.passage.text)
        words = frozenset(whole[start:end] for start, end in word_stretches(whole))
        if any(_says_the_same((whole, words), other) for other in said):
            repeats += 1
            continue
        said.append((whole, words))
        chosen.append(one)
        taken += len(one.passage.text)
    return ListPassages(passages=chosen, letters=taken, records=len(found.rows), repeats=repeats)


def _says_the_same(one: tuple[str, frozenset[str]], other: tuple[str, frozenset[str]]) -> bool:
    both = one[1] | other[1]
    return one[0] == other[0] or (bool(both) and len(one[1] & other[1]) >= _ALIKE * len(both))
