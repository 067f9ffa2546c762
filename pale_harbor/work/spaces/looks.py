"""Looks into a space: what lies nearest to words or to examples, and a map of it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import distinct
from pale_harbor.core.blend import SpaceUse
from pale_harbor.core.fields import Filter
from pale_harbor.core.ranking import Placed
from pale_harbor.core.vectors import Plane, VectorTable, plane_of, similarity_of_records, wanted_by_examples
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.records.records import Record, records_with_keys
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import allowed_records
from pale_harbor.work.ranking.meaning import SpaceAsked, vector_list
from pale_harbor.work.ranking.searching import Passage
from pale_harbor.work.spaces.open_space import NoVector, OpenSpace

# A map of more points shows a cloud all the same.
MOST_POINTS: Final = 2_000
_LEARNED_FROM: Final = 20_000


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is looked for: words, or records to be like and unlike."""

    text: str = ""
    liked: tuple[str, ...] = ()
    disliked: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Neighbour:
    """A record near to what is wanted. passage: that is nearest, where the space's texts are cut."""

    rank: int
    key: str
    similarity: float
    passage: Passage | None
    field_values: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A record on the map. rank: as a neighbour, 0 for any other; example: one of the liked or disliked."""

    key: str
    title: str
    x: float
    y: float
    rank: int
    example: bool


@dataclass(frozen=True, slots=True)
class SpaceMap:
    """kept: how much of all difference the two directions show, from 0 to 1. wanted: where what is looked for lies.

    records: with vectors, shown or not.
    """

    points: list[Point]
    wanted: tuple[float, float] | None
    kept: float
    records: int


def neighbours(
    opened: OpenCollection,
    space_name: str,
    wanted: Wanted,
    top: int,
    filters: Sequence[Filter] = (),
    at_least: float | None = None,
) -> list[Neighbour]:
    """The records nearest to what is wanted, examples left out. Raises NotFound, BadInput."""
    space = open_space(opened, space_name)
    vector = wanted_vector(opened, space, wanted)
    rows = _nearest(opened, space, vector, wanted, top, filters, at_least)
    keys = [opened.key(row) for row in rows]
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    found: list[Neighbour] = []
    for rank, (row, key) in enumerate(zip(rows, keys, strict=True), start=1):
        record = records.get(key)
        passage = _passage(opened, space, vector, row, record)
        found.append(
            Neighbour(
                rank=rank,
                key=key,
                similarity=row.score,
                passage=passage,
                field_values=record.field_values if record else {},
            )
        )
    return found


def space_map(opened: OpenCollection, space_name: str, wanted: Wanted | None, title_field: str | None) -> SpaceMap:
    """The space laid on the two directions in which its records differ most. wanted: None for the records alone."""
    space = open_space(opened, space_name)
    tables = [space.table(opened, slab) for slab in range(len(opened.slabs))]
    rows = [
        (slab, int(table.firsts[record_id]), record_id)
        for slab, table in enumerate(tables)
        for record_id in distinct(table.owners).tolist()
        if opened.slabs[slab].lives(record_id)
    ]
    # The same records at every look.
    chosen = np.random.default_rng(1).permutation(len(rows))
    plane = plane_of(_vectors(tables, [rows[i] for i in sorted(chosen[:_LEARNED_FROM].tolist())], space.dimensions))
    shown = {(rows[i][0], rows[i][2]): rows[i][1] for i in chosen[:MOST_POINTS].tolist()}
    ranks: dict[tuple[int, int], int] = {}
    examples: set[tuple[int, int]] = set()
    at: tuple[float, float] | None = None
    if wanted is not None:
        vector = wanted_vector(opened, space, wanted)
        at = _at(plane, vector)
        for rank, row in enumerate(_nearest(opened, space, vector, wanted, 10, (), None), start=1):
            ranks[row.slab, row.record_id] = rank
            shown.setdefault((row.slab, row.record_id), int(tables[row.slab].firsts[row.record_id]))
        for key in (*wanted.liked, *wanted.disliked):
            placed = opened.find(key)
            if placed is not None:
                examples.add((placed.slab, placed.record_id))
                shown.setdefault((placed.slab, placed.record_id), int(tables[placed.slab].firsts[placed.record_id]))
    places = sorted(shown)
    where = plane.place(_vectors(tables, [(slab, shown[slab, one], one) for slab, one in places], space.dimensions))
    keys = [opened.key(Placed(slab, one, 0.0)) for slab, one in places]
    with opened.pool.connection() as connection:
        records = records_with_keys(connection, opened.collection.id, keys)
    points = [
        Point(
            key=key,
            title=_title(records.get(key), title_field),
            x=float(x),
            y=float(y),
            rank=ranks.get(place, 0),
            example=place in examples,
        )
        for place, key, (x, y) in zip(places, keys, where.tolist(), strict=True)
    ]
    return SpaceMap(points, at, plane.kept, len(rows))


def open_space(opened: OpenCollection, name: str) -> OpenSpace:
    """A space that can be looked into. Raises NotFound, BadInput where it has no vectors yet."""
    spaces = opened.spaces()
    if name not in spaces:
        known = f"There are: {', '.join(spaces)}." if spaces else "There is none yet."
        raise NotFound(f'There is no space "{name[:100]}". {known}')
    if not spaces[name].is_filled:
        raise BadInput(f'The space "{name}" has no vectors yet. Wait until it is filled.')
    return spaces[name]


def wanted_vector(opened: OpenCollection, space: OpenSpace, wanted: Wanted) -> NDArray[np.float32]:
    """The vector of what is wanted. Raises NotFound for examples that are not there, BadInput where there is none.

    Shape (dimensions,).
    """
    if not wanted.liked:
        if wanted.disliked:
            raise BadInput("Away from a record: from where? Name one to be like as well.")
        found = space.query_vector(wanted.text)
        if isinstance(found, NoVector):
            raise BadInput(found.reason or "Nothing is looked for: give words, or the key of a record to be like.")
        return found
    return wanted_by_examples(_examples(opened, space, wanted.liked), _examples(opened, space, wanted.disliked))


def _examples(opened: OpenCollection, space: OpenSpace, keys: Sequence[str]) -> NDArray[np.float32]:
    """Each record's mean vector."""
    rows: list[NDArray[np.float32]] = []
    for key in keys:
        placed = opened.find(key)
        if placed is None:
            raise NotFound(f'The collection "{opened.collection.name}" has no record with the key "{key[:200]}".')
        table = space.table(opened, placed.slab)
        own = table.rows_of(placed.record_id)
        vector = table.vectors[own.start : own.stop].mean(axis=0) if len(own) else np.zeros(space.dimensions)
        if not vector.any():
            raise BadInput(f'The record "{key[:200]}" has no vector in the space "{space.name}".')
        rows.append(vector.astype(np.float32))
    return np.array(rows, np.float32).reshape(-1, space.dimensions)


