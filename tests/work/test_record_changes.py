"""Records put and deleted one by one are found by the next search, as if all had been indexed at once."""

import csv
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.records import earlier_states
from pale_harbor.work.collections import opened as opened_module
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.changes import put_records, remove_records, restore_record
from pale_harbor.work.records.exporting import export_to
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.strategies import word_texts


def found(bench: Workbench, query: str, choice: RankerChoice, collection: str = "coast") -> list[tuple[str, float]]:
    def work(opened: OpenCollection) -> list[tuple[str, float]]:
        answer = find(opened, bench.choose(opened.collection, choice).ranker, Question(query), 50)
        return [(result.key, result.score) for result in answer.results]

    return bench.with_collection(collection, work)


made = st.fixed_dictionaries({"title": word_texts(), "text": word_texts()})
changes = st.lists(st.dictionaries(st.sampled_from("abcdef"), st.none() | made, min_size=1, max_size=4), max_size=5)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=changes, query=word_texts())
def test_changes_one_by_one_rank_as_one_import(
    bench: Workbench,
    tmp_path: Path,
    simple_ranker: RankerDocument,
    steps: list[dict[str, dict[str, str] | None]],
    query: str,
):
    choice = RankerChoice(document=simple_ranker)
    truth: dict[str, dict[str, Any]] = {"z": {"id": "z", "title": "fog", "text": "bell"}}
    for collection in ("coast", "whole"):
        if any(kept.name == collection for kept in bench.collections()):
            bench.drop_collection(collection)
    load_rows(bench.pool, tmp_path, list(truth.values()))
    found(bench, query, choice)
    for step in steps:
        for key, values in step.items():
            if values is None:
                remove_records(bench.pool, "coast", [key])
                truth.pop(key, None)
            else:
                truth[key] = {"id": key, **values}
                put_records(bench.pool, "coast", [truth[key]])
            found(bench, query, choice)
    load_rows(bench.pool, tmp_path, list(truth.values()), "whole")
    expected = found(bench, query, choice, "whole")
    assert found(bench, query, choice) == expected
    # Another process finds the same in the files that were left.
    assert found(Workbench(bench.pool, bench.index_folder), query, choice) == expected


def test_slabs_that_were_joined_in_the_background_rank_the_same(
    bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr(opened_module, "JOINED_AT_ONCE", 0)
    choice = RankerChoice(document=simple_ranker)
    load_rows(bench.pool, tmp_path, [{"id": f"a{i}", "title": "fog", "text": f"bell {i}"} for i in range(20)])
    found(bench, "fog bell", choice)
    for i in range(12):
        put_records(bench.pool, "coast", [{"id": f"b{i}", "title": "fog bell", "text": "horn"}])
        assert f"b{i}" in dict(found(bench, "fog bell", choice))
    fresh = Workbench(bench.pool, tmp_path / "other")
    assert found(bench, "fog bell", choice) == found(fresh, "fog bell", choice)


def test_a_record_is_restored_as_it_was(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog"}])
    put_records(bench.pool, "coast", [{"id": "a", "title": "Bell"}])
    removed = remove_records(bench.pool, "coast", ["a", "no such key"])
    assert (removed.added, removed.updated, removed.unchanged, removed.deleted) == (0, 0, 0, 1)
    with bench.pool.connection() as connection:
        states = earlier_states(connection, collection_named(connection, "coast").id, "a")
    assert [(state.field_values["title"], state.ended_by) for state in states] == [
        ("Bell", "deletion"),
        ("Fog", "change"),
    ]
    assert restore_record(bench.pool, "coast", "a", states[1].ended_revision).added == 1
    assert [key for key, _ in found(bench, "fog", RankerChoice())] == ["a"]
    with pytest.raises(BadInput, match="no state that ended with revision 99"):
        restore_record(bench.pool, "coast", "a", 99)


def test_records_are_put_all_or_none(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a"}])
    with pytest.raises(BadInput) as caught:
        put_records(bench.pool, "coast", [{"id": "b"}, {"title": "no key"}, {"id": "b"}])
    assert caught.value.problems == [
        ("record 2", 'the key field "id" is missing or empty.'),
        ("record 3", 'the key "b" stands here twice.'),
    ]
    with bench.pool.connection() as connection:
        assert collection_named(connection, "coast").revision == 1


scalars = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**70), 2**70).filter(lambda n: -(2**63) <= n < 2**63),
    st.floats(allow_nan=False, allow_infinity=False),
    st.sampled_from(
        ["", "007", "1846", "1.50", "true", "Fog", "=SUM(A1)", "-5", "+1", "@x", "'=1", '"q"', "a|b", "[1]"]
    ),
    st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), max_size=12),
)
names = st.one_of(
    st.sampled_from(["title", "year", "=x", "x [JSON]", '"q"', "a,b", "id2"]),
    st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00."), min_size=1, max_size=6).filter(
        lambda name: name.strip() != "" and name != "id"
    ),
)
collections = st.lists(
    st.dictionaries(names, scalars | st.lists(scalars, max_size=3), max_size=5), min_size=1, max_size=8
)
one_kind = st.lists(
    st.fixed_dictionaries(
        {},
        optional={
            "year": st.integers(0, 3000),
            "weight": st.floats(0, 10),
            "lost": st.booleans(),
            "materials": st.lists(st.sampled_from(["ash", "iron"])),
            "title": st.sampled_from(["Fog", "Bell; large", "Lamp\r\nwith lines"]),
        },
    ),
    min_size=1,
    max_size=8,
)


