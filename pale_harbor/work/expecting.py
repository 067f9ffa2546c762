"""Expectations checked against ranked lists, and kept beside the grades."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.collections import collection_named
from pale_harbor.store.expectations import Expectation, ExpectationKind, add_expectation, end_expectations
from pale_harbor.store.judged_sets import held_set, next_revision, queries_of
from pale_harbor.store.runs import RunList
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True)
class Broken:
    """An expectation that does not hold, and what is instead, in words."""

    expectation: Expectation
    instead: str


def expected(expectation: Expectation) -> str:
    """The demand in words."""
    match expectation.kind:
        case "among_first":
            return f"{expectation.record_key} among the first {expectation.number}"
        case "never":
            return f"never {expectation.record_key}"
        case "more_than":
            return f"more than {expectation.number} records"
        case "nothing":
            return "nothing at all"


def broken_of(expectations: Sequence[Expectation], lists: Mapping[str, RunList]) -> list[Broken]:
    """Those that do not hold for one side's lists."""
    checked = [(one, _instead(one, lists.get(one.query_id))) for one in expectations]
    return [Broken(one, instead) for one, instead in checked if instead is not None]


def _instead(expectation: Expectation, ranked: RunList | None) -> str | None:
    keys = ranked.record_keys if ranked is not None else []
    matched = ranked.matched if ranked is not None else 0
    rank = keys.index(expectation.record_key) + 1 if expectation.record_key in keys else 0
    match expectation.kind:
        case "among_first":
            if 0 < rank <= (expectation.number or 0):
                return None
            return (
                f"it stands at {rank}"
                if rank
                else f"it is not among the first {len(keys):,} found"
                if keys
                else "nothing is found"
            )
        case "never":
            return f"it stands at {rank}" if rank else None
        case "more_than":
            return None if matched > (expectation.number or 0) else f"{matched:,} are found"
        case "nothing":
            return f"{matched:,} are found" if matched else None


def expect(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    query_id: str,
    kind: ExpectationKind,
    record_key: str | None,
    number: int | None,
    note: str,
) -> int:
    """Adds an expectation to a set and returns its id. Raises NotFound, BadInput."""
    if kind in ("among_first", "never") and not record_key:
        raise BadInput("This expectation is about a record: say its key.")
    if kind == "among_first" and not number:
        raise BadInput("Say among how many first records it is to stand: 1 or more.")
    if kind == "more_than" and number is None:
        raise BadInput("Say more than how many records are to be found.")
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        if not any(query.query_id == query_id for query in queries_of(connection, kept.id)):
            raise NotFound(f'"{set_name}" has no query "{query_id[:80]}".')
        revision = next_revision(connection, kept, of_queries=False)
        return add_expectation(
            connection,
            kept.id,
            revision,
            query_id,
            kind,
            record_key if kind in ("among_first", "never") else None,
            number if kind in ("among_first", "more_than") else None,
            note,
        )


def expect_no_more(bench: Workbench, collection_name: str, set_name: str, expectation_id: int) -> None:
    """Ends an expectation. Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        revision = next_revision(connection, kept, of_queries=False)
        if not end_expectations(connection, kept.id, revision, [expectation_id]):
            raise NotFound(f'"{set_name}" has no expectation {expectation_id}.')
