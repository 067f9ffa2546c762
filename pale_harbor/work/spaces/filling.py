"""Fills a space: learns, asks a service, or reads what was brought; then every record gets its vectors.

What a service gave is kept batch by batch, so that a filling that was cut off, refused or cancelled goes on where it
stood. Counted first: what is to be asked of a service, and what that costs.
"""

import time
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Final

import numpy as np
import psycopg
import structlog

from pale_harbor.core.vectors import Fault
from pale_harbor.core.vectors.door import SAID
from pale_harbor.errors import BadInput, Cancelled, HarborError
from pale_harbor.formats.space_document import BroughtSource, LearnedSource, PackagedSource, ServiceSource
from pale_harbor.formats.static_vectors import packaged_vectors
from pale_harbor.store.collections.collections import collection_named, name_and_revision
from pale_harbor.store.records.records import all_records, record_count, sampled_records
from pale_harbor.store.running.jobs import Job
from pale_harbor.store.spaces.spaces import (
    Space,
    begin_epoch,
    note_filled,
    space_named,
    space_with_id,
    want_filling,
)
from pale_harbor.store.spaces.vectors import keep_faults, keep_vectors, names_known
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.running.processes import ELSEWHERE_FROM, Followed
from pale_harbor.work.running.worker import Doing, Progress, do_job
from pale_harbor.work.spaces.embedding_service import EmbeddingService
from pale_harbor.work.spaces.learning import MOST_LEARNED_FROM, learn
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.spaces.texts import name_of_text
from pale_harbor.work.workbench import Workbench

_EXAMPLES: Final = 20
_TEXTS_AT_ONCE: Final = 2_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """What a filling will ask of a service. texts: different ones that have no vector yet; known: those that have.

    price: of all of it, None where the service names none.
    """

    records: int
    texts: int
    known: int
    words: int
    characters: int
    requests: int
    model: str
    dimensions: int
    price: float | None
    currency: str


def fill_space(bench: Workbench, space_id: int) -> bool:
    """Fills a space here and now, from wherever its vectors come; False where somebody else is at it, or it is gone.

    How it ended stands in the space: done, cancelled, or failed with the reason.
    """
    with bench.pool.connection() as connection:
        space = space_with_id(connection, space_id)
        if space is None:
            return False
        job = want_filling(connection, space)
    try:
        return do_job(bench.pool, job, fillings_done(bench))
    except psycopg.Error:
        raise
    except Exception as error:  # it stands in the space why
        if not isinstance(error, HarborError):
            structlog.get_logger().error("filling broke off", space=space.name, exc_info=error)
        return True


def fillings_done(bench: Workbench) -> Doing:
    """How spaces are filled. The doing raises Cancelled where the space was dropped."""

    def doing(job: Job, progress: Progress) -> None:
        assert job.space_id is not None
        with bench.pool.connection() as connection:
            space = space_with_id(connection, job.space_id)
            if space is None:
                raise Cancelled("The space was dropped.")
            name, revision = name_and_revision(connection, space.collection_id)
        ended: dict[str, Any] = {}
        try:
            progress.begin("beginning", 0)
            _bring_in(bench, space, progress)
            report = bench.with_collection(name, lambda opened: _fill(bench, opened, space.id, progress))
            ended = {"report": report, "records_revision": revision}
        finally:
            with bench.pool.connection() as connection:
                note_filled(connection, space.id, **ended)

    return doing