@pytest.mark.parametrize("suffix", ["jsonl", "csv", "parquet"])
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(rows=collections | one_kind)
def test_an_import_of_an_export_gives_the_same_collection(
    bench: Workbench, tmp_path: Path, suffix: Any, rows: list[dict[str, Any]]
):
    for collection in ("coast", "again"):
        if any(kept.name == collection for kept in bench.collections()):
            bench.drop_collection(collection)
    load_rows(bench.pool, tmp_path, [{**row, "id": f"k{number}"} for number, row in enumerate(rows)])
    path = tmp_path / f"records.{suffix}"
    export_to(bench.pool, "coast", suffix, path)
    report = import_now(bench.pool, "again", FileSource(Source(path)), ImportPlan(key="id"))
    assert (report.added, report.rejected) == (len(rows), 0), report.rejects
    with bench.pool.connection() as connection:
        one, other = collection_named(connection, "coast"), collection_named(connection, "again")
    assert one.fingerprint == other.fingerprint


def test_no_cell_of_a_csv_export_is_a_formula(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "t": "=cmd()", "=n": "x", "u": "plain", "v": "+1"}, {"id": "@b"}])
    path = tmp_path / "records.csv"
    export_to(bench.pool, "coast", "csv", path)
    rows = list(csv.reader(path.open(newline="")))
    assert rows[0] == ["id [JSON]", "t [JSON]", '"=n" [JSON]', "u", "v [JSON]"]
    assert not [cell for row in rows for cell in row if cell.startswith(("=", "+", "-", "@"))]


def joining_jobs(bench: Workbench) -> list[tuple[str, str | None]]:
    with bench.pool.connection() as connection:
        rows = connection.execute("select state, problem from jobs where kind = 'joining'")
        return [(state, problem) for state, problem in rows]


