"""Meaning beside words: the lists of a question's spaces, and the one list that its blend makes of all.

What takes part in a blend are candidates: the first records by words and the nearest of each space. The list ends
with them.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, Mask
from pale_harbor.core.blend import (
    Blend,
    Blended,
    BlendHow,
    Listed,
    Normalisation,
    SpaceUse,
    blend_lists,
    kind_of,
    second_stage_order,
    shown_name,
)
from pale_harbor.core.blend.fusion import best_first
from pale_harbor.core.query import ParsedQuery, holds_quotes, meant_text
from pale_harbor.core.query.words import word_stretches
from pale_harbor.core.ranking import FieldOrder, Placed, PreparedQuery, Ranker, Scored, TermKind, best, join, shares
from pale_harbor.core.ranking.bm25 import term_part
from pale_harbor.core.ranking.columns import frequencies_of
from pale_harbor.core.vectors import (
    Nearest,
    WordSimilarity,
    nearest,
    nearest_in_groups,
    similarity_of_records,
    word_similarity,
)
from pale_harbor.errors import BadInput
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.spaces.open_space import NoVector, OpenSpace

SlabPlace = tuple[int, int]


def check_asks_spaces(ranker: Ranker) -> None:
    """Raises BadInput for a ranker that asks no space."""
    if not ranker.spaces:
        raise BadInput("This ranker asks no space: there is one list, by words. Add a space to it.")


@dataclass(frozen=True, slots=True, eq=False)
class SpaceAsked:
    """A space with the query's vector in it; None where there is none. text: what it read."""

    use: SpaceUse
    space: OpenSpace
    vector: NDArray[np.float32] | None
    text: str


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Meaning:
    """What a question asks of spaces. text: the query without its signs; kind: of queries, None for no special one.

    mended: what spaces that read mended words read instead of it, None where they read the same.
    space_notes: spaces that could not be asked; stage_notes: why a second stage was left out; failed: whether one of
    the spaces might have been asked.
    """

    text: str
    blend: Blend
    kind: str | None
    spaces: tuple[SpaceAsked, ...]
    second_stage: OpenSpace | None
    space_notes: tuple[str, ...]
    stage_notes: tuple[str, ...]
    failed: bool
    mended: str | None = None

    @property
    def notes(self) -> tuple[str, ...]:
        """What keeps the list from meaning what one would think."""
        return (*self.space_notes, *self.stage_notes)

    @property
    def is_asked(self) -> bool:
        """Whether there is anything beside words."""
        return any(asked.vector is not None for asked in self.spaces)


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class SecondLook:
    """What the second stage made of a record: its place before, its similarity, what both come to."""

    place: float
    similarity: WordSimilarity
    score: float
    query_words: list[str]
    record_words: list[str]


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class BlendedRow:
    """A candidate. ranks: in the words' list and in each space's, 0 where it is not in it.

    list_scores: its score there, and for spaces how alike it is in any case; passages: which vector of the table that
    is of, −1 for none. parts: what each list adds to the score; known: what a formula was told.
    """

    score: float
    ranks: list[int]
    list_scores: list[float]
    passages: list[int]
    parts: list[float]
    known: dict[str, float] | None = None
    second_look: SecondLook | None = None


