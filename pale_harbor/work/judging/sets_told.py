"""What is told of judged sets: their queries with what is judged of them, and what is expected."""

from dataclasses import asdict, dataclass
from typing import Any

from pale_harbor.core.judging import ExpectationKind, Settling
from pale_harbor.formats.ranker.document import FilterDocument
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import in_one_state
from pale_harbor.store.judging.expectations import expectations_of
from pale_harbor.store.judging.judged_sets import counts_of, grades_of, queries_of, set_named, sets_of
from pale_harbor.work.workbench import Workbench


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedSummary:
    """A judged set in a line. queries: all of them, locked ones included; meanings: of the grades, in its own words."""

    name: str
    revision: int
    queries: int
    locked: int
    grades: int
    expectations: int
    settling: Settling
    locked_share: float
    meanings: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenQuery:
    """A query of a set that is not locked. filters, language: that it is asked with; asked: how often visitors asked
    it, None where nobody knows."""

    query_id: str
    query: str
    need: str
    tags: list[str]
    filters: list[FilterDocument]
    language: str | None
    asked: int | None
    grades: dict[str, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedSetTold:
    """A judged set for everyday looking. locked: how many of its queries are not shown."""

    name: str
    revision: int
    queries: list[OpenQuery]
    locked: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedQuery:
    """A query of a set, locked or not. graded: how many records have a grade that counts; relevant: of them."""

    query_id: str
    query: str
    need: str
    tags: list[str]
    filters: list[dict[str, Any]]
    language: str | None
    asked: int | None
    nothing_to_find: bool
    locked: bool
    graded: int
    relevant: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectationTold:
    """said: what is expected, in words."""

    id: int
    query_id: str
    kind: ExpectationKind
    record_key: str | None
    number: int | None
    note: str
    said: str


def judged_summaries(bench: Workbench, collection_name: str) -> list[JudgedSummary]:
    """A collection's judged sets, by name."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        own = collection_named(connection, collection_name).id
        counts = counts_of(connection, own)
        return [
            JudgedSummary(
                name=kept.name,
                revision=kept.revision,
                settling=kept.settling,
                locked_share=kept.locked_share,
                meanings=kept.meanings,
                **asdict(counts[kept.id]),
            )
            for kept in sets_of(connection, own)
        ]


def open_part(bench: Workbench, collection_name: str, set_name: str) -> JudgedSetTold:
    """The open queries of a set in order, each with its grades."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        found = set_named(connection, collection_named(connection, collection_name).id, set_name)
        grades = grades_of(connection, found.id)
        everything = queries_of(connection, found.id)
    queries = [
        OpenQuery(
            query_id=query.query_id,
            query=query.query,
            need=query.need,
            tags=query.tags,
            filters=[FilterDocument(one) for one in query.filters],
            language=query.language,
            asked=query.asked,
            grades=grades.get(query.query_id, {}),
        )
        for query in everything
        if not query.locked
    ]
    return JudgedSetTold(
        name=found.name, revision=found.revision, queries=queries, locked=len(everything) - len(queries)
    )


def listed_queries(bench: Workbench, collection_name: str, set_name: str) -> list[ListedQuery]:
    """All queries of a set, the locked ones too, with how much of each is judged."""
    with bench.pool.connection() as connection:
        in_one_state(connection)
        found = set_named(connection, collection_named(connection, collection_name).id, set_name)
        grades = grades_of(connection, found.id)
        return [
            ListedQuery(**asdict(one), graded=len(own), relevant=sum(grade > 0 for grade in own.values()))
            for one in queries_of(connection, found.id)
            for own in [grades.get(one.query_id, {})]
        ]


def expectations_told(bench: Workbench, collection_name: str, set_name: str) -> list[ExpectationTold]:
    """What is expected of a set's queries."""
    with bench.pool.connection() as connection:
        found = set_named(connection, collection_named(connection, collection_name).id, set_name)
        return [ExpectationTold(**asdict(one), said=str(one.wanted)) for one in expectations_of(connection, found.id)]
