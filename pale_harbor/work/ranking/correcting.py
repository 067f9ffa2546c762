"""What a query may have meant, told only where it would find clearly more."""

import re
from collections.abc import Callable, Iterator
from math import prod
from typing import Final
from unicodedata import normalize

import numpy as np

from pale_harbor.core.index import ReadingIndex
from pale_harbor.core.query import ParsedQuery, QueryWord, parse_query
from pale_harbor.core.query.words import literal_chain, word_stretches
from pale_harbor.core.ranking import Alive, Ranker
from pale_harbor.core.typing.correcting import Corrections, Piece, SaidWord, readings_of
from pale_harbor.core.typing.word_model import WordModel, WordsInRow, word_model
from pale_harbor.store.ranking.past_queries import past_queries_of, past_query_list
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.corrected import DidYouMean, WordChanged
from pale_harbor.work.running.aside import Told, UnderWay

# A query of more words is a text.
_MOST_WORDS: Final = 24
_BLANKS: Final = re.compile(r"\s*")


# How many records hold all words of a text.
Holding = Callable[[str], int]


def did_you_mean(opened: OpenCollection, ranker: Ranker, question: Question, holding: Holding) -> DidYouMean | None:
    """What a query may have meant, None where there is nothing to say: where it is right as it is, where it is not sure
    enough what was meant, or where that would not find clearly more.

    Words in quotes, words with digits and with signs of the query language stay as they are, and so does whatever
    records hold, but for words that were run together or parted.
    """
    corrections = ranker.corrections or Corrections()
    best = likeliest(opened, ranker, question, corrections, holding)
    if best is None or best.sure < corrections.sure:
        return None
    return best


def likeliest(
    opened: OpenCollection, ranker: Ranker, question: Question, corrections: Corrections, holding: Holding
) -> DidYouMean | None:
    """The likeliest correction that would find clearly more, however sure it is."""
    parsed = parse_query(question.text, opened.field_names)
    model = words_of(opened, ranker)
    changes: list[WordChanged] = []
    chances: list[float] = []
    held: dict[str, bool] = {}
    for run in _runs(parsed):
        if len(run) > _MOST_WORDS:
            continue
        said = [_said(model, question.text[start:end], held, holding) for start, end in run]
        if all(one.is_fixed for one in said):
            continue
        readings = readings_of(model, said, corrections.letters)
        if not readings:
            continue
        chances.append(readings[0].chance)
        changes += _changes(question.text, run, said, readings[0].pieces)
    if not changes:
        return None
    # A word that no record holds is worth one that some do.
    lost = [one for one in changes if not held.get(_small(one.said), True)]
    if any(holding(one.meant) == 0 for one in lost):
        return None
    # Words that are held are joined or parted only for clearly more than the rest finds without that.
    if len(lost) < len(changes):
        without = holding(_with_changes(question.text, lost))
        if holding(_with_changes(question.text, changes)) < max(1.0, corrections.more * without):
            changes = lost
    if not changes:
        return None
    query = _with_changes(question.text, changes)
    found, finds = holding(question.text), holding(query)
    return DidYouMean(said=question.text, query=query, sure=prod(chances), found=found, finds=finds, changes=changes)


def words_of(opened: OpenCollection, ranker: Ranker) -> WordModel:
    """The words of the fields that a ranker reads, and of past queries."""
    fields = tuple(dict.fromkeys(one.field for one in ranker.readings if one.weight > 0))
    with opened.pool.connection() as connection:
        past = past_query_list(connection, opened.collection.id)
    name = (opened.state, ("words", fields, past and past.state))

    def make(told: Told) -> WordModel:
        told("counting words", 0, 1)
        alive = [live.alive for live in opened.slabs]
        rows = [
            _in_row(index, own)
            for field in fields
            for index, own in zip(opened.indexes(field, literal_chain()), alive, strict=True)
        ]
        with opened.pool.connection() as connection:
            asked = [
                ([_small(one.query[start:end]) for start, end in word_stretches(one.query)], one.asked)
                for one in past_queries_of(connection, opened.collection.id)
            ]
        return word_model(rows, asked)

    known = opened.memory.correction_words.get(name)
    if known is not None:
        return known

    def kept(told: Told) -> WordModel:
        return opened.memory.correction_words.get_or_make(name, lambda: make(told))

    made = opened.memory.aside.made(name, kept, None)
    assert not isinstance(made, UnderWay)
    return made


def _in_row(index: ReadingIndex, alive: Alive | None) -> WordsInRow:
    """The words of an index in the order in which they stand in its living records."""
    terms = list(index.vocabulary)
    numbers, records = index.occurrences()
    positions = np.asarray(index.positions)
    if alive is not None:
        lives = alive[records]
        numbers, records, positions = numbers[lives], records[lives], positions[lives]
    order = np.lexsort((positions, records))
    positions, records = positions[order], records[order]
    follows = np.zeros(order.size, np.bool_)
    follows[1:] = (records[1:] == records[:-1]) & (positions[1:] == positions[:-1] + 1)
    return WordsInRow(terms, numbers[order], follows)


def _runs(parsed: ParsedQuery) -> Iterator[list[tuple[int, int]]]:
    """Stretches of plain words that stand side by side with nothing but blanks between them."""
    run: list[tuple[int, int]] = []
    for node in parsed.root.nodes:
        if not isinstance(node, QueryWord) or node.begins or node.ends:
            if run:
                yield run
            run = []
            continue
        for first, last in word_stretches(node.text):
            start, end = node.start + first, node.start + last
            if run and _BLANKS.fullmatch(parsed.text, run[-1][1], start) is None:
                yield run
                run = []
            run.append((start, end))
    if run:
        yield run


def _said(model: WordModel, text: str, held: dict[str, bool], holding: Holding) -> SaidWord:
    letters = _small(text)
    if not letters.isalpha():
        return SaidWord(letters, is_right=True, is_fixed=True)
    if letters not in held:
        # An inflection that stands in no record may be found all the same, and so may what lacks its accents.
        held[letters] = model.count(letters) > 0 or holding(text) > 0
    return SaidWord(letters, is_right=held[letters])


def _changes(
    text: str, run: list[tuple[int, int]], said: list[SaidWord], pieces: tuple[Piece, ...]
) -> Iterator[WordChanged]:
    for piece in pieces:
        if piece.meant != tuple(one.letters for one in said[piece.first : piece.last]):
            start, end = run[piece.first][0], run[piece.last - 1][1]
            yield WordChanged(start, end, text[start:end], " ".join(piece.meant))


def _with_changes(text: str, changes: list[WordChanged]) -> str:
    for one in reversed(changes):
        text = text[: one.start] + one.meant + text[one.end :]
    return text


def _small(text: str) -> str:
    """A word as the literal chain has it."""
    return normalize("NFKC", text).lower()
