"""What is told of rankers that are not ours. What their headers hold is never told."""

from dataclasses import dataclass
from typing import Any, Literal

from pale_harbor.formats.outside_document import outside_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.judged_sets import sets_of
from pale_harbor.store.measuring.outside_rankers import outside_rankers_of
from pale_harbor.store.measuring.runs import count_lists, latest_outside_run
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class OutsideTold:
    """An outside ranker. state to problem: of the last asking; lists: for how many queries of each judged set it has
    a list, sets without any left out."""

    name: str
    kind: Literal["file", "service", "database"]
    document: dict[str, Any]
    state: str
    judged_set: str | None
    done: int
    in_all: int
    problem: str | None
    lists: dict[str, int]


def outside_told(bench: Workbench, collection_name: str) -> list[OutsideTold]:
    """A collection's outside rankers, by name."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, collection_name)
        sets = sets_of(connection, kept.id)
        return [
            OutsideTold(
                name=one.name,
                kind=outside_document(one.document).kind,
                document=one.document,
                state=one.state,
                judged_set=next((own.name for own in sets if own.id == one.set_id), None),
                done=one.done,
                in_all=one.in_all,
                problem=one.problem,
                lists={
                    own.name: count_lists(connection, run)
                    for own in sets
                    if (run := latest_outside_run(connection, one.id, own.id)) is not None
                },
            )
            for one in outside_rankers_of(connection, kept.id)
        ]
