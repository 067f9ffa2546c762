"""Collections made of one for a while: a part of its records, or several times all of them; searched as any."""

import shutil
from collections.abc import Generator, Iterator
from contextlib import contextmanager
from itertools import chain, repeat
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import Mask
from pale_harbor.core.growing import grown_index
from pale_harbor.core.index import ReadingIndex, merged_index
from pale_harbor.core.ranking import Ranker
from pale_harbor.formats.index_files import write_index
from pale_harbor.work.collections.live_slab import LiveSlab
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.collections.slab import ValuesOf, index_folder, new_slab

# What is made is gone when the work is done; what a crash leaves is tidied up with the slabs that nobody knows.
_CALLED = "slab-growing-"


class GrownCollection(OpenCollection):
    """Several times the records of another collection, in one slab: copies of them, which nobody can look at."""

    def __init__(self, of: OpenCollection, live: LiveSlab, times: int) -> None:
        super().__init__(of.pool, of.folder, of.collection, [live], of.memory, None)
        self._of, self._times = of, times

    def _values(self, live: LiveSlab) -> ValuesOf:
        def values(field: str) -> Iterator[Any]:
            own = [
                value
                for number, slab in enumerate(self._of.slabs)
                for value, lives in zip(self._of.values(number, field), slab.living_mask, strict=True)
                if lives
            ]
            return chain.from_iterable(repeat(own, self._times))

        return values


@contextmanager
def grown_collection(opened: OpenCollection, ranker: Ranker, times: int) -> Generator[GrownCollection]:
    """So many times the records of a collection, with the indexes that a ranker reads."""
    with _folder(opened) as folder:
        count = opened.record_count * times
        digits = len(str(count))
        slab = new_slab(folder, [f"{number:0{digits}d}" for number in range(count)], opened.memory)
        for field, chosen in {(one.field, one.chain.identity): one for one in ranker.readings}.items():
            parts = opened.indexes(chosen.field, chosen.chain)
            own = [(index, live.living_mask) for index, live in zip(parts, opened.slabs, strict=True)]
            write_index(index_folder(folder, field), grown_index(_joined(own), times), lasting=False)
        yield GrownCollection(opened, LiveSlab(slab, None), times)


@contextmanager
def part_of_collection(opened: OpenCollection, keys: list[str]) -> Generator[OpenCollection]:
    """Some of a collection's records by their keys, in order, as a collection of its own with nothing built yet."""
    with _folder(opened) as folder:
        live = LiveSlab(new_slab(folder, keys, opened.memory), None)
        yield OpenCollection(opened.pool, opened.folder, opened.collection, [live], opened.memory, opened.processes)


def with_living(opened: OpenCollection, masks: list[Mask]) -> OpenCollection:
    """The same collection, of which these records alone live. masks: by slab, bool (records,)."""
    slabs = [LiveSlab(live.slab, mask & live.living_mask) for live, mask in zip(opened.slabs, masks, strict=True)]
    return OpenCollection(opened.pool, opened.folder, opened.collection, slabs, opened.memory, opened.processes)


@contextmanager
def _folder(opened: OpenCollection) -> Generator[Path]:
    folder = opened.folder / f"{_CALLED}{uuid4().hex[:12]}"
    try:
        yield folder
    finally:
        opened.memory.forget_folder(str(folder))
        shutil.rmtree(folder, ignore_errors=True)


def _joined(parts: list[tuple[ReadingIndex, Mask]]) -> ReadingIndex:
    """One index of what lives in several."""
    if len(parts) == 1 and parts[0][1].all():
        return parts[0][0]
    ids: list[NDArray[np.int32]] = []
    first = 0
    for index, living in parts:
        own = np.full(index.record_count, -1, np.int32)
        count = int(np.count_nonzero(living))
        own[living] = first + np.arange(count)
        first += count
        ids.append(own)
    return merged_index([(index, own) for (index, _), own in zip(parts, ids, strict=True)], first)