def meaning_of(
    opened: OpenCollection,
    ranker: Ranker,
    text: str,
    parsed: ParsedQuery,
    spaces: Mapping[str, OpenSpace] | None = None,
    mend: Callable[[], str | None] = lambda: None,
) -> Meaning | None:
    """What a query asks of the ranker's spaces; None where it asks nothing. spaces: None: as they are now.

    mend: gives the query as spelling slack mended it, for spaces that read it so.
    """
    if not ranker.spaces and ranker.second_stage is None:
        return None
    said = meant_text(parsed)
    kind, slow = kind_of(text, len(word_stretches(said)), holds_quotes(parsed), ranker.kinds)
    blend = ranker.blend if kind is None else kind.blend
    known = opened.spaces() if spaces is None else spaces
    asked: list[SpaceAsked] = []
    notes = [f'The pattern of the kind "{name}" took too long and was passed over.' for name in slow]
    failed = False
    mended = mend() if blend.asks_spaces and any(use.mended for use in ranker.spaces) else None
    for use in ranker.spaces:
        space = known.get(use.space)
        if space is None:
            notes.append(f'There is no space "{use.space}" any more.')
            failed = True
        elif blend.asks_spaces:
            text = mended if use.mended and mended is not None else said
            vector = space.query_vector(text)
            if isinstance(vector, NoVector):
                notes += [vector.reason] if vector.reason else []
                failed = failed or vector.failed
                asked.append(SpaceAsked(use, space, None, text))
            else:
                asked.append(SpaceAsked(use, space, vector, text))
                if use.near_enough is not None and use.near_enough < 1 and space.is_grouped(opened):
                    notes.append(near_enough_said(use.space, use.near_enough))
    if blend.asks_words and all(one.vector is None for one in asked):
        # Words are alone: their scores stay what they are.
        blend = replace(blend, how=BlendHow.WEIGHTED_SUM, normalise=Normalisation.NONE, meaning=0.0)
    stage_notes: list[str] = []
    second = None if ranker.second_stage is None else known.get(ranker.second_stage.space)
    if ranker.second_stage is not None and (second is None or not second.is_filled):
        stage_notes.append(
            f'The second stage was left out: the space "{ranker.second_stage.space}" has no vectors yet.'
        )
        second = None
    if second is not None and second.maker is None:
        stage_notes.append(f'The second stage was left out: the space "{second.name}" has no vectors of single words.')
        second = None
    return Meaning(
        text=said,
        blend=blend,
        kind=None if kind is None else kind.name,
        spaces=tuple(asked),
        second_stage=second,
        space_notes=tuple(notes),
        stage_notes=tuple(stage_notes),
        failed=failed,
        mended=mended,
    )


def near_enough_said(space: str, share: float) -> str:
    """What a list says of a space that was not looked through whole.

    >>> near_enough_said("sense", 0.025)
    'The space "sense" is asked near enough: through 2.5 % of its groups of vectors, whole where a filter leaves few.'
    """
    return (
        f'The space "{space}" is asked near enough: through {100 * share:g} % of its groups of vectors, whole where a '
        "filter leaves few."
    )


def vector_list(
    opened: OpenCollection, asked: SpaceAsked, masks: Sequence[Mask | None], by: tuple[FieldOrder, ...]
) -> list[Placed]:
    """The records nearest to the query in one space, over all slabs. masks: by slab, which may be found."""
    if asked.vector is None:
        return []
    lists: list[Nearest] = []
    for slab, mask in enumerate(masks):
        lists.append(_nearest_of_slab(opened, asked, asked.vector, slab, mask, opened.order(slab, by)))
    rows = [
        Placed(slab, record_id, score)
        for slab, own in enumerate(lists)
        for record_id, score in zip(own.record_ids.tolist(), own.similarities.tolist(), strict=True)
    ]
    if len(lists) > 1:
        rows.sort(key=lambda row: (-row.score, opened.place(row.slab, row.record_id, by)))
    return rows[: asked.use.fetch]


def _nearest_of_slab(
    opened: OpenCollection,
    asked: SpaceAsked,
    wanted: NDArray[np.float32],
    slab: int,
    mask: Mask | None,
    order: NDArray[np.int32],
) -> Nearest:
    table, use = asked.space.table(opened, slab), asked.use
    groups = None if use.near_enough is None else asked.space.groups(opened, slab)
    if groups is None or use.near_enough is None:
        return nearest(table, wanted, asked.space.similarity, use.fetch, order, mask, use.at_least)
    return nearest_in_groups(
        table, groups, wanted, asked.space.similarity, use.fetch, order, use.near_enough, mask, use.at_least
    ).found


def space_lists(
    opened: OpenCollection, meaning: Meaning, masks: Sequence[Mask | None], by: tuple[FieldOrder, ...]
) -> list[list[Placed]]:
    """The list of each space that a question asks. masks: by slab, which records may be found."""
    return [_remembered_list(opened, asked, masks, by) for asked in meaning.spaces]


