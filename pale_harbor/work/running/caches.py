"""What is kept in memory because making it again takes time: bounded in bytes, the least recently used let go first.

Each cache has a name and a budget, and tells what it holds: `Memory.state` is the server's state line.
"""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from threading import Lock, RLock
from typing import Any, Final, Generic, TypeVar

from cachetools import LRUCache

from pale_harbor.core.fields import FieldColumn
from pale_harbor.core.index import ReadingIndex
from pale_harbor.core.measures import TypedKeys
from pale_harbor.core.ranking import LookedUp
from pale_harbor.core.ranking.remembered import HeldWords, ReadingFound
from pale_harbor.core.vectors import Groups, VectorTable
from pale_harbor.work.running.aside import Aside
from pale_harbor.work.running.wanted import held_while_wanted

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")

MEGABYTE: Final = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class CacheState:
    """What a cache holds, and what for. found, made: how often something was there, and how often not."""

    name: str
    holds: str
    values: int
    held_bytes: int
    budget_bytes: int
    found: int
    made: int


class _ByFirst(LRUCache[K, V]):
    """by_first: of keys that are tuples, those that begin alike."""

    def __init__(self, maxsize: float, getsizeof: Callable[[V], float]) -> None:
        super().__init__(maxsize, getsizeof)
        self.by_first: dict[Hashable, set[K]] = {}

    def __setitem__(self, key: K, value: V) -> None:
        super().__setitem__(key, value)
        if isinstance(key, tuple):
            self.by_first.setdefault(key[0], set()).add(key)

    def __delitem__(self, key: K) -> None:
        super().__delitem__(key)
        if isinstance(key, tuple):
            alike = self.by_first[key[0]]
            alike.discard(key)
            if not alike:
                del self.by_first[key[0]]


class Cache(Generic[K, V]):
    """Values by key, at most `budget_bytes` of them; safe to use from several threads.

    A value that is larger than the budget is kept as the only one.
    """

    def __init__(self, name: str, holds: str, budget_bytes: int, size_bytes: Callable[[V], int]) -> None:
        self.name, self.holds, self.budget_bytes = name, holds, budget_bytes
        self._size_bytes = size_bytes
        self._kept: _ByFirst[K, tuple[V, int]] = _ByFirst(budget_bytes, lambda kept: min(kept[1], budget_bytes))
        self._lock = RLock()
        self._making: dict[K, tuple[Lock, int]] = {}
        self._found = self._made = 0

    def get(self, key: K) -> V | None:
        """What is kept under a key, None where nothing is."""
        with self._lock:
            kept = self._kept.get(key)
            self._found += kept is not None
            return None if kept is None else kept[0]

    def get_or_make(self, key: K, make: Callable[[], V]) -> V:
        """What is kept under a key, made where it is not. Whoever asks while it is being made waits for it.

        Raises Cancelled where nobody waits for whoever waits.
        """
        found = self.get(key)
        if found is not None:
            return found
        with self._lock:
            lock, waiting = self._making.get(key, (Lock(), 0))
            self._making[key] = lock, waiting + 1
        try:
            with held_while_wanted(lock):
                found = self.get(key)
                if found is None:
                    found = make()
                    self.put(key, found)
                return found
        finally:
            with self._lock:
                lock, waiting = self._making.pop(key)
                if waiting > 1:
                    self._making[key] = lock, waiting - 1

    def put(self, key: K, value: V) -> None:
        """Keeps a value; also to be called when one that is kept has grown."""
        size = self._size_bytes(value)
        with self._lock:
            self._made += key not in self._kept
            self._kept[key] = value, size

    def let_go(self, gone: Callable[[K], bool]) -> None:
        """Lets go of everything whose key is gone."""
        with self._lock:
            for key in [key for key in self._kept if gone(key)]:
                del self._kept[key]

    def let_go_of(self, first: Hashable) -> None:
        """Lets go of everything whose key is a tuple that begins so, without looking at what is not."""
        with self._lock:
            for key in list(self._kept.by_first.get(first, ())):
                del self._kept[key]

    def held_keys(self) -> list[K]:
        """The keys that something is kept under."""
        with self._lock:
            return list(self._kept)

    def state(self) -> CacheState:
        """How much it holds, and what for."""
        with self._lock:
            return CacheState(
                name=self.name,
                holds=self.holds,
                values=len(self._kept),
                held_bytes=sum(size for _, size in self._kept.values()),
                budget_bytes=self.budget_bytes,
                found=self._found,
                made=self._made,
            )


