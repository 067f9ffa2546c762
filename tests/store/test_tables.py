"""The tables keep what they were given, in versions and in order, for several at once."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import psycopg
import pytest

from pale_harbor.core.measures import Measured
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.store.chains import chain_named, latest_chains, save_chain
from pale_harbor.store.collections import (
    Collection,
    CollectionField,
    all_collections,
    collection_named,
    fields_of,
    make_collection,
    put_fields,
)
from pale_harbor.store.database import Pool, migrate
from pale_harbor.store.judged_sets import SetQuery, grades_of, queries_of, replace_set, set_named, sets_of
from pale_harbor.store.rankers import all_rankers, ranker_named, save_ranker
from pale_harbor.store.records import keys_around, merge_records, record_count, record_with_key
from pale_harbor.store.runs import RunKey, RunList, find_run, lists_of, save_measurements, save_run

DOCUMENT: dict[str, Any] = {"readings": [{"field": "title", "chain": "words"}]}


@pytest.fixture
def coast(pool: Pool) -> Collection:
    with pool.connection() as connection:
        make_collection(connection, "coast")
        return collection_named(connection, "coast")


def test_migrations_are_applied_once_whoever_comes_first(pool: Pool):
    def run(_: int) -> list[str]:
        with pool.connection() as connection:
            return migrate(connection)

    with ThreadPoolExecutor(4) as several:
        assert list(several.map(run, range(8))) == [[]] * 8
    with pool.connection() as connection:
        names = [name for (name,) in connection.execute("select name from migrations order by name")]
    assert names == ["0001_collections_to_measurements.sql"]


def test_a_collection_is_made_once(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        make_collection(connection, "coast")
        assert [kept.id for kept in all_collections(connection)] == [coast.id]
        assert (coast.revision, coast.fingerprint, coast.default_ranker) == (0, "", None)


def test_fields_keep_their_order(pool: Pool, coast: Collection):
    fields = [
        CollectionField("id", "text", is_key=True),
        CollectionField("year", "number", is_key=False),
        CollectionField("a", "flag", is_key=False),
    ]
    with pool.connection() as connection:
        put_fields(connection, coast.id, [CollectionField("old", "text", is_key=False)])
        put_fields(connection, coast.id, fields)
        assert fields_of(connection, coast.id) == fields


def test_records_are_found_with_their_neighbours(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        rows = [(key, key.encode(), {"id": key}) for key in ("b", "a", "Z", "é")]
        assert merge_records(connection, coast, rows).added == 4
        assert record_count(connection, coast.id) == 4
        assert [keys_around(connection, coast.id, key) for key in ("Z", "b", "é")] == [
            (None, "a"),
            ("a", "é"),
            ("b", None),
        ]
        assert record_with_key(connection, coast, "é").field_values == {"id": "é"}
        with pytest.raises(NotFound, match='The collection "coast" has no record with the key "x"'):
            record_with_key(connection, coast, "x")


def test_a_key_that_comes_twice_in_one_merge_stores_nothing(pool: Pool, coast: Collection):
    with pytest.raises(psycopg.errors.UniqueViolation), pool.connection() as connection:
        merge_records(connection, coast, [("a", b"1", {}), ("a", b"2", {})])
    with pool.connection() as connection:
        assert record_count(connection, coast.id) == 0


def test_chains_are_kept_in_versions(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        for notation in ("words", "words", "words > lower", "words"):
            save_chain(connection, coast.id, "plain", notation)
        save_chain(connection, coast.id, "exact", "whole")
        assert [(c.name, c.version, c.notation) for c in latest_chains(connection, coast.id)] == [
            ("exact", 1, "whole"),
            ("plain", 3, "words"),
        ]
        assert chain_named(connection, coast.id, "plain", 2).notation == "words > lower"
        with pytest.raises(NotFound, match=r'There is no saved chain "@plan"\. There are: @exact, @plain\.'):
            chain_named(connection, coast.id, "plan")
        with pytest.raises(BadInput):
            save_chain(connection, coast.id, "No Name", "words")


def test_two_who_keep_a_ranker_at_once_get_two_versions(pool: Pool, coast: Collection):
    def keep(number: int) -> int:
        document = {"readings": [{**DOCUMENT["readings"][0], "weight": number}]}
        with pool.connection() as connection:
            return save_ranker(connection, coast.id, "first", document, {}, "").version

    with ThreadPoolExecutor(4) as several:
        versions = list(several.map(keep, range(1, 9)))
    assert sorted(versions) == list(range(1, 9))
    with pool.connection() as connection:
        assert [kept.version for kept in all_rankers(connection, coast.id)] == list(range(8, 0, -1))


def test_a_rankers_document_keeps_its_keys_in_order_and_its_digits(pool: Pool, coast: Collection):
    document: dict[str, Any] = {
        "equals_by": ["b", "a"],
        "readings": [{"weight": 0.1, "field": "t", "chain": "words", "k1": 1.0}],
    }
    with pool.connection() as connection:
        save_ranker(connection, coast.id, "first", document, {"plain": 2}, "why not")
        kept = ranker_named(connection, coast.id, "first")
    assert list(kept.document) == ["equals_by", "readings"]
    assert list(kept.document["readings"][0].items()) == list(document["readings"][0].items())
    assert (kept.chain_versions, kept.note) == ({"plain": 2}, "why not")


def test_a_judged_set_is_replaced_whole(pool: Pool, coast: Collection):
    queries = [SetQuery("q2", "lamp", "a need", ["x", "y"]), SetQuery("q1", "Åsmoe", "", [])]
    with pool.connection() as connection:
        first = replace_set(connection, coast.id, "visitors", queries, {"q1": {"a": 3}, "q2": {"b": 0}})
        same = replace_set(connection, coast.id, "visitors", queries, {"q1": {"a": 3}, "q2": {"b": 0}})
        assert (first.revision, same.revision) == (1, 1)
        assert queries_of(connection, first.id) == queries
        other = replace_set(connection, coast.id, "visitors", queries[:1], {"q2": {"b": 2}})
        assert (other.id, other.revision) == (first.id, 2)
        assert grades_of(connection, first.id) == {"q2": {"b": 2}}
        assert [kept.name for kept in sets_of(connection, coast.id)] == ["visitors"]
        with pytest.raises(NotFound, match=r'There is no judged set "visitor"\. There are: visitors\.'):
            set_named(connection, coast.id, "visitor")


def test_a_grade_of_a_query_that_is_not_there_stores_nothing(pool: Pool, coast: Collection):
    with pytest.raises(psycopg.errors.ForeignKeyViolation), pool.connection() as connection:
        replace_set(connection, coast.id, "visitors", [SetQuery("q1", "x", "", [])], {"q9": {"a": 1}})
    with pool.connection() as connection:
        assert sets_of(connection, coast.id) == []


def test_a_run_is_frozen_under_everything_it_depends_on(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        ranker = save_ranker(connection, coast.id, "first", DOCUMENT, {}, "")
        judged = replace_set(connection, coast.id, "visitors", [SetQuery("q1", "x", "", [])], {"q1": {"a": 1}})
        key = RunKey(ranker.id, judged.id, 1, "print", 1, 1_000, "0.1.0")
        lists = [RunList("q1", ["b", "a"], [2.5, 0.1], 7)]
        assert find_run(connection, key) is None
        run_id = save_run(connection, key, lists)
        assert save_run(connection, key, [RunList("q1", ["other"], [1.0], 1)]) == run_id
        assert lists_of(connection, run_id) == lists
        for changed in (
            replace(key, records_fingerprint="other"),
            replace(key, judged_revision=2),
            replace(key, depth=10),
            replace(key, program_version="9"),
        ):
            assert find_run(connection, changed) is None


def test_measurements_are_kept_once(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        ranker = save_ranker(connection, coast.id, "first", DOCUMENT, {}, "")
        judged = replace_set(connection, coast.id, "visitors", [SetQuery("q1", "x", "", [])], {"q1": {"a": 1}})
        run_id = save_run(connection, RunKey(ranker.id, judged.id, 1, "p", 1, 10, "0"), [])
        values = Measured({"ap": 0.25}, {"q1": {"ap": 0.25}})
        save_measurements(connection, run_id, values)
        save_measurements(connection, run_id, values)
        kept = connection.execute(
            "select measure, query_id, value from measurements order by query_id nulls first"
        ).fetchall()
    assert kept == [("ap", None, 0.25), ("ap", "q1", 0.25)]