def cost_of_filling(bench: Workbench, collection_name: str, space_name: str) -> Cost:
    """What a filling will ask of the space's service. Raises NotFound, BadInput, ServiceFailed."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        space = space_named(connection, collection.id, space_name)
    opened = OpenSpace(bench.pool, space, bench.memory)
    source = opened.document.source
    if not isinstance(source, ServiceSource):
        raise BadInput(f'The space "{space_name}" asks no service: filling it costs nothing but time.')
    with EmbeddingService(source.model_copy(update={"tries": 1}), time.sleep) as service:
        model = service.model()
    records, known = 0, 0
    texts: set[str] = set()
    words = characters = 0
    for record_texts in _texts(bench, opened):
        records += 1
        fresh = {name: text for text in record_texts if (name := name_of_text(text)) not in texts}
        texts |= set(fresh)
        with bench.pool.connection() as connection:
            held = names_known(connection, space.id, "text", list(fresh)) if fresh else set[str]()
        known += len(held)
        words += sum(len(text.split()) for name, text in fresh.items() if name not in held)
        characters += sum(len(text) for name, text in fresh.items() if name not in held)
    wanted = len(texts) - known
    batch = min(source.batch, model.most_texts or source.batch)
    return Cost(
        records=records,
        texts=wanted,
        known=known,
        words=words,
        characters=characters,
        requests=-(-wanted // batch),
        model=model.model,
        dimensions=model.dimensions,
        price=None if model.price is None else words / 1_000 * model.price,
        currency=model.currency,
    )


def _bring_in(bench: Workbench, space: Space, progress: Progress) -> None:
    """Whatever has to be there before records can get their vectors."""
    opened = OpenSpace(bench.pool, space, bench.memory)
    match opened.document.source:
        case PackagedSource():
            vectors = packaged_vectors()
            # Another version of the package is another model.
            if space.model != vectors.model:
                with bench.pool.connection() as connection:
                    begin_epoch(connection, space.id, vectors.model, vectors.dimensions)
        case LearnedSource() as source:
            if space.model is None or opened.maker is None:
                _learn(bench, space, source, progress)
        case BroughtSource(field=field):
            if field is not None and space.model is None:
                _look_at_field(bench, space, field)
            elif space.model is None:
                raise BadInput(
                    f'Nobody has brought vectors to the space "{space.name}" yet: bring a .npy file with one vector a '
                    "row, and a text file that names the record of each."
                )
        case ServiceSource() as source:
            _ask_service(bench, opened, source, progress)


def _learn(bench: Workbench, space: Space, source: LearnedSource, progress: Progress) -> None:
    with bench.pool.connection() as connection:
        count = min(record_count(connection, space.collection_id), MOST_LEARNED_FROM)
    progress.begin("reading words", count)
    done = 0

    def follow(step: int) -> None:
        nonlocal done
        if done <= count < step:
            progress.begin("learning", 0)
        progress.more(step - done)
        done = step

    if bench.processes is not None and count >= ELSEWHERE_FROM:
        bench.processes.run_followed(follow, learn, space, source, count)
    else:
        with bench.pool.connection() as connection:
            learn(connection, Followed(follow), space, source, count)


def _look_at_field(bench: Workbench, space: Space, field: str) -> None:
    """Settles the dimension of vectors that stand in a field: what most of the first ones have."""
    with bench.pool.connection() as connection:
        values = (record.field_values.get(field) for record in sampled_records(connection, space.collection_id, 1_000))
        lengths = Counter(len(value) for value in values if isinstance(value, list))
        if not lengths:
            raise BadInput(f'No record has a list of numbers in the field "{field}".')
        begin_epoch(connection, space.id, f"brought in {field}", lengths.most_common(1)[0][0])


def _ask_service(bench: Workbench, opened: OpenSpace, source: ServiceSource, progress: Progress) -> None:
    space = opened.space
    with EmbeddingService(source, progress.wait) as service:
        said = service.model()
        if space.model is None:
            with bench.pool.connection() as connection:
                begin_epoch(connection, space.id, said.model, said.dimensions)
        elif (space.model, space.dimensions) != (said.model, said.dimensions):
            raise BadInput(
                f'The service now has the model "{said.model}" with {said.dimensions} dimensions, but the space is '
                f'made with "{space.model}" with {space.dimensions}. Vectors of two models are never mixed: empty '
                "the space and fill it anew, or let the service use the old model again."
            )
        progress.begin("counting", 0)
        wanted: set[str] = set()
        for texts in _batched_texts(bench, opened):
            wanted |= set(_unknown(bench, space.id, texts))
            progress.more()
        progress.begin("asking the service", len(wanted))
        batch = min(source.batch, said.most_texts or source.batch)
        for texts in _batched_texts(bench, opened):
            fresh = [(name, text) for name, text in _unknown(bench, space.id, texts).items() if name in wanted]
            for start in range(0, len(fresh), batch):
                some = fresh[start : start + batch]
                vectors = service.vectors([text for _, text in some], "records", said.model, said.dimensions)
                given = {name: vector for (name, _), vector in zip(some, vectors, strict=True)}
                with bench.pool.connection() as connection:
                    usable = {name: vector for name, vector in given.items() if not isinstance(vector, Fault)}
                    keep_vectors(connection, space.id, "text", usable)
                    faults = {name: int(fault) for name, fault in given.items() if isinstance(fault, Fault)}
                    keep_faults(connection, space.id, "text", faults)
                # Asked once in one filling, also where the answer was of no use.
                wanted -= {name for name, _ in some}
                progress.more(len(some))


def _unknown(bench: Workbench, space_id: int, texts: Sequence[str]) -> dict[str, str]:
    """The texts that have no vector yet, by name."""
    names = {name_of_text(text): text for text in texts}
    with bench.pool.connection() as connection:
        known = names_known(connection, space_id, "text", list(names))
    return {name: text for name, text in names.items() if name not in known}


def _batched_texts(bench: Workbench, opened: OpenSpace) -> Iterator[list[str]]:
    some: list[str] = []
    for texts in _texts(bench, opened):
        some += texts
        if len(some) >= _TEXTS_AT_ONCE:
            yield some
            some = []
    if some:
        yield some


def _texts(bench: Workbench, opened: OpenSpace) -> Iterator[list[str]]:
    """Every record's texts."""
    with bench.pool.connection() as connection:
        for record in all_records(connection, opened.space.collection_id):
            yield [piece.text for piece in opened.covered.pieces(record.field_values)]