def _remembered_list(
    opened: OpenCollection, asked: SpaceAsked, masks: Sequence[Mask | None], by: tuple[FieldOrder, ...]
) -> list[Placed]:
    """The list of a space, remembered where nothing narrows it: a turned knob asks for it again and again."""
    if any(mask is not None for mask in masks):
        return vector_list(opened, asked, masks, by)
    key = (asked.space.space.identity, asked.text, asked.use.fetch, asked.use.at_least, asked.use.near_enough, by)
    return opened.remember(key, lambda: vector_list(opened, asked, masks, by))


class BlendedList:
    """One list of words and meaning, best first, and how each row came about."""

    def __init__(
        self,
        opened: OpenCollection,
        meaning: Meaning,
        ranker: Ranker,
        prepared: Sequence[PreparedQuery],
        signals: Sequence[tuple[str, Sequence[FloatArray]]],
        words: Sequence[Scored],
        masks: Sequence[Mask | None],
    ) -> None:
        self._opened, self._meaning, self._ranker = opened, meaning, ranker
        self._prepared, self._signals = prepared, signals
        self.words_matched = sum(own.record_ids.size for own in words)
        by = ranker.equals_by
        self.word_rows = self._words_first(words, by)
        self.space_rows = space_lists(opened, meaning, masks, by)
        self._all_words = words
        self._places, lists = self._numbered([self.word_rows, *self.space_rows])
        self._known: dict[str, FloatArray] | None = None
        self._looks: dict[SlabPlace, SecondLook] = {}
        self._blended = self._blend(lists)
        self.places = [self._places[number] for number in self._blended.record_ids.tolist()]
        if meaning.second_stage is not None and ranker.second_stage is not None:
            self._look_again(meaning.second_stage, ranker.second_stage.first, ranker.second_stage.weight)
        self._rows = {place: row for row, place in enumerate(self._blended_places)}

    @property
    def notes(self) -> list[str]:
        """What the count of rows does not say by itself."""
        fetch = self._meaning.blend.fetch
        if not self._meaning.blend.asks_words or self.words_matched <= fetch:
            return []
        return [f"Words find {self.words_matched:,} records; the first {fetch:,} of them took part in the blend."]

    def rows(self) -> list[Placed]:
        """The list, best first: in the order of the blended scores, but for what the second stage reordered."""
        return [Placed(slab, record_id, self.score((slab, record_id))) for slab, record_id in self.places]

    def by_slab(self) -> list[Scored]:
        """The candidates by slab, in no order."""
        rows = self.rows()
        own = [[row for row in rows if row.slab == slab] for slab in range(len(self._opened.slabs))]
        return [
            Scored(
                np.array([row.record_id for row in some], np.int32), np.array([row.score for row in some], np.float64)
            )
            for some in own
        ]

    def score(self, place: SlabPlace) -> float:
        """A candidate's blended score, 0 for any other record."""
        row = self._rows.get(place)
        return 0.0 if row is None else float(self._blended.scores[row])

    def parts(self, place: SlabPlace) -> list[float]:
        """What each list adds to a candidate's score: words first, then the spaces; zeros for any other record."""
        row = self._rows.get(place)
        return [0.0] * (1 + len(self._meaning.spaces)) if row is None else self._blended.parts[row].tolist()

    def ranks(self, place: SlabPlace) -> list[int]:
        """A row's rank in the words' list and in each space's, 0 where it is not in it."""
        row = self._rows.get(place)
        return [0] * (1 + len(self._meaning.spaces)) if row is None else self._blended.ranks[row].tolist()

    def passages(self, place: SlabPlace) -> list[int]:
        """By space which vector of its table a record is nearest by, −1 for none."""
        _, rows = self._similarities(place[0], np.array([place[1]], np.int64))
        return [int(one[0]) for one in rows]

    def second_score(self, place: SlabPlace) -> float | None:
        """By what the second stage ordered a record; None where it did not look at it."""
        look = self._looks.get(place)
        return None if look is None else look.score

    def row(self, place: SlabPlace) -> BlendedRow:
        """Everything about one record, whether it is a candidate or not."""
        slab, record_id = place
        word_score = float(_scores_of(self._all_words[slab], np.array([record_id]))[0])
        alike, passages = self._similarities(slab, np.array([record_id], np.int64))
        known = None
        if self._known is not None:
            known = {name: float(values[0]) for name, values in self._columns([place]).items()}
        return BlendedRow(
            score=self.score(place),
            ranks=self.ranks(place),
            list_scores=[word_score, *(float(one[0]) for one in alike)],
            passages=[int(one[0]) for one in passages],
            parts=self.parts(place),
            known=known,
            second_look=self._looks.get(place),
        )

    @property
    def formula_is_used(self) -> bool:
        """Whether a formula makes the scores."""
        return self._meaning.blend.how is BlendHow.FORMULA

    def _words_first(self, words: Sequence[Scored], by: tuple[FieldOrder, ...]) -> list[Placed]:
        fetch = self._meaning.blend.fetch
        if not self._meaning.blend.asks_words:
            return []
        lists = [best(own, fetch, self._opened.order(slab, by)) for slab, own in enumerate(words)]
        return join(lists, fetch, lambda slab, record_id: self._opened.place(slab, record_id, by)).rows

    def _numbered(self, lists: Sequence[list[Placed]]) -> tuple[list[SlabPlace], list[Listed]]:
        """Every candidate, numbered in the order of equals; the lists by those numbers."""
        by = self._ranker.equals_by
        union = {(row.slab, row.record_id) for rows in lists for row in rows}
        if len(self._opened.slabs) == 1:
            order = self._opened.order(0, by)
            places = sorted(union, key=lambda place: int(order[place[1]]))
        else:
            places = sorted(union, key=lambda place: self._opened.place(*place, by))
        numbers = {place: number for number, place in enumerate(places)}
        return places, [
            Listed(
                np.array([numbers[row.slab, row.record_id] for row in rows], np.int32),
                np.array([row.score for row in rows], np.float64),
            )
            for rows in lists
        ]

    def _blend(self, lists: list[Listed]) -> Blended:
        blend = self._meaning.blend
        weights = [asked.use.weight for asked in self._meaning.spaces]
        equals = np.arange(len(self._places), dtype=np.int32)
        if blend.how is not BlendHow.FORMULA or blend.formula is None:
            found = blend_lists(blend, lists[0], lists[1:], weights, equals)
        else:
            self._known = self._columns(self._places)
            scores = blend.formula.values(self._known, len(self._places))
            order = best_first(scores, equals).astype(np.int32)
            ranks = np.stack([_ranks(one, len(self._places)) for one in lists], axis=1)[order]
            found = Blended(order, scores[order], np.zeros(ranks.shape), ranks)
        self._blended_places = [self._places[number] for number in found.record_ids.tolist()]
        return found

    def _columns(self, places: Sequence[SlabPlace]) -> dict[str, FloatArray]:
        """What a formula may ask of some records, by name."""
        known: dict[str, FloatArray] = {}

        def put(name: str, own: Sequence[int], values: FloatArray) -> None:
            known.setdefault(name, np.zeros(len(places)))[own] += values

        for name, rows in zip(
            ["words", *(asked.space.name for asked in self._meaning.spaces)],
            [self.word_rows, *self.space_rows],
            strict=True,
        ):
            rank = {(row.slab, row.record_id): float(number) for number, row in enumerate(rows, start=1)}
            known[shown_name("rank", name)] = np.array([rank.get(place, np.inf) for place in places])
        for slab, (query, own_words) in enumerate(zip(self._prepared, self._all_words, strict=True)):
            own = [i for i, (of, _) in enumerate(places) if of == slab]
            ids = np.array([places[i][1] for i in own], np.int64)
            put("words", own, _scores_of(own_words, ids))
            put("nearness", own, _nearness(query, ids))
            dealt = shares(query, ids.astype(np.int32))
            for number, reading in enumerate(query.readings):
                put(shown_name("reading", reading.reading.field), own, dealt[:, number])
            for field, values in self._signals:
                put(shown_name("signal", field), own, values[slab][ids])
            alike, _ = self._similarities(slab, ids)
            for asked, values in zip(self._meaning.spaces, alike, strict=True):
                put(shown_name("space", asked.space.name), own, values)
        # What a ranker names and this query does not ask: a reading of weight 0, say.
        for name in () if self._meaning.blend.formula is None else self._meaning.blend.formula.names:
            known.setdefault(name, np.zeros(len(places)))
        return known

    def _similarities(self, slab: int, ids: NDArray[np.int64]) -> tuple[list[FloatArray], list[NDArray[np.int64]]]:
        """By space how alike some records are, and by which vector."""
        alike: list[FloatArray] = []
        rows: list[NDArray[np.int64]] = []
        for asked in self._meaning.spaces:
            if asked.vector is None:
                alike.append(np.zeros(ids.size))
                rows.append(np.full(ids.size, -1, np.int64))
                continue
            table = asked.space.table(self._opened, slab)
            own, by = similarity_of_records(table, ids, asked.vector, asked.space.similarity)
            alike.append(own)
            rows.append(by.astype(np.int64))
        return alike, rows

    def _look_again(self, space: OpenSpace, first: int, weight: float) -> None:
        """The second stage: the first rows in the order of their similarity, word by word."""
        head = self.places[:first]
        asked = space.word_vectors(self._meaning.text)
        if not head or asked is None or not asked[0]:
            return
        looked = word_similarities(self._opened, space, asked[1], head)
        again = second_stage_order([similarity.value for similarity, _ in looked], weight)
        for i, place in enumerate(head):
            self._looks[place] = SecondLook(
                place=float(again.places[i]),
                similarity=looked[i][0],
                score=float(again.scores[i]),
                query_words=asked[0],
                record_words=looked[i][1],
            )
        self.places = [*(head[i] for i in again.order.tolist()), *self.places[first:]]


