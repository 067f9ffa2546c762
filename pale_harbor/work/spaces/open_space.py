"""A space opened for work: its vectors by slab, vectors of queries and words, and which passage a vector is of."""

import hashlib
import json
import time
from collections.abc import Callable, Generator, Hashable, Iterable, Sequence
from contextlib import AbstractContextManager, contextmanager
from copy import copy
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any, Final, Protocol
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray
from psycopg import Connection
from psycopg.conninfo import make_conninfo

from pale_harbor import __version__
from pale_harbor.core.ranking import Alive
from pale_harbor.core.text import Chain
from pale_harbor.core.vectors import (
    FEWEST_GROUPED,
    Fault,
    Groups,
    LearnedSpace,
    Similarity,
    VectorTable,
    faults_of,
    grouped,
    vector_table,
)
from pale_harbor.errors import Cancelled, HarborError, Unavailable
from pale_harbor.formats.index_files import write_groups, write_table
from pale_harbor.formats.learned_files import learned_of_bytes
from pale_harbor.formats.space_document import (
    BroughtSource,
    LearnedSource,
    PackagedSource,
    ServiceSource,
    SpaceDocument,
    space_document,
)
from pale_harbor.formats.static_vectors import packaged_vectors
from pale_harbor.store.collections.collections import Collection, fields_of
from pale_harbor.store.database import Pool, in_one_state, open_pool
from pale_harbor.store.records.records import Record, records_with_keys
from pale_harbor.store.spaces.spaces import Space, learned_content
from pale_harbor.store.spaces.vectors import faults_named, keep_vectors, names_known, vectors_named
from pale_harbor.work.chains.saved_parts import SavedParts
from pale_harbor.work.collections.live_slab import LiveSlab
from pale_harbor.work.collections.slab import read_slab, vectors_folder
from pale_harbor.work.collections.slab_values import check_revision
from pale_harbor.work.running.aside import Told, UnderWay
from pale_harbor.work.running.caches import Memory
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.running.processes import Errand, Processes
from pale_harbor.work.spaces.embedding_service import EmbeddingService
from pale_harbor.work.spaces.grouping import MakingGroups, make_groups
from pale_harbor.work.spaces.texts import WHOLE, Covered, PassagePlace, covered_by, name_of_text

Vector = NDArray[np.float32]
# While a table is made: how many records more are done. May raise, to end it.
Follow = Callable[[int], None]
RecordsAsOpened = Callable[[], AbstractContextManager[Connection[Any]]]

# Vectors of fewer records are made before another process has read its first one.
MADE_ELSEWHERE: Final = 2_000
_RECORDS_AT_ONCE: Final = 1_000


@dataclass(frozen=True, slots=True)
class NoVector:
    """Why there is no vector, in words. failed: whether there might have been one, had all gone well."""

    reason: str
    failed: bool = False


class VectorMaker(Protocol):
    """Makes vectors of texts out of nothing but the texts."""

    @property
    def dimensions(self) -> int:
        """How many numbers a vector has."""
        ...

    def vectors_of(self, texts: Sequence[str]) -> Vector:
        """float32 (texts, dimensions), zeros where a text says nothing."""
        ...

    def word_vectors(self, text: str) -> tuple[list[str], Vector]:
        """A text's words, each once, with their vectors."""
        ...


class LearnedMaker:
    """Folds texts into a learned space."""

    def __init__(self, space: LearnedSpace, chain: Chain) -> None:
        self.space, self.chain = space, chain

    @property
    def dimensions(self) -> int:
        return self.space.dimensions

    def vectors_of(self, texts: Sequence[str]) -> Vector:
        vectors = np.zeros((len(texts), self.dimensions), np.float32)
        for row, text in enumerate(texts):
            vectors[row] = self.space.folded_in([token.text for token in self.chain.run(text)])
        return vectors

    def word_vectors(self, text: str) -> tuple[list[str], Vector]:
        words = list(dict.fromkeys(token.text for token in self.chain.run(text)))
        known = [word for word in words if word in self.space.numbers]
        rows = [self.space.directions[self.space.numbers[word]] for word in known]
        return known, np.array(rows, np.float32).reshape(-1, self.dimensions)


# Learned models by what database they are of; reading one anew for each search would be felt.
_MAKERS: "WeakKeyDictionary[Pool, dict[tuple[int, int], LearnedMaker]]" = WeakKeyDictionary()


