"""What a chain does to a collection: from a sample at once, and from all of it when that is read."""

from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import islice
from threading import Event, Lock
from typing import Any, Final
from uuid import uuid4

import numpy as np
import structlog

from pale_harbor.core.consequences import Asked, Consequences, Finding, Gatherer, findings_of
from pale_harbor.core.text import Chain
from pale_harbor.core.text.errors import ChainError
from pale_harbor.errors import HarborError, NotFound
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.judged_sets import queries_of, set_named, sets_of
from pale_harbor.store.records.records import field_values_of, keyed_field_values
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.collections.slab import texts_of
from pale_harbor.work.running.background import in_background
from pale_harbor.work.workbench import Workbench

# A sample is read within a second: so many records, and no more than so many letters.
SAMPLE_RECORDS: Final = 300
_SAMPLE_LETTERS: Final = 300_000
# Few enough that whoever cancels need not wait, and that a trace asked for meanwhile comes at once; many enough that
# what is done once for each distinct word of a batch is not done too often.
_RECORDS_AT_ONCE: Final = 4_000
_LETTERS_AT_ONCE: Final = 1_000_000
_REMEMBERED: Final = 24

Key = tuple[str, int, str, str]


@dataclass
class Reckoning:
    """The reading of a whole collection by one chain, under way or done.

    cancelled: set by whoever no longer wants it; ended: set when nothing more is read.
    """

    id: str
    key: Key
    chain: Chain
    records_in_all: int
    records_read: int = 0
    cancelled: Event = field(default_factory=Event)
    ended: Event = field(default_factory=Event)
    result: Consequences | None = None
    problem: str | None = None

    @property
    def state(self) -> str:
        if self.result is not None:
            return "done"
        if self.problem is not None:
            return "failed"
        return "cancelled" if self.cancelled.is_set() else "running"


class Reckonings:
    """Reads collections in the background; remembers the latest results. One per process."""

    def __init__(self, workbench: Workbench) -> None:
        self._workbench = workbench
        self._known: OrderedDict[Key, Reckoning] = OrderedDict()
        self._lock = Lock()

    def sample(self, collection_name: str, field_name: str, chain: Chain) -> Consequences:
        """What the chain does to some records from all over the collection, the same ones each time."""

        def work(opened: OpenCollection) -> Consequences:
            gatherer = Gatherer(chain)
            records = _sampled(opened, field_name)
            gatherer.add(records)
            return gatherer.finished(opened.record_count)

        return self._workbench.with_collection(collection_name, work)

    def begin(self, collection_name: str, field_name: str, chain: Chain) -> Reckoning:
        """The exact reckoning of a chain: one that is known, or a new one in the background.

        What was begun for another chain on the same field is cancelled: nobody waits for it.
        """
        with self._workbench.pool.connection() as connection:
            collection = collection_named(connection, collection_name)
        key: Key = (str(collection.uid), collection.revision, field_name, chain.identity)
        with self._lock:
            known = self._known.get(key)
            if known is not None and known.state in ("running", "done"):
                self._known.move_to_end(key)
                return known
            for other in self._known.values():
                if other.key[0] == key[0] and other.key[2] == field_name and other.state == "running":
                    other.cancelled.set()
            made = Reckoning(uuid4().hex, key, chain, 0)
            self._known[key] = made
            while len(self._known) > _REMEMBERED:
                _, oldest = self._known.popitem(last=False)
                oldest.cancelled.set()
        in_background("reckoning", lambda: self._reckon(made, collection, field_name))
        return made

    def find(self, reckoning_id: str) -> Reckoning:
        """A reckoning by its id. Raises NotFound."""
        with self._lock:
            found = next((one for one in self._known.values() if one.id == reckoning_id), None)
        if found is None:
            raise NotFound("These figures are no longer kept. Ask for them again.")
        return found

    def _reckon(self, made: Reckoning, collection: Collection, field_name: str) -> None:
        try:
            gatherer = Gatherer(made.chain)
            made.records_in_all = self._workbench.with_collection(collection.name, lambda one: one.record_count)
            with self._workbench.pool.connection() as connection:
                in_one_state(connection)
                values = keyed_field_values(connection, collection.id, field_name)
                for batch in _batches(values):
                    if made.cancelled.is_set():
                        return
                    gatherer.add(batch)
                    made.records_read = gatherer.records
            made.result = gatherer.finished(gatherer.records)
        except (HarborError, ChainError) as error:
            made.problem = str(error)
        except Exception as error:
            # Whatever it was, whoever waits for the figures must be told; what it was is for the log alone.
            made.problem = "Something went wrong on our side; the server's log has the details."
            structlog.get_logger().error("a chain could not be reckoned", chain=made.chain.notation, exc_info=error)
        finally:
            made.ended.set()


def exact(workbench: Workbench, collection_name: str, field_name: str, chain: Chain) -> Consequences:
    """What the chain does to every record of a collection, reckoned now."""
    gatherer = Gatherer(chain)
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        for batch in _batches(keyed_field_values(connection, collection.id, field_name)):
            gatherer.add(batch)
    return gatherer.finished(gatherer.records)


def findings(
    workbench: Workbench,
    collection: Collection,
    chains: tuple[Chain, Chain],
    query: str,
    judged_set: str | None,
    consequences: Consequences,
) -> list[Finding]:
    """What the chain doctor says of a record chain and a query chain.

    judged_set: whose queries are tried too; the first one there is where it is None.
    """
    asked = [Asked(None, query)] if query.strip() else []
    with workbench.pool.connection() as connection:
        sets = [set_named(connection, collection.id, judged_set)] if judged_set else sets_of(connection, collection.id)
        for judged in sets[:1]:
            asked += [Asked(one.query_id, one.query) for one in queries_of(connection, judged.id)]
    return findings_of(*chains, asked, consequences)


def _sampled(opened: OpenCollection, field_name: str) -> list[tuple[str, list[str]]]:
    """Records from all over the collection, chosen by chance that is the same each time."""
    keys: list[str] = []
    chance = np.random.default_rng(1907)
    for live in opened.slabs:
        share = round(SAMPLE_RECORDS * live.living / max(opened.record_count, 1)) or (1 if live.living else 0)
        ids = chance.permutation(live.slab.record_count)
        keys += [live.slab.keys.term(int(one)) for one in islice((i for i in ids if live.lives(int(i))), share)]
    with opened.pool.connection() as connection:
        values = field_values_of(connection, opened.collection.id, field_name, keys)
    records: list[tuple[str, list[str]]] = []
    letters = 0
    for key in sorted(keys):
        texts = texts_of(values.get(key))
        letters += sum(map(len, texts))
        if letters > _SAMPLE_LETTERS and records:
            break
        records.append((key, texts))
    return records


def _batches(values: Iterator[tuple[str, Any]]) -> Iterator[list[tuple[str, list[str]]]]:
    batch: list[tuple[str, list[str]]] = []
    letters = 0
    for key, value in values:
        texts = texts_of(value)
        batch.append((key, texts))
        letters += sum(map(len, texts))
        if len(batch) == _RECORDS_AT_ONCE or letters >= _LETTERS_AT_ONCE:
            yield batch
            batch, letters = [], 0
    if batch:
        yield batch
