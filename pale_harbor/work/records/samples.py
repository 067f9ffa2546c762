"""Texts of a collection to try a chain on: chosen by chance, the longest, the oddest, those with a word."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Final

import numpy as np

from pale_harbor.core.records import oddities_of
from pale_harbor.errors import BadInput
from pale_harbor.formats.storable import unstorable
from pale_harbor.store.records.records import field_values_of
from pale_harbor.store.records.samples import longest_values, values_containing
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.workbench import Workbench

SHOWN: Final = 12
_LOOKED_THROUGH: Final = 3_000


class SampleBy(StrEnum):
    """Which values are shown."""

    CHANCE = "chance"
    LONGEST = "longest"
    ODDEST = "oddest"
    WORD = "word"


@dataclass(frozen=True, slots=True)
class Sample:
    """A record's text in a field, its values in one."""

    key: str
    text: str


def sample_values(
    workbench: Workbench, collection_name: str, field: str, by: SampleBy, word: str, seed: int
) -> list[Sample]:
    """Some records that have the field. seed: another one gives others by chance.

    Raises NotFound, BadInput where a word is wanted and none is given.
    """
    if by is SampleBy.WORD and (not word.strip() or unstorable(word)):
        raise BadInput("Which word? Type one that the texts should hold.")

    def work(opened: OpenCollection) -> list[tuple[str, Any]]:
        collection_id = opened.collection.id
        with opened.pool.connection() as connection:
            match by:
                case SampleBy.LONGEST:
                    return longest_values(connection, collection_id, field, SHOWN)
                case SampleBy.WORD:
                    return values_containing(connection, collection_id, field, word.strip(), SHOWN)
                case SampleBy.CHANCE:
                    keys = _keys_by_chance(opened, seed, 4 * SHOWN)
                case SampleBy.ODDEST:
                    keys = _keys_by_chance(opened, 1907, _LOOKED_THROUGH)
            found = field_values_of(connection, collection_id, field, keys)
        chosen = [(key, found[key]) for key in keys if key in found]
        return _oddest_first(chosen) if by is SampleBy.ODDEST else chosen[:SHOWN]

    found = workbench.with_collection(collection_name, work)
    return [Sample(key, " ".join(texts_of(value))) for key, value in found]


def _keys_by_chance(opened: OpenCollection, seed: int, count: int) -> list[str]:
    sizes = np.array([live.slab.record_count for live in opened.slabs])
    bounds = np.cumsum(sizes)
    if bounds[-1] == 0:
        return []
    # Some of the chosen may be dead.
    wanted = min(2 * count, int(bounds[-1]))
    chosen = np.random.default_rng(seed).choice(int(bounds[-1]), size=wanted, replace=False)
    keys: list[str] = []
    for slab, place in zip(np.searchsorted(bounds, chosen, side="right").tolist(), chosen.tolist(), strict=True):
        live = opened.slabs[slab]
        record_id = place - int(bounds[slab] - sizes[slab])
        if live.lives(record_id):
            keys.append(live.slab.keys.term(record_id))
    return keys[:count]


def _oddest_first(chosen: Sequence[tuple[str, Any]]) -> list[tuple[str, Any]]:
    """Those with odd characters first, then those whose characters are seldom in the others."""
    texts = [" ".join(texts_of(value)) for _, value in chosen]
    counts: dict[str, int] = {}
    for text in texts:
        for character in set(text):
            counts[character] = counts.get(character, 0) + 1

    def oddity(place: int) -> tuple[int, float]:
        text = texts[place]
        rarest = sum(sorted((1 / counts[character] for character in set(text)), reverse=True)[:5])
        return -len(oddities_of(text)), -rarest

    return [chosen[place] for place in sorted(range(len(texts)), key=lambda place: (*oddity(place), place))[:SHOWN]]