# A slab by its folder, and what of it.
SlabKey = tuple[str, Any]
# A collection as it was opened, and what of it.
StateKey = tuple[str, Any]


class Memory:
    """The caches of one process, which share a budget. Mapped index files count apart: the system lets go of them.

    budget_bytes: what may be held in memory; mapped_bytes: of index files that are open; disk_bytes: of index files
    on disk.
    """

    def __init__(
        self,
        budget_bytes: int = 1_000 * MEGABYTE,
        mapped_bytes: int = 32_000 * MEGABYTE,
        disk_bytes: int = 20_000 * MEGABYTE,
    ) -> None:
        self.disk_bytes = disk_bytes
        self.aside = Aside()

        def share(percent: int) -> int:
            return budget_bytes * percent // 100

        self.indexes: Cache[SlabKey, tuple[ReadingIndex, int]] = Cache(
            "indexes", "index files that were opened", mapped_bytes, lambda kept: kept[0].index_bytes
        )
        self.columns: Cache[SlabKey, FieldColumn] = Cache(
            "columns", "fields for filters, facets and signals", share(9), lambda column: column.size_bytes
        )
        self.orders: Cache[SlabKey, Any] = Cache("orders", "fields and orders for equal scores", share(7), _order_bytes)
        self.signals: Cache[StateKey, list[Any]] = Cache(
            "signals", "signals by record", share(3), lambda values: sum(one.nbytes for one in values)
        )
        self.vectors: Cache[SlabKey, tuple[str, VectorTable, int]] = Cache(
            "vectors", "vectors of spaces", share(13), lambda kept: kept[1].size_bytes
        )
        self.groups: Cache[SlabKey, Groups] = Cache(
            "groups", "groups of vectors that were opened", mapped_bytes, lambda groups: groups.size_bytes
        )
        self.looked_up: Cache[StateKey, LookedUp] = Cache(
            "looked up", "queries as they were looked up", share(7), lambda found: found.size_bytes
        )
        self.found_by_readings: Cache[StateKey, HeldWords | ReadingFound] = Cache(
            "found by readings", "what single readings found of queries", share(2), lambda found: found.size_bytes
        )
        self.sheets: Cache[StateKey, Any] = Cache(
            "sheets", "score sheets of judged sets", share(6), lambda sheet: sheet.size_bytes
        )
        self.lists: Cache[StateKey, list[Any]] = Cache(
            "lists", "the nearest records of queries in spaces", share(3), lambda rows: 120 * len(rows) + 200
        )
        self.typed: Cache[StateKey, TypedKeys] = Cache(
            "typed", "lists on the way to judged queries, letter by letter", share(1), _typed_bytes
        )
        self.record_terms: Cache[StateKey, Any] = Cache(
            "record terms", "terms of records that feedback read", share(2), lambda terms: 200 + 100 * len(terms)
        )
        self.query_vectors: Cache[Hashable, Any] = Cache(
            "query vectors",
            "vectors of queries in spaces",
            share(3),
            lambda vector: getattr(vector, "nbytes", 200) + 200,
        )
        self.word_vectors: Cache[Hashable, tuple[list[str], Any]] = Cache(
            "word vectors", "texts word by word, for second stages", share(5), lambda made: made[1].nbytes + 200
        )
        self.completions: Cache[StateKey, Any] = Cache(
            "completions", "suggestions", share(9), lambda kept: kept.size_bytes
        )
        # Apart from suggestions: a page asks for both at every query, each takes long to make, and of a large
        # collection both together may be more than a share.
        self.correction_words: Cache[StateKey, Any] = Cache(
            "correction words", "words for corrections", share(8), lambda kept: kept.size_bytes
        )
        self.questions: Cache[Hashable, Any] = Cache(
            "questions", "queries as rules and signs make them", share(1), lambda _: 3_000
        )
        self.judged: Cache[Hashable, Any] = Cache(
            "judged sets", "queries and grades of a revision", share(2), lambda judged: judged.size_bytes
        )
        self.figures: Cache[Hashable, Any] = Cache(
            "figures", "what frozen runs were measured at", share(1), lambda figures: figures.size_bytes
        )
        self.values: Cache[Hashable, Any] = Cache(
            "values", "measures of lists that turned knobs gave", share(2), lambda values: values.size_bytes
        )
        self.profiles: Cache[Hashable, Any] = Cache(
            "profiles", "fields at a glance", share(2), lambda profile: 20_000 * len(profile.fields)
        )
        self.readings: Cache[Hashable, Any] = Cache(
            "readings of collections", "what chains do to whole collections", share(1), _reading_bytes
        )
        self.rankers: Cache[Hashable, Any] = Cache("rankers", "rankers with their chains", share(1), lambda _: 50_000)
        # As JSON, which takes a quarter of what it takes when it is read.
        self.records: Cache[StateKey, bytes] = Cache(
            "records", "records that visitors were shown", share(6), lambda values: 400 + len(values)
        )
        self.answers: Cache[StateKey, Any] = Cache(
            "answers", "pages of lists as visitors were given them", share(5), lambda kept: kept.size_bytes
        )
        self.standings: Cache[Hashable, Any] = Cache(
            "standings", "how collections stood when they were searched last", share(1), lambda _: 5_000
        )

    def forget_folder(self, folder: str) -> None:
        """Lets go of all that is of slabs in a folder."""
        for cache in (self.indexes, self.columns, self.orders, self.vectors, self.groups):
            cache.let_go(lambda key: key[0].startswith(folder))

    def forget_state(self, state: str) -> None:
        """Lets go of all that is of a collection as it was opened once."""
        for cache in (
            self.looked_up,
            self.found_by_readings,
            self.sheets,
            self.lists,
            self.typed,
            self.signals,
            self.record_terms,
            self.completions,
            self.correction_words,
            self.records,
            self.answers,
        ):
            cache.let_go_of(state)

    def forget_all(self) -> None:
        """Lets go of all that is kept to be quick."""
        for cache in self._caches():
            # Mapped files take no memory that is short.
            if cache is not self.indexes and cache is not self.groups:
                cache.let_go(lambda _: True)

    def _caches(self) -> list[Cache[Any, Any]]:
        return [one for one in vars(self).values() if isinstance(one, Cache)]

    def state(self) -> list[CacheState]:
        """What is held and what for, the most first."""
        return sorted((one.state() for one in self._caches()), key=lambda state: (-state.held_bytes, state.name))


def record_bytes(field_values: dict[str, Any]) -> int:
    """About what a record takes up: its texts, and for each value what holds it."""
    values = [one for value in field_values.values() for one in (value if isinstance(value, list) else [value])]
    return 300 + sum(80 + 2 * len(str(one)) for one in values)


def _typed_bytes(typed: TypedKeys) -> int:
    return 200 + sum(80 + 70 * len(keys) for keys in typed.lists)


def _order_bytes(kept: Any) -> int:
    # A list of values: numbers and short texts.
    return kept.nbytes if hasattr(kept, "nbytes") else 64 * len(kept)


def _reading_bytes(reading: Any) -> int:
    # Examples, and every word and term with its count: a short text, a number and their place in a dictionary.
    shown = reading.consequences
    examples = len(shown.most_merged) + len(shown.suspicious) + len(shown.dropped)
    return 20_000 + 400 * examples + 150 * (len(reading.surfaces) + len(reading.term_records))
