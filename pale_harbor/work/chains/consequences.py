"""What a chain does to a collection: from a sample at once, and from all of it when that is read."""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from itertools import islice
from threading import Event, Lock
from typing import Final, Literal

import numpy as np

from pale_harbor.core.consequences import (
    AskedQuery,
    Consequences,
    Finding,
    Gathered,
    Gatherer,
    TrialRecords,
    findings_of,
)
from pale_harbor.core.text import Chain
from pale_harbor.errors import BadInput, Cancelled, HarborError, NotFound
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.judging.judged_sets import grades_of, queries_of, set_named, sets_of
from pale_harbor.store.records.records import field_values_of, record_count
from pale_harbor.store.running.jobs import Job, add_job, end_job, forget_finished, want_cancel
from pale_harbor.work.chains.whole_reading import Whole, read_elsewhere, read_whole
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.records.values import texts_of
from pale_harbor.work.running.caches import Cache
from pale_harbor.work.running.processes import ELSEWHERE_FROM, Followed, Here
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.running.worker import JobRunner, Progress
from pale_harbor.work.workbench import Workbench

# A sample is read within a second: so many records, and no more than so many letters.
SAMPLE_RECORDS: Final = 300
_SAMPLE_LETTERS: Final = 300_000
# Judged records on which mends are tried beside the sample.
_MOST_JUDGED: Final = 300
_JUDGED_LETTERS: Final = 300_000
_REMEMBERED: Final = 24

ReckoningKey = tuple[str, int, str, str]
ReckoningState = Literal["running", "done", "cancelled", "failed"]