class OpenedSlabs(Protocol):
    """What a space needs of an opened collection: its slabs, where their vectors are kept, and its records."""

    slabs: tuple[LiveSlab, ...]
    collection: Collection
    processes: Processes | None

    def vectors(self, slab: int, space_id: int, state: str, make: Callable[[Path], None]) -> VectorTable:
        """The vectors of a space in one slab. Raises RecordsChanged."""
        ...

    def groups(self, slab: int, space_id: int, state: str, table: VectorTable, make: Callable[[Path], None]) -> Groups:
        """The groups of a space's vectors in one slab."""
        ...

    def records_as_opened(self) -> AbstractContextManager[Connection[Any]]:
        """A connection that sees the records as they were opened. Raises RecordsChanged."""
        ...


class OpenSpace:
    """A space in one state of its vectors; safe to use from several threads."""

    def __init__(self, pool: Pool, space: Space, memory: Memory) -> None:
        self.pool = pool
        self.space = space
        self.memory = memory
        self.document: SpaceDocument = space_document(space.document)
        self._hurry: Hurry | None = None
        with pool.connection() as connection:
            self.covered: Covered = covered_by(self.document, fields_of(connection, space.collection_id))

    @property
    def name(self) -> str:
        """What it is called."""
        return self.space.name

    @property
    def similarity(self) -> Similarity:
        """How vectors are compared."""
        return self.document.similarity

    @property
    def dimensions(self) -> int:
        """How many numbers a vector has, None before it is filled."""
        return self.space.dimensions or 0

    @property
    def is_filled(self) -> bool:
        """Whether records can be compared in it."""
        return self.space.model is not None

    @property
    def is_made_here(self) -> bool:
        """Whether its vectors follow from texts alone, so that nothing needs to be kept."""
        return isinstance(self.document.source, LearnedSource | PackagedSource)

    @cached_property
    def table_key(self) -> str:
        """Names the vectors of a slab: whatever they depend on beside the slab's records."""
        # Vectors that are kept change with every filling; others follow from the model alone.
        kept = self.space.revision if not self.is_made_here else 0
        rules = [repr(rule) for rule in self.covered.rules]
        content = json.dumps([self.space.epoch, kept, self.space.document, rules, self.space.model, __version__])
        return hashlib.sha256(content.encode()).hexdigest()[:24]

    @cached_property
    def maker(self) -> VectorMaker | None:
        """What makes vectors of texts here; None where they come from outside."""
        match self.document.source:
            case PackagedSource():
                return packaged_vectors()
            case LearnedSource(chain=notation):
                return self._learned(notation)
            case _:
                return None

    def _learned(self, notation: str) -> LearnedMaker | None:
        makers = _MAKERS.setdefault(self.pool, {})
        key = (self.space.id, self.space.epoch)
        if key not in makers:
            with self.pool.connection() as connection:
                content = learned_content(connection, self.space.id, self.space.epoch)
                if content is None:
                    return None
                chain = SavedParts(connection, self.space.collection_id).chain(notation)
            for old in [one for one in makers if one[0] == self.space.id]:
                del makers[old]
            makers[key] = LearnedMaker(learned_of_bytes(content), chain)
        return makers[key]

    def table(self, opened: OpenedSlabs, slab: int, progress: Follow | None = None) -> VectorTable:
        """The vectors of one slab's records: from memory, from files, or made now. Raises RecordsChanged."""

        def make(folder: Path) -> None:
            self._make(opened, opened.slabs[slab], folder, progress or (lambda _more: None))

        table = opened.vectors(slab, self.space.id, self.table_key, make)
        table.make_ready(self.similarity)
        return table

    def is_grouped(self, opened: OpenedSlabs) -> bool:
        """Whether some slab has vectors enough for groups. Raises RecordsChanged."""
        return any(self.table(opened, slab).owners.size >= FEWEST_GROUPED for slab in range(len(opened.slabs)))

    def groups(self, opened: OpenedSlabs, slab: int) -> Groups | None:
        """The groups of one slab's vectors; None where there are too few for it. Raises RecordsChanged, Unavailable."""
        table = self.table(opened, slab)
        if table.owners.size < FEWEST_GROUPED:
            return None
        live = opened.slabs[slab]

        def make(folder: Path) -> None:
            making = MakingGroups(
                vectors=vectors_folder(live.slab.folder, self.space.id, self.table_key),
                record_count=live.slab.record_count,
                similarity=self.similarity,
                folder=folder,
            )
            if opened.processes is None:
                write_groups(folder, grouped(table, self.similarity))
            else:
                opened.processes.run(make_groups, making)

        return opened.groups(slab, self.space.id, self.table_key, table, make)

    def within(self, hurry: Hurry) -> "OpenSpace":
        """The same space for an answer that is due: a service that does not answer by then is not waited for."""
        pressed = copy(self)
        pressed._hurry = hurry
        return pressed

    def query_vector(self, text: str) -> Vector | NoVector:
        """The vector of a query, or in words why there is none. Raises nothing: a list without it is a list too."""
        text = text.strip()
        if not self.is_filled:
            return NoVector(f'The space "{self.name}" has no vectors yet.')
        if not text:
            return NoVector("")
        name = (self.space.id, self.space.identity, text)
        try:
            if self._hurry is None or not isinstance(self.document.source, ServiceSource):
                return self.memory.query_vectors.get_or_make(name, lambda: self._query_vector(text))
            return self._vector_in_time(name, text, self._hurry)
        except HarborError as error:
            # Not remembered: the next one may be luckier.
            return NoVector(f'The space "{self.name}" could not be asked: {error}', failed=True)

    def _vector_in_time(self, name: Hashable, text: str, hurry: Hurry) -> Vector | NoVector:
        """The vector, if the service gives it in time; where it comes later it is there for the next one who asks."""
        known = self.memory.query_vectors.get(name)
        if known is not None:
            return known

        def make(_told: Told) -> Vector | NoVector:
            return self.memory.query_vectors.get_or_make(name, lambda: self._query_vector(text))

        made = self.memory.aside.made(("query vector", name), make, hurry.seconds_left())
        if isinstance(made, UnderWay):
            hurry.leave_out(f"space {self.name}")
            return NoVector(f'The space "{self.name}" did not answer in time.', failed=True)
        return made

    def ask_ahead(self, texts: Sequence[str]) -> None:
        """Gets the vectors of many queries at once, where a service makes them. Raises ServiceFailed."""
        source = self.document.source
        if not isinstance(source, ServiceSource) or not self.is_filled:
            return
        names = {name_of_text(text): text for text in (one.strip() for one in texts) if text}
        with self.pool.connection() as connection:
            known = names_known(connection, self.space.id, "query", list(names))
        wanted = [name for name in names if name not in known]
        with EmbeddingService(source, time.sleep) as service:
            for start in range(0, len(wanted), source.batch):
                some = wanted[start : start + source.batch]
                made = service.vectors(
                    [names[name] for name in some], "queries", self.space.model or "", self.dimensions
                )
                usable = {name: one for name, one in zip(some, made, strict=True) if not isinstance(one, Fault)}
                with self.pool.connection() as connection:
                    keep_vectors(connection, self.space.id, "query", usable)

    def word_vectors(self, text: str) -> tuple[list[str], Vector] | None:
        """A text's words with their vectors; None where the space knows none of single words."""
        maker = self.maker
        if maker is None:
            return None
        name = (self.space.id, self.space.identity, name_of_text(text))
        return self.memory.word_vectors.get_or_make(name, lambda: maker.word_vectors(text))

    def _query_vector(self, text: str) -> Vector | NoVector:
        if self.maker is not None:
            vector = self.maker.vectors_of([text])[0]
            return vector if vector.any() else NoVector(f'The space "{self.name}" knows no word of this query.')
        name = text if isinstance(self.document.source, BroughtSource) else name_of_text(text)
        with self.pool.connection() as connection:
            known = vectors_named(connection, self.space.id, "query", [name]).get(name)
        if known is not None:
            return known
        if not isinstance(self.document.source, ServiceSource):
            return NoVector(f'Nobody has brought a vector of this query to the space "{self.name}".')
        # A visitor waits: no second try.
        once = self.document.source.model_copy(update={"tries": 1})
        with EmbeddingService(once, time.sleep) as service:
            (vector,) = service.vectors([text], "queries", self.space.model or "", self.dimensions)
        if isinstance(vector, Fault):
            raise Unavailable("its vector of this query cannot be used.")
        with self.pool.connection() as connection:
            keep_vectors(connection, self.space.id, "query", {name: vector})
        return vector

    def _make(self, opened: OpenedSlabs, live: LiveSlab, folder: Path, progress: Follow) -> None:
        """Writes the vectors of a slab: in a process of its own where there are any and it is worth it."""
        if opened.processes is None or live.slab.record_count < MADE_ELSEWHERE:
            write_table(folder, self.made(live, opened.records_as_opened, progress))
            return
        done = 0

        def follow(step: int) -> None:
            nonlocal done
            progress(step - done)
            done = step

        wanted = MakingVectors(
            space=self.space, collection=opened.collection, slab=live.slab.folder, alive=live.alive, folder=folder
        )
        opened.processes.run_followed(follow, make_vectors, wanted)

    def made(self, live: LiveSlab, records_as_opened: RecordsAsOpened, progress: Follow) -> VectorTable:
        """The vectors of a slab's living records."""
        living = [(record_id, key) for record_id, key in enumerate(live.slab.keys) if live.lives(record_id)]
        owners: list[int] = []
        blocks: list[Vector] = []
        places: list[PassagePlace] = []
        faulty: list[tuple[int, int]] = []
        for start in range(0, len(living), _RECORDS_AT_ONCE):
            some = living[start : start + _RECORDS_AT_ONCE]
            with records_as_opened() as connection:
                records = records_with_keys(connection, self.space.collection_id, [key for _, key in some])
            pieces = self._pieces([(record_id, records[key]) for record_id, key in some if key in records])
            rows: list[Vector] = []
            faults: dict[int, Fault] = {}
            for record_id, place, vector in pieces:
                if isinstance(vector, Fault):
                    faults.setdefault(record_id, vector)
                else:
                    owners.append(record_id)
                    places.append(place)
                    rows.append(vector)
            blocks += [np.array(rows, np.float32)] if rows else []
            faulty += sorted(faults.items())
            progress(len(some))
        return vector_table(live.slab.record_count, self.dimensions, owners, blocks, places, faulty)

    def _pieces(self, records: Sequence[tuple[int, Record]]) -> Iterable[tuple[int, PassagePlace, Vector | Fault]]:
        """Every text of some records with its vector, or what is wrong with it."""
        source = self.document.source
        if isinstance(source, BroughtSource):
            yield from self._brought(records, source)
            return
        read = [(record_id, self.covered.pieces(record.field_values)) for record_id, record in records]
        texts = list(dict.fromkeys(piece.text for _, pieces in read for piece in pieces))
        vectors = self._vectors_of(texts)
        for record_id, pieces in read:
            if not pieces:
                yield record_id, WHOLE, Fault.NOTHING_TO_READ
            for piece in pieces:
                yield record_id, piece.place, vectors[piece.text]

    def _brought(
        self, records: Sequence[tuple[int, Record]], source: BroughtSource
    ) -> Iterable[tuple[int, PassagePlace, Vector | Fault]]:
        if source.field is None:
            with self.pool.connection() as connection:
                found = vectors_named(connection, self.space.id, "record", [record.key for _, record in records])
            for record_id, record in records:
                yield record_id, WHOLE, found.get(record.key, Fault.NOT_MADE)
            return
        for record_id, record in records:
            value = record.field_values.get(source.field)
            if value is None:
                yield record_id, WHOLE, Fault.NOT_MADE
                continue
            fault = faults_of([value], self.dimensions)[0]
            yield record_id, WHOLE, np.asarray(value, np.float32) if fault is None else fault

    def _vectors_of(self, texts: Sequence[str]) -> dict[str, Vector | Fault]:
        if self.maker is not None:
            made = self.maker.vectors_of(texts)
            return {text: row if row.any() else Fault.NO_KNOWN_WORD for text, row in zip(texts, made, strict=True)}
        names = {text: name_of_text(text) for text in texts}
        with self.pool.connection() as connection:
            known = vectors_named(connection, self.space.id, "text", list(names.values()))
            faults = faults_named(connection, self.space.id, "text", list(names.values()))
        return {text: known.get(name, Fault(faults.get(name, Fault.NOT_MADE))) for text, name in names.items()}


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class MakingVectors:
    """What is to be made: the vectors of a slab's records in a space, in the state that the space is in.

    slab: its folder; alive: as of LiveSlab; folder: where the vectors go.
    """

    space: Space
    collection: Collection
    slab: Path
    alive: Alive | None
    folder: Path


def make_vectors(connection: Connection[Any], errand: Errand, making: MakingVectors) -> None:
    """Makes vectors and writes them, telling how many records are done.

    Raises RecordsChanged, Cancelled once they are no longer wanted. Raises Unavailable where the slab's files
    cannot be read.
    """
    slab = read_slab(making.slab, Memory())
    if slab is None:
        raise Unavailable("The files of this collection are damaged. Try again: they are made anew.")
    done = 0

    def progress(more: int) -> None:
        nonlocal done
        done += more
        errand.came_to(done)
        if not errand.wanted():
            raise Cancelled("Nobody waits for these vectors any more.")

    # What is read beside the records must not wait for them.
    with open_pool(make_conninfo(connection.info.dsn, password=connection.info.password)) as pool:

        @contextmanager
        def records_as_opened() -> Generator[Connection[Any]]:
            with pool.connection() as own:
                in_one_state(own)
                check_revision(own, making.collection)
                yield own

        space = OpenSpace(pool, making.space, Memory())
        write_table(making.folder, space.made(LiveSlab(slab, making.alive), records_as_opened, progress))