def _fill(bench: Workbench, opened: OpenCollection, space_id: int, progress: Progress) -> dict[str, Any]:
    """Makes every slab's vectors, and counts them."""
    with bench.pool.connection() as connection:
        row = space_with_id(connection, space_id)
    if row is None:
        raise Cancelled("The space was dropped.")
    # In the state that it has once the filling ended: what is made now is what is searched then.
    space = OpenSpace(bench.pool, replace(row, revision=row.revision + 1), bench.memory)
    progress.begin("making vectors", opened.record_count)
    vectors = passages = whole = 0
    faults: Counter[Fault] = Counter()
    examples: list[dict[str, str]] = []
    for number, live in enumerate(opened.slabs):
        table = space.table(opened, number, progress.more)
        alive = np.ones(live.slab.record_count, np.bool_) if live.alive is None else live.alive
        vectors += int(np.count_nonzero(alive[table.owners]))
        # Whole records have a place of their own.
        passages += int(np.count_nonzero(alive[table.owners] & (table.places[:, 0] >= 0)))
        has_vector = np.zeros(live.slab.record_count, np.bool_)
        has_vector[table.owners] = True
        has_vector[table.faulty] = False
        whole += int(np.count_nonzero(has_vector & alive))
        for record_id, fault in zip(table.faulty.tolist(), table.faults.tolist(), strict=True):
            if alive[record_id]:
                faults[Fault(fault)] += 1
                if len(examples) < _EXAMPLES:
                    examples.append({"key": live.slab.keys.term(record_id), "what": SAID[Fault(fault)]})
    return {
        "records": opened.record_count,
        "vectors": vectors,
        "passages": passages,
        "whole": whole,
        "faults": {SAID[fault]: count for fault, count in sorted(faults.items())},
        "examples": examples,
    }