@dataclass(kw_only=True)
class Reckoning:
    """The reading of a whole collection by one chain, under way or done. id: of its job.

    cancelled: set by whoever no longer wants it; ended: set when nothing more is read.
    """

    id: str
    key: ReckoningKey
    chain: Chain
    records_in_all: int
    results: Cache[Hashable, Gathered]
    records_read: int = 0
    cancelled: Event = field(default_factory=Event)
    ended: Event = field(default_factory=Event)
    finished: bool = False
    problem: str | None = None

    @property
    def result(self) -> Gathered | None:
        """The figures, once they are there and as long as they are kept."""
        return self.results.get(self.key) if self.finished else None

    @property
    def state(self) -> ReckoningState:
        """How it stands now."""
        if self.finished:
            return "done"
        if self.problem is not None:
            return "failed"
        return "cancelled" if self.cancelled.is_set() else "running"

    @property
    def told(self) -> "ReckoningTold":
        """How far it is now."""
        return ReckoningTold(
            id=self.id,
            state=self.state,
            records_read=self.records_read,
            records_in_all=self.records_in_all,
            problem=self.problem,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class ReckoningTold:
    """How far the reading of a whole collection is."""

    id: str
    state: ReckoningState
    records_read: int
    records_in_all: int
    problem: str | None


@dataclass(frozen=True, slots=True)
class ConsequencesTold:
    """The best figures there are now, what the chain doctor says, and the reckoning that gives the exact ones."""

    figures: Consequences
    findings: list[Finding]
    reckoning: ReckoningTold


class Reckonings:
    """Reads collections as jobs; remembers the latest results. One per process.

    runner: does the jobs; one of its own where it is None.
    """

    def __init__(self, workbench: Workbench, runner: JobRunner | None = None) -> None:
        self._workbench = workbench
        self.runner = runner or JobRunner(workbench.pool, {"reading": self.doing})
        self._known: OrderedDict[ReckoningKey, Reckoning] = OrderedDict()
        self._lock = Lock()

    def sample(self, collection_name: str, field_name: str, chain: Chain) -> Gathered:
        """What the chain does to some records from all over the collection, the same ones each time."""

        def work(opened: OpenCollection) -> Gathered:
            gatherer = Gatherer(chain)
            records = _sample(opened, field_name)
            gatherer.add(records)
            return gatherer.finished(opened.record_count)

        return self._workbench.with_collection(collection_name, work)

    def begin(self, collection_name: str, field_name: str, chain: Chain) -> Reckoning:
        """The exact reckoning of a chain: one that is known, or a new one in the background.

        What was begun for another chain on the same field is cancelled: nobody waits for it.
        """
        with self._workbench.pool.connection() as connection:
            collection = collection_named(connection, collection_name)
        key: ReckoningKey = (str(collection.uid), collection.revision, field_name, chain.identity)
        results = self._workbench.memory.readings
        kept = results.get(key)
        with self._lock:
            known = self._known.get(key)
            if known is not None and (known.state == "running" or (known.finished and kept is not None)):
                self._known.move_to_end(key)
                return known
            for other in self._known.values():
                if other.key[0] == key[0] and other.key[2] == field_name and other.state == "running":
                    other.cancelled.set()
            with self._workbench.pool.connection() as connection:
                forget_finished(connection, "reading", collection.id)
                details = {"field": field_name, "chain": chain.notation}
                job_id = add_job(connection, "reading", collection.id, by_server=True, details=details)
                in_all = record_count(connection, collection.id)
                if kept is not None:
                    end_job(connection, job_id, "done")
            made = Reckoning(
                id=str(job_id),
                key=key,
                chain=chain,
                records_in_all=in_all,
                results=results,
                records_read=in_all if kept else 0,
                finished=kept is not None,
            )
            self._known[key] = made
            while len(self._known) > _REMEMBERED:
                _, oldest = self._known.popitem(last=False)
                oldest.cancelled.set()
        if kept is None:
            self.runner.take(job_id, "reading")
        return made

    def find(self, reckoning_id: str) -> Reckoning:
        """A reckoning by its id. Raises NotFound."""
        with self._lock:
            found = next((one for one in self._known.values() if one.id == reckoning_id), None)
        if found is None:
            raise NotFound("These figures are no longer kept. Ask for them again.")
        return found

    def cancel(self, reckoning: Reckoning) -> None:
        """Ends a reading that nobody wants any more."""
        reckoning.cancelled.set()
        with self._workbench.pool.connection() as connection:
            want_cancel(connection, int(reckoning.id))

    def doing(self, job: Job, progress: Progress) -> None:
        """How a collection is read. What another server began is nobody's any more. Raises Cancelled, BadInput."""
        with self._lock:
            made = next((one for one in self._known.values() if one.id == str(job.id)), None)
        if made is None or job.collection_id is None:
            raise Cancelled("Nobody waits for these figures any more.")
        try:
            progress.begin("reading", made.records_in_all)
            with wanted_while(lambda: not made.cancelled.is_set()):
                made.results.put(made.key, self._read(made, job.collection_id, progress))
            made.finished = True
        except Cancelled:
            made.cancelled.set()
            raise
        except HarborError as error:
            made.problem = str(error)
            raise BadInput(str(error)) from error
        except Exception:
            # Whoever waits for the figures must be told; what it was is for the log alone.
            made.problem = "Something went wrong on our side; the server's log has the details."
            raise
        finally:
            made.ended.set()

    def _read(self, made: Reckoning, collection_id: int, progress: Progress) -> Gathered:
        def follow(step: int) -> None:
            progress.more(step - made.records_read)
            made.records_read = step

        _, revision, field_name, _ = made.key
        whole = Whole(
            collection_id=collection_id,
            revision=revision,
            records=made.records_in_all,
            field=field_name,
            chain=made.chain,
        )
        pool, processes, folder = self._workbench.pool, self._workbench.processes, self._workbench.index_folder
        if processes is not None and made.records_in_all >= ELSEWHERE_FROM:
            return read_elsewhere(pool, processes, follow, whole, folder)
        with pool.connection() as connection:
            return read_whole(connection, Followed(follow), whole)


def exact(workbench: Workbench, collection_name: str, field_name: str, chain: Chain) -> Gathered:
    """What the chain does to every record of a collection, reckoned now."""
    with workbench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        whole = Whole(
            collection_id=collection.id,
            revision=collection.revision,
            records=record_count(connection, collection.id),
            field=field_name,
            chain=chain,
        )
    with workbench.pool.connection() as connection:
        return read_whole(connection, Here(), whole)


def findings(
    workbench: Workbench,
    collection: Collection,
    field_name: str,
    chains: tuple[Chain, Chain],
    gathered: Gathered,
    *,
    chain_from: Callable[[str], Chain],
    query: str = "",
    judged_set: str | None = None,
) -> list[Finding]:
    """What the chain doctor says of a record chain and a query chain of a field.

    chain_from: makes a chain of a mend's notation, as these were made; judged_set: whose open queries are tried too,
    on records that were judged for them; the first one there is where it is None.
    """
    asked = [AskedQuery(None, query)] if query.strip() else []
    grades: dict[str, dict[str, int]] = {}
    with workbench.pool.connection() as connection:
        sets = [set_named(connection, collection.id, judged_set)] if judged_set else sets_of(connection, collection.id)
        for judged in sets[:1]:
            # What is locked is not looked at, by no way at all.
            opened = [one for one in queries_of(connection, judged.id) if not one.locked]
            asked += [AskedQuery(one.query_id, one.query) for one in opened]
            known = grades_of(connection, judged.id)
            grades = {one.query_id: known[one.query_id] for one in opened if one.query_id in known}

    def records_of(one: OpenCollection) -> list[tuple[str, list[str]]]:
        return _with_judged(one, field_name, _sample(one, field_name), grades)

    records = workbench.with_collection(collection.name, records_of)
    return findings_of(chains, asked, gathered, TrialRecords(records, grades), chain_from)


def _with_judged(
    opened: OpenCollection,
    field_name: str,
    sample: list[tuple[str, list[str]]],
    grades: Mapping[str, Mapping[str, int]],
) -> list[tuple[str, list[str]]]:
    """A sample with the records that were judged for queries, those with the best grades first, in order of keys."""
    best: dict[str, int] = {}
    for by_key in grades.values():
        for key, grade in by_key.items():
            best[key] = max(grade, best.get(key, 0))
    sampled = {key for key, _ in sample}
    wanted = sorted(best.keys() - sampled, key=lambda key: (-best[key], key))[:_MOST_JUDGED]
    with opened.pool.connection() as connection:
        values = field_values_of(connection, opened.collection.id, field_name, wanted)
    letters, judged = 0, list[tuple[str, list[str]]]()
    for key in wanted:
        texts = texts_of(values.get(key))
        letters += sum(map(len, texts))
        if letters > _JUDGED_LETTERS:
            break
        if texts:
            judged.append((key, texts))
    return sorted([*sample, *judged])


def _sample(opened: OpenCollection, field_name: str) -> list[tuple[str, list[str]]]:
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
