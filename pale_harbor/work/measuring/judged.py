"""A judged set as it is measured on: a part of its queries, their grades and expectations, in one revision."""

from dataclasses import dataclass, replace
from enum import StrEnum

from psycopg import Connection

from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.expectations import KeptExpectation, expectations_of
from pale_harbor.store.judging.judged_sets import JudgedSet, SetQuery, grades_of, queries_of, set_named
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.people.asking import need
from pale_harbor.work.people.rights import Right
from pale_harbor.work.workbench import Workbench


class Part(StrEnum):
    """Which queries of a set: those for everyday looking, those that are locked away, or all."""

    OPEN = "open"
    LOCKED = "locked"
    ALL = "all"


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """A judged set in a revision. everything: all its queries; queries, grades, expectations: of the part asked for."""

    judged_set: JudgedSet
    everything: list[SetQuery]
    queries: list[SetQuery]
    grades: dict[str, dict[str, int]]
    expectations: list[KeptExpectation]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory, roughly: texts are short."""
        return 600 * len(self.everything) + 120 * sum(map(len, self.grades.values()))

    @property
    def nothing_to_find(self) -> list[str]:
        """Queries that nothing answers."""
        return [query.query_id for query in self.queries if query.nothing_to_find]

    @property
    def weights(self) -> dict[str, float]:
        """How often each query was asked; once where nobody knows."""
        return {query.query_id: float(1 if query.asked is None else query.asked) for query in self.queries}


def judged_in(workbench: Workbench, opened: OpenCollection, set_name: str, part: Part = Part.OPEN) -> Judged:
    """A judged set of the collection. Raises NotFound; NotAllowed where whoever asks may not open what is locked."""
    if part is not Part.OPEN:
        need(Right.OWN, opened.collection.name)
    return whole_or_part(workbench, opened, set_name, part)


def whole_or_part(workbench: Workbench, opened: OpenCollection, set_name: str, part: Part) -> Judged:
    """A judged set, for what tells nobody of locked queries: whoever asks is not asked for a right."""
    with workbench.pool.connection() as connection:
        in_one_state(connection)
        kept = set_named(connection, opened.collection.id, set_name)
        # The same revision has the same queries, grades and expectations; how they are settled may have changed.
        known = workbench.memory.judged.get_or_make(
            (kept.id, kept.revision, part), lambda: judged_of(connection, kept, part, None)
        )
        return replace(known, judged_set=kept)


def judged_of(connection: Connection[tuple[object, ...]], kept: JudgedSet, part: Part, revision: int | None) -> Judged:
    """A part of a set in a revision, None: the newest."""
    everything = queries_of(connection, kept.id, revision)
    queries = [one for one in everything if part is Part.ALL or one.locked == (part is Part.LOCKED)]
    ids = {one.query_id for one in queries}
    grades = grades_of(connection, kept.id, revision)
    return Judged(
        judged_set=kept,
        everything=everything,
        queries=queries,
        grades={query: own for query, own in grades.items() if query in ids},
        expectations=[one for one in expectations_of(connection, kept.id, revision) if one.query_id in ids],
    )