def test_joining_in_the_background_is_a_job_whose_end_is_kept(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog"}])
    begun: list[Callable[[], None]] = []
    monkeypatch.setattr(opened_module, "JOINED_AT_ONCE", 0)

    def begin(_name: str, work: Callable[[], None]) -> None:
        begun.append(work)

    monkeypatch.setattr("pale_harbor.work.workbench.in_background", begin)
    for number in range(8):
        put_records(bench.pool, "coast", [{"id": f"later{number}", "title": "Fog bell"}])
        bench.with_collection("coast", lambda opened: opened.record_count)
    assert joining_jobs(bench) == []
    begun[-1]()
    assert joining_jobs(bench) == [("done", None)]
    assert len(bench.with_collection("coast", lambda opened: opened.slabs)) < 9

    def broken(_opened: OpenCollection) -> OpenCollection:
        raise Unavailable("The disk is full.")

    monkeypatch.setattr("pale_harbor.work.workbench.with_joined_slabs", broken)
    with pytest.raises(Unavailable):
        begun[-1]()
    # The one that ended before is forgotten.
    assert joining_jobs(bench) == [("failed", "The disk is full.")]


def test_what_changed_while_large_slabs_were_joined_ranks_the_same(
    bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument, monkeypatch: pytest.MonkeyPatch
):
    choice = RankerChoice(document=simple_ranker)
    truth = {f"a{i}": {"id": f"a{i}", "title": "fog", "text": f"bell {i}"} for i in range(20)}
    load_rows(bench.pool, tmp_path, list(truth.values()))
    begun: list[Callable[[], None]] = []

    def begin(_name: str, work: Callable[[], None]) -> None:
        begun.append(work)

    monkeypatch.setattr(opened_module, "JOINED_AT_ONCE", 0)
    monkeypatch.setattr("pale_harbor.work.workbench.in_background", begin)

    def put(key: str, text: str) -> None:
        truth[key] = {"id": key, "title": "fog", "text": text}
        put_records(bench.pool, "coast", [truth[key]])
        found(bench, "fog bell", choice)

    found(bench, "fog bell", choice)
    for number in range(6):
        put(f"b{number}", "bell bell")
    # One at a time, however often records change meanwhile.
    assert len(begun) == 1
    put("a1", "changed while it was joined, bell")
    put("b0", "changed too, bell")
    put("c0", "new, bell")
    remove_records(bench.pool, "coast", ["a2", "b1"])
    del truth["a2"], truth["b1"]
    before = found(bench, "fog bell", choice)
    slabs = len(bench.with_collection("coast", lambda opened: opened.slabs))
    begun[0]()
    assert len(bench.with_collection("coast", lambda opened: opened.slabs)) < slabs
    load_rows(bench.pool, tmp_path, list(truth.values()), "whole")
    expected = found(bench, "fog bell", choice, "whole")
    assert found(bench, "fog bell", choice) == before == expected
    assert found(Workbench(bench.pool, bench.index_folder), "fog bell", choice) == expected
    # And the next one may begin.
    put("c1", "bell")
    assert len(begun) > 1


def test_slabs_that_are_no_longer_there_are_not_replaced(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    load_rows(bench.pool, tmp_path, [{"id": f"a{i}", "title": "fog"} for i in range(4)])
    bench.with_collection("coast", lambda opened: opened.record_count)
    monkeypatch.setattr(opened_module, "JOINED_AT_ONCE", 0)

    def begin_nothing(_name: str, _work: Callable[[], None]) -> None:
        pass

    monkeypatch.setattr("pale_harbor.work.workbench.in_background", begin_nothing)
    put_records(bench.pool, "coast", [{"id": "b", "title": "fog"}])

    def work(opened: OpenCollection) -> OpenCollection | None:
        fewer = opened_module.with_joined_slabs(opened)
        assert opened_module.taken_over(opened, opened, fewer) is not None
        return opened_module.taken_over(fewer, opened, fewer)

    assert bench.with_collection("coast", work) is None


def test_slabs_that_come_are_read_as_the_large_one_is_before_they_are_joined(
    bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument
):
    choice = RankerChoice(document=simple_ranker)
    load_rows(bench.pool, tmp_path, [{"id": f"a{i}", "title": "fog", "text": "bell"} for i in range(8)])
    found(bench, "fog", choice)
    read = bench.with_collection("coast", lambda opened: opened.slabs[0].slab.known_readings())
    assert read
    put_records(bench.pool, "coast", [{"id": f"b{i}", "title": "fog", "text": "bell"} for i in range(4)])
    joined = bench.with_collection("coast", lambda opened: opened.slabs)
    assert len(joined) == 1
    # Nobody has asked it anything yet, and its indexes are there.
    assert joined[0].slab.known_readings() == read
