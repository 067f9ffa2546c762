"""Collections ready for visitors: while newer records are made ready, they are answered from the former ones."""

from collections.abc import Hashable
from dataclasses import dataclass, field
from threading import Lock
from time import monotonic
from typing import Final

import structlog
from cachetools import TTLCache

from pale_harbor.core.ranking import Ranker
from pale_harbor.errors import HarborError, RecordsChanged, Unavailable
from pale_harbor.store.collections.collections import Collection
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.correcting import words_of
from pale_harbor.work.running.aside import Told, UnderWay
from pale_harbor.work.workbench import Workbench

# A ranker that nobody asked by for so long need not be ready when the records change.
_ASKED_WITHIN_S: Final = 600.0
# Where nothing is ready yet, so long is waited for it.
PATIENCE_S: Final = 20.0
_SECONDS_AFTER_FAILING: Final = 5.0


@dataclass(frozen=True, slots=True, eq=False)
class AskedBy:
    """A ranker that visitors ask by. name: another one with another recipe."""

    name: Hashable
    ranker: Ranker


@dataclass(slots=True)
class _Ready:
    """A collection as it was opened, and the names of the rankers that it is ready for."""

    opened: OpenCollection
    names: set[Hashable] = field(default_factory=set[Hashable])


class ReadyCollections:
    """Opened collections with whatever the rankers need that visitors ask by. Safe to use from several threads."""

    def __init__(self, bench: Workbench) -> None:
        self._bench = bench
        self._ready: dict[int, _Ready] = {}
        # By collection, each ranker with when it was asked by last.
        self._asked: dict[int, dict[Hashable, tuple[AskedBy, float]]] = {}
        self._failed: TTLCache[Hashable, bool] = TTLCache(1_000, _SECONDS_AFTER_FAILING)
        self._lock = Lock()

    def opened(self, collection: Collection, by: AskedBy, patience_s: float = PATIENCE_S) -> OpenCollection:
        """The collection as it stands, or as it stood before its records changed for as long as it takes to make the
        new ones ready.

        Raises Unavailable where nothing is ready yet and it takes longer than somebody waits.
        """
        there = self.at_once(collection, by)
        if there is not None:
            return there
        with self._lock:
            ready = self._ready.get(collection.id)
        if ready is None or by.name not in ready.names:
            return self._made_ready(collection, patience_s)
        return self._made_ready(collection, 0.0, instead=ready.opened)

    def at_once(self, collection: Collection, by: AskedBy) -> OpenCollection | None:
        """The collection as it stands, None where that is not ready."""
        with self._lock:
            self._note(collection.id, by)
            ready = self._ready.get(collection.id)
            if ready is None or by.name not in ready.names or not _is_of(ready.opened, collection):
                return None
            return ready.opened

    def renewed(self, collection: Collection, patience_s: float = PATIENCE_S) -> OpenCollection:
        """The collection as it stands, waited for: what was ready cannot be read any more. Raises as `opened`."""
        with self._lock:
            self._ready.pop(collection.id, None)
        return self._made_ready(collection, patience_s)

    def _note(self, collection_id: int, by: AskedBy) -> None:
        now = monotonic()
        asked = self._asked.setdefault(collection_id, {})
        asked[by.name] = by, now
        if len(asked) > 1:
            for old in [name for name, (_, at) in asked.items() if now - at > _ASKED_WITHIN_S]:
                del asked[old]

    def _made_ready(
        self, collection: Collection, patience_s: float, instead: OpenCollection | None = None
    ) -> OpenCollection:
        """Made ready aside, once however many wait for it. instead: what is answered from where nobody waits."""
        with self._lock:
            wanted = [by for by, _ in self._asked.get(collection.id, {}).values()]
        name = ("ready", collection.uid, collection.revision, frozenset(by.name for by in wanted))

        def make(told: Told) -> OpenCollection:
            def ready(opened: OpenCollection) -> OpenCollection:
                for number, by in enumerate(wanted):
                    told("making the records ready", number, len(wanted))
                    opened.make_ready(by.ranker)
                    if by.ranker.corrections is not None:
                        words_of(opened, by.ranker)
                return opened

            try:
                opened = ready(self._bench.opened_as(collection))
            except RecordsChanged:
                if instead is not None:
                    raise
                # Nothing is ready to answer from meanwhile: as they stand now, held still where they keep changing.
                opened = self._bench.with_collection(collection.name, ready)
            with self._lock:
                self._ready[collection.id] = _Ready(opened, {by.name for by in wanted})
            return opened

        if instead is not None and self._failed.get(name) is not None:
            return instead
        try:
            made = self._bench.memory.aside.made(name, make, patience_s, to_the_end=True)
        except HarborError as error:
            # What is ready serves on; after a while it is tried once more.
            if instead is not None:
                self._failed[name] = True
                structlog.get_logger().warning("not made ready", collection=collection.name, reason=str(error))
                return instead
            if isinstance(error, RecordsChanged):
                raise Unavailable(f'The records of "{collection.name}" keep changing. Ask again in a while.') from error
            raise
        if not isinstance(made, UnderWay):
            return made
        if instead is not None:
            return instead
        raise Unavailable(
            f'"{collection.name}" is being made ready, for {made.elapsed_s:.0f} s now. Ask again in a while.'
        )


def _is_of(opened: OpenCollection, collection: Collection) -> bool:
    """Whether it is as new: whoever asks may have looked up the collection a moment ago."""
    kept = opened.collection
    return kept.uid == collection.uid and kept.revision >= collection.revision