def _nearest(
    opened: OpenCollection,
    space: OpenSpace,
    vector: NDArray[np.float32],
    wanted: Wanted,
    top: int,
    filters: Sequence[Filter],
    at_least: float | None,
) -> list[Placed]:
    examples = [placed for key in (*wanted.liked, *wanted.disliked) if (placed := opened.find(key)) is not None]
    masks: list[NDArray[np.bool_] | None] = []
    for slab, live in enumerate(opened.slabs):
        mask = allowed_records(opened, slab, filters)
        if live.alive is not None:
            mask = live.alive if mask is None else mask & live.alive
        own = [one.record_id for one in examples if one.slab == slab]
        if own:
            mask = np.ones(live.slab.record_count, np.bool_) if mask is None else mask.copy()
            mask[own] = False
        masks.append(mask)
    return vector_list(opened, SpaceAsked(SpaceUse(space.name, 1.0, top, at_least), space, vector, ""), masks, ())


def _passage(
    opened: OpenCollection, space: OpenSpace, vector: NDArray[np.float32], row: Placed, record: Record | None
) -> Passage | None:
    if record is None:
        return None
    table = space.table(opened, row.slab)
    number = nearest_row(space, opened, row.slab, row.record_id, vector)
    found = space.covered.passage(record.field_values, table.places[number].tolist()) if number >= 0 else None
    return None if found is None else Passage(space.name, *found)


def nearest_row(
    space: OpenSpace, opened: OpenCollection, slab: int, record_id: int, vector: NDArray[np.float32]
) -> int:
    """Which of a record's vectors is nearest, −1 where it has none."""
    table = space.table(opened, slab)
    _, rows = similarity_of_records(table, np.array([record_id], np.int64), vector, space.similarity)
    return int(rows[0])


def _vectors(
    tables: Sequence[VectorTable], rows: Sequence[tuple[int, int, int]], dimensions: int
) -> NDArray[np.float32]:
    vectors = np.zeros((len(rows), dimensions), np.float32)
    for i, (slab, row, _) in enumerate(rows):
        # A map is of directions: a long vector is no further away.
        vectors[i] = tables[slab].vectors[row] * tables[slab].shares_of_length[row]
    return vectors


def _at(plane: Plane, vector: NDArray[np.float32]) -> tuple[float, float]:
    length = float(np.linalg.norm(vector))
    x, y = plane.place((vector / length if length else vector)[None])[0].tolist()
    return float(x), float(y)


def _title(record: Record | None, field: str | None) -> str:
    value = None if record is None or field is None else record.field_values.get(field)
    return "" if value is None else str(value)[:200]
