"""Makes, lists, empties and drops spaces, and brings vectors to them."""

import re
from pathlib import Path
from typing import Final

import numpy as np

from pale_harbor.core.text.errors import ChainError, hint, nearest_name
from pale_harbor.core.vectors import faults_of
from pale_harbor.core.vectors.door import SAID
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.naming import named_spaces
from pale_harbor.formats.space_document import (
    BroughtSource,
    LearnedSource,
    ServiceSource,
    SpaceDocument,
    space_document,
)
from pale_harbor.formats.vector_files import read_names, read_vectors
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.ranking.rankers import all_rankers
from pale_harbor.store.records.records import records_with_keys
from pale_harbor.store.running.jobs import want_cancel
from pale_harbor.store.spaces.spaces import (
    Space,
    begin_epoch,
    drop_space,
    forget_model,
    make_space,
    space_named,
    want_filling,
)
from pale_harbor.store.spaces.vectors import About, keep_vectors
from pale_harbor.work.chains.saved_parts import SavedParts
from pale_harbor.work.workbench import Workbench

_NAME: Final = re.compile(r"[a-z][a-z0-9_]{0,62}")
_ROWS_AT_ONCE: Final = 2_000
_TOLD: Final = 10


def make(bench: Workbench, collection_name: str, name: str, document: SpaceDocument) -> Space:
    """Makes a space, which waits to be filled unless that costs or needs files. Raises BadInput, NotFound."""
    if _NAME.fullmatch(name) is None:
        raise BadInput(
            f'"{name[:100]}" cannot be the name of a space: small letters, digits and _ only, a letter first, since '
            "formulas name it too."
        )
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        known = [field.name for field in fields_of(connection, collection.id)]
        source = document.source
        named = [(f"fields.{i}", one) for i, one in enumerate(document.fields)]
        if isinstance(source, BroughtSource) and source.field is not None:
            named.append(("source.field", source.field))
        problems = [
            (where, f'the collection has no field "{one}". {hint(nearest_name(one, known), known)}')
            for where, one in named
            if one not in known
        ]
        if problems:
            raise BadInput("This space cannot be made.", problems)
        if isinstance(source, LearnedSource):
            parts = SavedParts(connection, collection.id)
            try:
                notation = parts.chain(source.chain).notation
            except ChainError as error:
                raise BadInput("This space cannot be made.", [("source.chain", str(error))]) from error
            for used, version in parts.lists.used.items():
                # The space goes on reading the word lists as they are now.
                notation = re.sub(rf"@{re.escape(used)}(?![\w:-])", f"@{used}:{version}", notation)
            document = document.model_copy(update={"source": source.model_copy(update={"chain": notation})})
        space = make_space(connection, collection.id, name, document.model_dump(mode="json"))
        # Files come after the space that they are for; what a service costs is counted before it is asked.
        if not (isinstance(source, ServiceSource) or (isinstance(source, BroughtSource) and source.field is None)):
            want_filling(connection, space)
        return space_named(connection, collection.id, name)


def fill(bench: Workbench, collection_name: str, name: str, *, anew: bool = False) -> Space:
    """Says that a space is to be filled. anew: its vectors are thrown away first, and the model may be another.

    Raises NotFound, BadInput for brought vectors, which nothing makes anew.
    """
    with bench.pool.connection() as connection:
        space = space_named(connection, collection_named(connection, collection_name).id, name)
        if space.state in ("waiting", "running"):
            return space
        if anew:
            document = space_document(space.document)
            if isinstance(document.source, BroughtSource) and document.source.field is None:
                raise BadInput("These vectors were brought: bring others, and they take the place of these.")
            forget_model(connection, space.id)
        want_filling(connection, space)
        return space_named(connection, space.collection_id, name)


def cancel(bench: Workbench, collection_name: str, name: str) -> Space:
    """Ends a filling; what a service gave so far stays."""
    with bench.pool.connection() as connection:
        space = space_named(connection, collection_named(connection, collection_name).id, name)
        if space.job is not None:
            want_cancel(connection, space.job)
        return space_named(connection, space.collection_id, name)


def drop(bench: Workbench, collection_name: str, name: str) -> None:
    """Drops a space with its vectors. Raises BadInput where the newest version of a ranker asks it."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        space = space_named(connection, collection.id, name)
        newest: dict[str, list[str]] = {}
        for saved in all_rankers(connection, collection.id):
            newest.setdefault(saved.name, [one for _, one in named_spaces(ranker_document(saved.document))])
        asking = [ranker for ranker, spaces in newest.items() if name in spaces]
        if asking:
            raise BadInput(f'The space "{name}" is asked by the ranker {", ".join(asking)}. Take it out there first.')
        drop_space(connection, space.id)
    bench.with_collection(collection_name, lambda opened: [live.slab.forget_vectors(space.id) for live in opened.slabs])


def bring(
    bench: Workbench, collection_name: str, name: str, about: About, vectors_file: Path, names_file: Path
) -> tuple[Space, int, list[str]]:
    """Keeps vectors from files: of records by key, or of queries by their words.

    Returns the space, how many were kept, and what was wrong with the others. Raises BadInput where the files do not
    fit each other, or the vectors the space.
    """
    vectors = read_vectors(vectors_file, vectors_file.name)
    names = read_names(names_file, names_file.name, vectors.shape[0])
    dimensions = int(vectors.shape[1])
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        space = space_named(connection, collection.id, name)
        if not isinstance(space_document(space.document).source, BroughtSource):
            raise BadInput(f'The space "{name}" makes its vectors itself. Make a space for brought ones.')
        if space.model is None and about == "record":
            begin_epoch(connection, space.id, f"brought, {dimensions} dimensions", dimensions)
        elif space.model is None:
            raise BadInput("Bring the vectors of the records first, then those of the queries.")
        elif space.dimensions != dimensions:
            raise BadInput(
                f"These vectors have {dimensions} dimensions, those of the space {space.dimensions}. A space never "
                "mixes two models: make another space for them."
            )
        kept = 0
        wrong: list[str] = []
        more = 0
        for start in range(0, len(names), _ROWS_AT_ONCE):
            own = names[start : start + _ROWS_AT_ONCE]
            rows = np.asarray(vectors[start : start + _ROWS_AT_ONCE], np.float32)
            known = records_with_keys(connection, collection.id, own) if about == "record" else dict.fromkeys(own)
            usable: dict[str, np.ndarray] = {}
            for line, (one, row, fault) in enumerate(
                zip(own, rows, faults_of(list(rows), dimensions), strict=True), start=start + 1
            ):
                what = SAID[fault] if fault is not None else None if one in known else "is no record's key"
                if what is None:
                    usable[one.strip() if about == "query" else one] = row
                elif len(wrong) < _TOLD:
                    wrong.append(f"Line {line}: {one[:100]} {what}.")
                else:
                    more += 1
            keep_vectors(connection, space.id, about, usable)
            kept += len(usable)
        if more:
            wrong.append(f"{more:,} more could not be used.")
        want_filling(connection, space)
        return space_named(connection, collection.id, name), kept, wrong
