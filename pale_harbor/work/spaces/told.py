"""What is told of spaces: what they are, how far their filling is, and which rankers ask them."""

from dataclasses import dataclass
from typing import Final

from pydantic import TypeAdapter

from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.naming import named_spaces
from pale_harbor.formats.space_document import SpaceDocument, space_document
from pale_harbor.store.collections.collections import Collection, collection_named
from pale_harbor.store.ranking.rankers import all_rankers
from pale_harbor.store.spaces.spaces import Space, SpaceState, spaces_of
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultExample:
    """A record that has not all its vectors, and what is wrong."""

    key: str
    what: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FillingReport:
    """What the last whole filling came to. passages: vectors that are of one; whole: records with all their vectors;
    faults: what keeps others from it."""

    records: int
    vectors: int
    passages: int
    whole: int
    faults: dict[str, int]
    examples: list[FaultExample]


@dataclass(frozen=True, slots=True, kw_only=True)
class SpaceTold:
    """A space, and how far its filling is. behind: whether records changed since; word_vectors: whether it knows
    vectors of single words, as a second stage needs them."""

    name: str
    document: SpaceDocument
    model: str | None
    dimensions: int | None
    state: SpaceState
    phase: str
    done: int
    in_all: int
    problem: str | None
    report: FillingReport | None
    behind: bool
    word_vectors: bool
    asked_by: list[str]


_REPORT: Final = TypeAdapter(FillingReport)


def spaces_told(bench: Workbench, collection_name: str) -> list[SpaceTold]:
    """A collection's spaces, by name."""
    with bench.pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        asking: dict[str, set[str]] = {}
        for saved in all_rankers(connection, collection.id):
            for _, asked in named_spaces(ranker_document(saved.document)):
                asking.setdefault(asked, set()).add(saved.name)
        return [
            _tell(one, collection, sorted(asking.get(one.name, ()))) for one in spaces_of(connection, collection.id)
        ]


def space_told(bench: Workbench, collection_name: str, name: str) -> SpaceTold:
    """Raises NotFound."""
    found = next((one for one in spaces_told(bench, collection_name) if one.name == name), None)
    if found is None:
        raise NotFound(f'There is no space "{name}".')
    return found


def _tell(own: Space, collection: Collection, asked_by: list[str]) -> SpaceTold:
    document = space_document(own.document)
    return SpaceTold(
        name=own.name,
        document=document,
        model=own.model,
        dimensions=own.dimensions,
        state=own.state,
        phase=own.phase,
        done=own.done,
        in_all=own.in_all,
        problem=own.problem,
        report=None if own.report is None else _REPORT.validate_python(own.report),
        behind=own.records_revision is not None and own.records_revision != collection.revision,
        word_vectors=document.source.kind in ("learned", "packaged"),
        asked_by=asked_by,
    )
