"""The tables keep what they were given, in versions and in order, for several at once."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import count
from typing import Any

import numpy as np
import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from psycopg import Connection

from pale_harbor.errors import BadInput, NotFound, Unavailable
from pale_harbor.formats.records.conversion import content_hash
from pale_harbor.store.chains.chains import chain_named, latest_chains, save_chain
from pale_harbor.store.collections.collections import (
    Collection,
    CollectionField,
    all_collections,
    collection_named,
    copy_collection,
    drop_collection,
    fields_of,
    make_collection,
    put_fields,
    rename_collection,
)
from pale_harbor.store.database import Pool, for_one_statement, migrate
from pale_harbor.store.imports.imports import add_import
from pale_harbor.store.imports.incoming import Merged, add_incoming, delete_records, gather_incoming, merge_gathered
from pale_harbor.store.judging.judged_sets import (
    JudgedSet,
    SetQuery,
    grades_of,
    make_set,
    next_revision,
    put_grades,
    put_queries,
    queries_of,
    set_named,
    sets_of,
)
from pale_harbor.store.judging.judgments import Judgment, judgments_of, last_said_by, put_judgments, stale_judgments
from pale_harbor.store.measuring.runs import RunKey, RunList, find_run, lists_of, save_run
from pale_harbor.store.ranking.rankers import all_rankers, ranker_named, save_ranker
from pale_harbor.store.records.records import (
    all_keys,
    changes_since,
    deleted_records,
    earlier_states,
    keys_around,
    record_count,
    record_with_key,
)
from pale_harbor.store.spaces.spaces import make_space, spaces_of
from pale_harbor.store.spaces.vectors import faults_named, keep_faults, keep_vectors, names_known, vectors_named

DOCUMENT: dict[str, Any] = {"readings": [{"field": "title", "chain": "words"}]}


TODAY = datetime(2031, 5, 17, 9, 30, tzinfo=UTC)


def put_set(
    connection: Connection[Any],
    collection: Collection,
    name: str,
    queries: list[SetQuery],
    grades: dict[tuple[str, str], int | None],
) -> JudgedSet:
    """The set in another revision, with these queries and changes of grades."""
    kept = make_set(connection, collection.id, name)
    revision = next_revision(connection, kept, of_queries=True)
    put_queries(connection, kept.id, queries, revision)
    put_grades(connection, kept.id, grades, revision)
    return set_named(connection, collection.id, name)


@pytest.fixture
def coast(pool: Pool) -> Collection:
    with pool.connection() as connection:
        make_collection(connection, "coast")
        return collection_named(connection, "coast")


def merged(
    connection: Connection[Any], rows: list[tuple[str, dict[str, Any]]], name: str = "coast", *, replace: bool = False
) -> Merged:
    job_id = add_import(connection, name, {}, {}, by_server=False)
    add_incoming(
        connection, job_id, [(n, n, key, content_hash(key, values), values) for n, (key, values) in enumerate(rows)]
    )
    gather_incoming(connection, job_id)
    return merge_gathered(connection, collection_named(connection, name, lock=True), replace=replace)


def test_what_was_kept_in_older_words_is_rewritten_once(pool: Pool):
    with pool.connection() as connection:
        make_collection(connection, "older")
        coast = collection_named(connection, "older")
        save_chain(connection, coast.id, "codes", "spaces > keep(@names)")
        save_ranker(connection, coast.id, "first", {"readings": [{"field": "id", "chain": "spaces"}]}, {}, {}, "")
        connection.execute("delete from migrations where name = '0007_present_words.sql'")
        assert migrate(connection) == ["0007_present_words.sql"]
        assert chain_named(connection, coast.id, "codes", 1).notation == "blanks > as_is(@names)"
        assert ranker_named(connection, coast.id, "first").document["readings"][0]["chain"] == "blanks"


def test_a_vector_of_one_byte_becomes_the_fault_that_it_stood_for(pool: Pool):
    with pool.connection() as connection:
        make_collection(connection, "older")
        coast = collection_named(connection, "older")
        space = make_space(connection, coast.id, "asked", {})
        connection.execute("alter table vectors drop column fault")
        for name, vector in (("faulty", b"\x03"), ("whole", b"\x00\x00\x80\x3f")):
            connection.execute("insert into vectors values (%s, 'text', %s, %s)", [space.id, name, vector])
        connection.execute("delete from migrations where name = '0011_faults_of_vectors.sql'")
        assert migrate(connection) == ["0011_faults_of_vectors.sql"]
        names = ["faulty", "whole"]
        assert faults_named(connection, space.id, "text", names) == {"faulty": 3}
        assert vectors_named(connection, space.id, "text", names)["whole"].tolist() == [1.0]
        assert names_known(connection, space.id, "text", names) == {"whole"}


def test_a_fault_gives_way_to_a_vector_and_a_vector_to_a_fault(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        space = make_space(connection, coast.id, "asked", {})
        keep_faults(connection, space.id, "text", {"bell": 3, "rope": 0})
        assert faults_named(connection, space.id, "text", ["bell", "rope", "salt"]) == {"bell": 3, "rope": 0}
        keep_vectors(connection, space.id, "text", {"bell": np.ones(2, np.float32)})
        assert faults_named(connection, space.id, "text", ["bell", "rope"]) == {"rope": 0}
        keep_faults(connection, space.id, "text", {"bell": 4})
        assert names_known(connection, space.id, "text", ["bell", "rope"]) == set()
        # A copy has them too.
        copy_collection(connection, coast, "copy")
        copied = spaces_of(connection, collection_named(connection, "copy").id)[0]
        assert faults_named(connection, copied.id, "text", ["bell", "rope"]) == {"bell": 4, "rope": 0}


def test_tables_of_a_newer_version_are_refused_and_left_alone(pool: Pool):
    with pool.connection() as connection:
        connection.execute("insert into migrations (name) values ('9999_of_tomorrow.sql')")
        with pytest.raises(Unavailable, match=r"newer version of Pale Harbor.*9999_of_tomorrow\.sql"):
            migrate(connection)
        connection.execute("delete from migrations where name = '9999_of_tomorrow.sql'")
        assert migrate(connection) == []


def test_migrations_are_applied_once_whoever_comes_first(pool: Pool):
    def run(_: int) -> list[str]:
        with pool.connection() as connection:
            return migrate(connection)

    with ThreadPoolExecutor(4) as several:
        assert list(several.map(run, range(8))) == [[]] * 8
    with pool.connection() as connection:
        names = [name for (name,) in connection.execute("select name from migrations order by name")]
    assert names == [
        "0001_collections_to_measurements.sql",
        "0002_imports_and_revisions.sql",
        "0003_word_lists.sql",
        "0004_rules_that_end.sql",
        "0005_spaces.sql",
        "0006_judging.sql",
        "0007_present_words.sql",
        "0008_one_table_of_jobs.sql",
        "0009_told_of_judgments.sql",
        "0010_joining_is_a_job.sql",
        "0011_faults_of_vectors.sql",
        "0012_notes_of_lists.sql",
        "0013_imports_are_weighed.sql",
        "0014_drafts.sql",
        "0015_tunings.sql",
        "0016_remedies.sql",
        "0017_checks.sql",
        "0018_tuned_from_the_start.sql",
        "0019_past_queries.sql",
        "0020_judges_own_clocks.sql",
        "0021_people.sql",
        "0022_delivery.sql",
        "0023_scanned_pages.sql",
        "0024_when_records_changed.sql",
        "0025_in_step.sql",
    ]


def test_a_collection_is_made_once(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        make_collection(connection, "coast")
        assert [kept.id for kept in all_collections(connection)] == [coast.id]
        assert (coast.revision, coast.fingerprint, coast.default_ranker) == (0, "", None)


def test_fields_keep_their_order(pool: Pool, coast: Collection):
    fields = [
        CollectionField(name="id", kind="exact", role="key"),
        CollectionField(name="year", kind="number", several=True),
        CollectionField(name="a", kind="date", passages={"how": "sentences"}),
    ]
    with pool.connection() as connection:
        put_fields(connection, coast.id, [CollectionField(name="old", kind="text")])
        put_fields(connection, coast.id, fields)
        assert fields_of(connection, coast.id) == fields


def test_records_are_found_with_their_neighbours(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        assert merged(connection, [(key, {"id": key}) for key in ("b", "a", "Z", "é")]).added == 4
        assert record_count(connection, coast.id) == 4
        assert [keys_around(connection, coast.id, key) for key in ("Z", "b", "é")] == [
            (None, "a"),
            ("a", "é"),
            ("b", None),
        ]
        assert record_with_key(connection, coast, "é").field_values == {"id": "é"}
        with pytest.raises(NotFound, match='The collection "coast" has no record with the key "x"'):
            record_with_key(connection, coast, "x")


def test_of_rows_with_the_same_key_the_first_counts(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        assert merged(connection, [("a", {"n": 1}), ("b", {}), ("a", {"n": 2})]) == Merged(2, 0, 0, 0)
        assert record_with_key(connection, coast, "a").field_values == {"n": 1}


def test_what_a_record_was_before_is_kept(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        for n in (1, 2, 2, 3):
            merged(connection, [("a", {"n": n})])
        assert delete_records(connection, collection_named(connection, "coast"), ["a", "no such key"]) == 1
        states = earlier_states(connection, coast.id, "a")
        assert [
            (state.field_values["n"], state.revision, state.ended_revision, state.ended_by) for state in states
        ] == [
            (3, 3, 4, "deletion"),
            (2, 2, 3, "change"),
            (1, 1, 2, "change"),
        ]
        gone, count = deleted_records(connection, coast.id, 0, 10)
        assert ([state.key for state in gone], count) == (["a"], 1)
        merged(connection, [("a", {"n": 3})])
        assert deleted_records(connection, coast.id, 0, 10) == ([], 0)


def test_replacing_deletes_what_no_row_names(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        merged(connection, [("a", {"n": 1}), ("b", {"n": 1}), ("c", {"n": 1})])
        assert merged(connection, [("b", {"n": 1}), ("c", {"n": 2}), ("d", {})], replace=True) == Merged(1, 1, 1, 1)
        assert list(all_keys(connection, coast.id)) == ["b", "c", "d"]


numbers = count(1)

steps = st.lists(
    st.tuples(
        st.sampled_from(["put", "replace", "delete"]),
        st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2), max_size=3),
    ),
    max_size=8,
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=steps)
def test_equal_records_have_equal_fingerprints_however_they_came(pool: Pool, steps: list[tuple[str, dict[str, int]]]):
    name = f"c-{next(numbers)}"
    with pool.connection() as connection:
        make_collection(connection, name)
        truth: dict[str, int] = {}
        for deed, rows in steps:
            before = collection_named(connection, name)
            if deed == "delete":
                delete_records(connection, before, list(rows))
                after = {key: n for key, n in truth.items() if key not in rows}
            else:
                merged(connection, [(key, {"n": n}) for key, n in rows.items()], name, replace=deed == "replace")
                after = {**({} if deed == "replace" else truth), **rows}
            kept = collection_named(connection, name)
            assert kept.revision == before.revision + (after != truth)
            truth = after
        make_collection(connection, f"{name}-2")
        merged(connection, [(key, {"n": n}) for key, n in truth.items()], f"{name}-2")
        one, other = collection_named(connection, name), collection_named(connection, f"{name}-2")
        assert one.fingerprint == other.fingerprint
        assert (one.fingerprint == "") == (truth == {})
        changes = changes_since(connection, one.id, 0)
        assert changes.written == sorted(truth)


def test_a_collection_is_copied_renamed_and_dropped_whole(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        merged(connection, [("a", {"n": 1})])
        put_fields(connection, coast.id, [CollectionField(name="n", kind="number")])
        save_chain(connection, coast.id, "plain", "words")
        save_ranker(connection, coast.id, "first", DOCUMENT, {"plain": 1}, {}, "why")
        judged = put_set(
            connection, coast, "set", [SetQuery(query_id="q1", query="fog", need="", tags=["t"])], {("q1", "a"): 3}
        )
        put_judgments(
            connection,
            coast.id,
            judged.id,
            [Judgment(query_id="q1", record_key="a", judge="Ada", grade=3, note="seen", judged_at=TODAY)],
        )
        copy_collection(connection, collection_named(connection, "coast"), "copy")
        copy = collection_named(connection, "copy")
        assert copy.fingerprint == collection_named(connection, "coast").fingerprint
        assert copy.uid != coast.uid
        assert record_with_key(connection, copy, "a").field_values == {"n": 1}
        assert fields_of(connection, copy.id) == fields_of(connection, coast.id)
        assert ranker_named(connection, copy.id, "first").chain_versions == {"plain": 1}
        copied = set_named(connection, copy.id, "set")
        assert queries_of(connection, copied.id) == queries_of(connection, judged.id)
        assert grades_of(connection, copied.id) == {"q1": {"a": 3}}
        assert judgments_of(connection, copied.id) == judgments_of(connection, judged.id)
        assert stale_judgments(connection, copy.id, copied.id) == []
        rename_collection(connection, copy, "other")
        with pytest.raises(BadInput, match='There is a collection "coast" already'):
            rename_collection(connection, collection_named(connection, "other"), "coast")
        drop_collection(connection, collection_named(connection, "other"))
        assert [kept.name for kept in all_collections(connection)] == ["coast"]
        assert record_with_key(connection, coast, "a").field_values == {"n": 1}


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
            return save_ranker(connection, coast.id, "first", document, {}, {}, "").version

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
        save_ranker(connection, coast.id, "first", document, {"plain": 2}, {"names": 1}, "why not")
        kept = ranker_named(connection, coast.id, "first")
    assert list(kept.document) == ["equals_by", "readings"]
    assert list(kept.document["readings"][0].items()) == list(document["readings"][0].items())
    assert (kept.chain_versions, kept.list_versions, kept.note) == ({"plain": 2}, {"names": 1}, "why not")


def test_every_revision_of_a_judged_set_can_be_read_again(pool: Pool, coast: Collection):
    first, second = (
        SetQuery(query_id="q2", query="lamp", need="a need", tags=["x", "y"]),
        SetQuery(query_id="q1", query="Åsmoe"),
    )
    with pool.connection() as connection:
        judged = put_set(connection, coast, "visitors", [first, second], {("q1", "a"): 3, ("q2", "b"): 0})
        changed = replace(first, need="another")
        put_set(connection, coast, "visitors", [changed], {("q2", "b"): 2, ("q1", "a"): None})
        third = put_set(connection, coast, "visitors", [changed, second], {("q1", "a"): 1})
        assert (third.id, third.revision) == (judged.id, 3)
        read = [(queries_of(connection, third.id, r), grades_of(connection, third.id, r)) for r in (1, 2, 3)]
        assert read == [
            ([first, second], {"q1": {"a": 3}, "q2": {"b": 0}}),
            ([changed], {"q2": {"b": 2}}),
            ([changed, second], {"q1": {"a": 1}, "q2": {"b": 2}}),
        ]
        assert (queries_of(connection, third.id), grades_of(connection, third.id)) == read[2]
        with pytest.raises(NotFound, match=r'There is no judged set "visitor"\. There are: visitors\.'):
            set_named(connection, coast.id, "visitor")
        assert [kept.name for kept in sets_of(connection, coast.id)] == ["visitors"]


def said_by_ada(grade: int | None, seconds: int = 0, **more: Any) -> Judgment:
    at = TODAY + timedelta(seconds=seconds)
    return Judgment(query_id="q1", record_key="a", judge="Ada", grade=grade, note="", judged_at=at, **more)


def test_what_comes_later_counts_later_whatever_a_judge_s_clock_says(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        judged = put_set(connection, coast, "visitors", [SetQuery(query_id="q1", query="x")], {})

        def put(*said: Judgment) -> bool:
            return bool(put_judgments(connection, coast.id, judged.id, said))

        def stands() -> list[int | None]:
            return [one.grade for one in judgments_of(connection, judged.id)]

        # A clock that is seven thousand years ahead, and then right again.
        assert put(said_by_ada(3, seconds=7_000 * 31_557_600 - 10**9))
        assert put(said_by_ada(1))
        assert stands() == [1]
        # It is told of when the server heard of it.
        now = connection.execute("select clock_timestamp()").fetchone()
        assert now is not None
        assert (last_said_by(connection, judged.id, "Ada") or TODAY) <= now[0]
        # The same twice, and an older word by the clock that comes now.
        assert not put(said_by_ada(1))
        assert put(said_by_ada(0, seconds=-99))
        assert stands() == [0]
        # Within one delivery the judge's own order counts, in whatever order it comes.
        assert put(said_by_ada(2, seconds=30), said_by_ada(3, seconds=20))
        assert stands() == [2]
        assert put(said_by_ada(2, seconds=40, taken_back=True))
        assert stands() == []


def test_what_a_device_said_before_counts_no_more_however_late_it_comes(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        judged = put_set(connection, coast, "visitors", [SetQuery(query_id="q1", query="x")], {})

        def put(grade: int, device: str, order: int) -> bool:
            said = [said_by_ada(grade, seconds=order, device=device, order=order)]
            return bool(put_judgments(connection, coast.id, judged.id, said))

        assert put(3, "phone", 5)
        assert not put(1, "phone", 4)
        assert not put(1, "phone", 5)
        # Another device knows nothing of the first one's count.
        assert put(2, "desk", 0)
        assert not put(3, "phone", 5)
        assert put(0, "phone", 6)
        assert not put(2, "desk", 0)
        assert [one.grade for one in judgments_of(connection, judged.id)] == [0]


def test_made_up_devices_do_not_fill_a_row(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        judged = put_set(connection, coast, "visitors", [SetQuery(query_id="q1", query="x")], {})
        for number in range(150):
            said = [said_by_ada(1, seconds=number, device=f"{number:040}", order=1)]
            put_judgments(connection, coast.id, judged.id, said)
        row = connection.execute("select max(octet_length(said_orders::text)) from judgments").fetchone()
        assert row is not None
        assert row[0] < 4_100


def test_a_run_is_frozen_under_everything_it_depends_on(pool: Pool, coast: Collection):
    with pool.connection() as connection:
        ranker = save_ranker(connection, coast.id, "first", DOCUMENT, {}, {}, "")
        judged = put_set(connection, coast, "visitors", [SetQuery(query_id="q1", query="x")], {("q1", "a"): 1})
        key = RunKey(
            ranker_id=ranker.id,
            set_id=judged.id,
            records_revision=1,
            records_fingerprint="print",
            queries_revision=1,
            depth=1_000,
            program_version="0.1.0",
        )
        lists = [RunList("q1", ["b", "a"], [2.5, 0.1], 7, ["The space is empty."])]
        assert find_run(connection, key) is None
        run_id = save_run(connection, key, lists)
        assert save_run(connection, key, [RunList("q1", ["other"], [1.0], 1)]) == run_id
        assert lists_of(connection, run_id) == lists
        for changed in (
            replace(key, records_fingerprint="other"),
            replace(key, queries_revision=2),
            replace(key, depth=10),
            replace(key, program_version="9"),
        ):
            assert find_run(connection, changed) is None


def test_a_connection_for_one_statement_is_given_back_as_it_was_and_tells_what_broke_it(pool: Pool):
    with for_one_statement(pool) as connection:
        assert connection.autocommit
        assert connection.execute("select 1").fetchone() == (1,)
    assert not connection.autocommit
    with pytest.raises(psycopg.OperationalError, match="terminating"), for_one_statement(pool) as connection:
        connection.execute("select pg_terminate_backend(pg_backend_pid())")
    with pool.connection() as connection:
        assert not connection.autocommit
