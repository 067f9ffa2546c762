"""Expectations kept beside the grades, and checked against ranked lists."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from psycopg import Connection

from pale_harbor.core.judging import Expectation, instead_of
from pale_harbor.errors import NotFound
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.judging.expectations import KeptExpectation, add_expectation, end_expectations, expectations_of
from pale_harbor.store.judging.judged_sets import held_set, next_revision, queries_of
from pale_harbor.store.measuring.runs import RunList
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True)
class Broken:
    """An expectation that does not hold. said: what was wanted, in words; instead: what is."""

    expectation: KeptExpectation
    said: str
    instead: str


def broken_of(expectations: Sequence[KeptExpectation], lists: Mapping[str, RunList]) -> list[Broken]:
    """Those that do not hold for one side's lists."""
    broken: list[Broken] = []
    for one in expectations:
        ranked = lists.get(one.query_id)
        instead = instead_of(one.wanted, ranked.record_keys if ranked else [], ranked.matched if ranked else 0)
        if instead is not None:
            broken.append(Broken(one, str(one.wanted), instead))
    return broken


def broken_by_title(broken: Sequence[Broken], titles: Mapping[str, str]) -> list[Broken]:
    """The same, each record by its title, and its key where it has another."""
    return [replace(one, said=one.expectation.wanted.of(_called(one.expectation.wanted, titles))) for one in broken]


def _called(wanted: Expectation, titles: Mapping[str, str]) -> str | None:
    key = wanted.record_key
    title = None if key is None else titles.get(key, key)
    return key if title == key else f"“{title}” ({key})"


def expect(bench: Workbench, collection_name: str, set_name: str, query_id: str, wanted: Expectation) -> int:
    """Adds an expectation to a set and returns its id. Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        if not any(query.query_id == query_id for query in queries_of(connection, kept.id)):
            raise NotFound(f'"{set_name}" has no query "{query_id[:80]}".')
        return add_expectation(connection, kept.id, next_revision(connection, kept, of_queries=False), query_id, wanted)


def expect_no_more(bench: Workbench, collection_name: str, set_name: str, expectation_id: int) -> None:
    """Ends an expectation. Raises NotFound."""
    with bench.pool.connection() as connection:
        kept = held_set(connection, collection_named(connection, collection_name).id, set_name)
        revision = next_revision(connection, kept, of_queries=False)
        if not end_expectations(connection, kept.id, revision, [expectation_id]):
            raise NotFound(f'"{set_name}" has no expectation {expectation_id}.')


def expectations_by_query(connection: Connection[Any], set_id: int) -> dict[str, list[Expectation]]:
    """A set's expectations by query, in the order in which they were made."""
    by_query: dict[str, list[Expectation]] = {}
    for one in expectations_of(connection, set_id):
        by_query.setdefault(one.query_id, []).append(one.wanted)
    return by_query


def put_expectations(
    connection: Connection[Any], set_id: int, wanted: Mapping[str, Sequence[Expectation]], revision: int
) -> None:
    """Makes these a set's expectations from a revision on; those that stay as they are keep their ids."""
    left = {query: list(own) for query, own in wanted.items()}
    ended: list[int] = []
    for one in expectations_of(connection, set_id):
        if one.wanted in left.get(one.query_id, ()):
            left[one.query_id].remove(one.wanted)
        else:
            ended.append(one.id)
    end_expectations(connection, set_id, revision, ended)
    for query, own in left.items():
        for one in own:
            add_expectation(connection, set_id, revision, query, one)