def word_similarities(
    opened: OpenCollection, space: OpenSpace, wanted: NDArray[np.float32], places: Sequence[SlabPlace]
) -> list[tuple[WordSimilarity, list[str]]]:
    """How alike some records are word by word, with the words that each has. wanted: the vectors of the query's."""
    keys = [opened.key(Placed(slab, record_id, 0.0)) for slab, record_id in places]
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    found: list[tuple[WordSimilarity, list[str]]] = []
    for key in keys:
        text = "" if key not in records else space.covered.whole(records[key].field_values)
        own = space.word_vectors(text)
        assert own is not None
        found.append((word_similarity(wanted, own[1]), own[0]))
    return found


def _ranks(one: Listed, count: int) -> NDArray[np.int32]:
    ranks = np.zeros(count, np.int32)
    ranks[one.record_ids] = np.arange(1, one.record_ids.size + 1)
    return ranks


def _scores_of(found: Scored, ids: NDArray[np.int64]) -> FloatArray:
    """The scores of some records, 0 for those that did not match."""
    scores = np.zeros(ids.size)
    order = np.argsort(found.record_ids, kind="stable")
    at = np.searchsorted(found.record_ids, ids, sorter=order)
    inside = np.flatnonzero(at < order.size)
    rows = order[at[inside]]
    held = found.record_ids[rows] == ids[inside]
    scores[inside[held]] = found.scores[rows[held]]
    return scores


def _nearness(query: PreparedQuery, ids: NDArray[np.int64]) -> FloatArray:
    """What words that stand near each other add to the scores of some records."""
    total = np.zeros(ids.size)
    if query.pool is not None:
        return total
    for prepared in query.readings:
        base, slope = prepared.norm
        for term, found in prepared.found_terms():
            if term.kind is TermKind.NEAR:
                held, frequencies = frequencies_of(found, ids)
                norms = base + slope * prepared.index.lengths[ids[held]]
                own = term_part(term.factor, frequencies, prepared.reading.k1, norms)
                total[held] += prepared.reading.weight * own
    return total
