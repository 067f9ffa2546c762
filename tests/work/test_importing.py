"""Imports: nothing is lost, nothing is half done, and what was cut off goes on where it stood."""

import multiprocessing
import random
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import orjson
import psycopg
import pytest
from psycopg.conninfo import conninfo_to_dict
from psycopg_pool import PoolClosed

from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.records import FORMATS, FieldPlan, ImportPlan, RawRow, Source
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import (
    Import,
    import_with_id,
    imports_of,
    rejected_rows,
    unfinished_imports,
)
from pale_harbor.store.ranking.rankers import ranker_named
from pale_harbor.store.records.records import all_records, record_count
from pale_harbor.store.running.jobs import holding_job, want_cancel
from pale_harbor.work.imports import importing
from pale_harbor.work.imports.importing import begin_import, import_now, imports_done, run_import
from pale_harbor.work.imports.mending import mend_rows, rejected_as_file
from pale_harbor.work.imports.sources import FileSource, database_source, preview
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.processes import LOADED
from pale_harbor.work.running.worker import JobRunner
from pale_harbor.work.workbench import Workbench
from tests.loading import Rows, file_of, load_path, load_rows
from tests.work import tasks


def contents(pool: Pool, collection: str = "coast") -> dict[str, dict[str, Any]]:
    with pool.connection() as connection:
        kept = collection_named(connection, collection)
        return {record.key: record.field_values for record in all_records(connection, kept.id)}


def incoming_count(pool: Pool) -> int:
    with pool.connection() as connection:
        row = connection.execute("select count(*) from incoming_rows").fetchone()
    assert row is not None
    return row[0]


def test_types_of_delimited_text_are_told_from_all_its_rows(pool: Pool, tmp_path: Path):
    path = tmp_path / "records.csv"
    rows = "".join(f"{i},Bell {i},{1800 + i},no,a|b,0{i}\n" for i in range(1_500))
    path.write_text(f"code,name,year,lost,materials,shelf\n{rows}x,Lamp,about 1850,yes,c,7\n")
    report = load_path(pool, path, plan=ImportPlan())
    assert (report.added, report.rejected) == (1_501, 0)
    with pool.connection() as connection:
        fields = {one.name: one for one in fields_of(connection, collection_named(connection, "coast").id)}
    assert {name: (one.kind, one.several, one.role) for name, one in fields.items()} == {
        "code": ("exact", False, "key"),
        "name": ("text", False, "title"),
        "year": ("exact", False, None),
        "lost": ("flag", False, None),
        "materials": ("exact", True, None),
        "shelf": ("exact", False, None),
    }
    assert contents(pool)["3"] == {
        "code": "3", "name": "Bell 3", "year": "1803", "lost": False, "materials": ["a", "b"], "shelf": "03",
    }  # fmt: skip


def test_a_type_that_was_set_is_kept_to_and_what_does_not_fit_is_told(pool: Pool, tmp_path: Path):
    path = tmp_path / "records.csv"
    path.write_text("id,year,seen,old\na,1846,1900-01-02,yes\nb,c. 1846,x,no\nc,,5.3.1846,maybe\n")
    fields = [
        FieldPlan(name="id", kind="exact"),
        FieldPlan(name="year", kind="number"),
        FieldPlan(name="seen", kind="date"),
        FieldPlan(name="old", kind="flag"),
    ]
    report = load_path(pool, path, plan=ImportPlan(key="id", fields=fields))
    assert contents(pool) == {"a": {"id": "a", "year": 1846, "seen": "1900-01-02", "old": True}}
    assert [(row.line, row.reason, row.raw) for row in report.rejects] == [
        (3, 'the field "year" must be a number, and here is "c. 1846".', "b,c. 1846,x,no\n"),
        (4, 'the field "old" must be a flag (true or false, yes or no), and here is "maybe".', "c,,5.3.1846,maybe\n"),
    ]


def test_a_preview_guesses_and_stores_nothing(pool: Pool, tmp_path: Path):
    path = tmp_path / "records.csv"
    path.write_text("Nr;Titel;Sprache\n1;Nebelglocke;de\n2;Fog bell;en\n3;too;many;cells\n")
    seen = preview(FileSource(Source(path)), ImportPlan())
    assert (seen.plan.delimiter, seen.plan.key, seen.rejected, seen.complete) == (";", "Nr", 1, True)
    assert [(one.name, one.role) for one in seen.plan.fields or []] == [
        ("Nr", "key"), ("Titel", "title"), ("Sprache", "language"),
    ]  # fmt: skip
    assert [(row.key, row.reason) for row in seen.rows] == [
        ("1", ""), ("2", ""), (None, "4 cells, but the header has 3."),
    ]  # fmt: skip
    with pool.connection() as connection, pytest.raises(NotFound):
        collection_named(connection, "coast")


def test_rows_without_a_key_are_numbered(pool: Pool, tmp_path: Path):
    path = tmp_path / "records.csv"
    path.write_text("title,year\nFog,1846\nFog,1846\n")
    assert load_path(pool, path, plan=ImportPlan()).added == 2
    assert list(contents(pool)) == ["00000001", "00000002"]


def test_replacing_removes_what_the_file_no_longer_has(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": "a"}, {"id": "b", "n": 1}, {"id": "c"}])
    path = file_of(tmp_path, [{"id": "b", "n": 2}, {"id": "d"}, {"id": "c"}])
    report = load_path(pool, path, plan=ImportPlan(key="id", replace=True))
    assert (report.added, report.updated, report.unchanged, report.deleted) == (1, 1, 1, 1)
    assert sorted(contents(pool)) == ["b", "c", "d"]


def test_a_collection_just_loaded_has_a_ranker_that_fits_it(pool: Pool, tmp_path: Path):
    english = "The bell of the light was rung in fog, and it was heard from the town."
    german = "Die Glocke des Feuers wurde bei Nebel geläutet und war in der Stadt zu hören."
    rows: Rows = [
        {"id": f"sm{i}", "title": f"Bell {i} of fog", "text": english, "notiz": german, "code": f"A-{i}", "n": i}
        for i in range(30)
    ]
    load_rows(pool, tmp_path, rows)
    with pool.connection() as connection:
        kept = collection_named(connection, "coast")
        document = ranker_named(connection, kept.id, kept.default_ranker or "").document
    stemmed = "nfkc > words > lower > stopwords(en) > stem(en) > accents"
    codes = "nfkc > blanks > parts(whole=yes) > lower > accents"
    assert document["combine"] == {"how": "pooled"}
    assert {r["field"]: (r["chain"], r["weight"]) for r in document["readings"]} == {
        "id": (codes, 0.3),
        "title": ("nfkc > words > lower > accents", 3.0),
        "text": (stemmed, 1.0),
        "notiz": ("nfkc > words > lower > stopwords(de) > stem(de) > accents", 1.0),
        "code": (codes, 0.3),
    }


class CutOff(BaseException):
    """Stands for the end of the process."""


def cut_off_after(rows: int, monkeypatch: pytest.MonkeyPatch) -> None:
    real = FileSource.rows

    def until(self: FileSource, plan: ImportPlan) -> Iterator[RawRow]:
        for number, row in enumerate(real(self, plan), start=1):
            if number > rows:
                raise CutOff
            yield row

    monkeypatch.setattr(FileSource, "rows", until)


def many_rows(count: int = 2_000) -> Rows:
    return [{"id": f"k{i % 1_900}", "title": f"Fog {i}", "n": i if i % 100 else "odd"} for i in range(count)]


def test_an_import_that_was_cut_off_goes_on_where_it_stood(pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    path = file_of(tmp_path, many_rows())
    whole = load_path(pool, path, "whole")
    monkeypatch.setattr(importing, "_BATCH_ROWS", 300)
    plan = ImportPlan(key="id")
    with monkeypatch.context() as cut:
        cut_off_after(1_000, cut)
        with pytest.raises(CutOff):
            import_now(pool, "coast", FileSource(Source(path)), plan)
    with pool.connection() as connection:
        (job,) = unfinished_imports(connection)
        with pytest.raises(NotFound):
            collection_named(connection, "coast")
    assert (job.rows_read, incoming_count(pool)) == (900, 900)
    report = import_now(pool, "coast", FileSource(Source(path)), plan)
    assert report.job == job.id
    assert contents(pool) == contents(pool, "whole")
    assert [(r.line, r.reason, r.raw) for r in report.rejects] == [(r.line, r.reason, r.raw) for r in whole.rejects]
    assert (report.read, report.added, report.rejected) == (2_000, 1_900, 100)
    assert incoming_count(pool) == 0


def test_a_file_that_changed_since_is_begun_anew(pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    path = file_of(tmp_path, many_rows())
    monkeypatch.setattr(importing, "_BATCH_ROWS", 300)
    with monkeypatch.context() as cut:
        cut_off_after(1_000, cut)
        with pytest.raises(CutOff):
            load_path(pool, path)
    path = file_of(tmp_path, [{"id": "other"}])
    assert load_path(pool, path).added == 1
    assert list(contents(pool)) == ["other"]
    with pool.connection() as connection:
        (old,) = unfinished_imports(connection)
    with pytest.raises(BadInput, match=r"records\.jsonl was changed since\. Import it anew\."):
        run_import(pool, old.id)
    assert incoming_count(pool) == 0


def test_a_cancelled_import_leaves_the_collection_as_it_was(
    pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    load_rows(pool, tmp_path, [{"id": "before"}])
    path = file_of(tmp_path, many_rows(), "more.jsonl")
    monkeypatch.setattr(importing, "_BATCH_ROWS", 300)
    source = FileSource(Source(path))
    job_id = begin_import(pool, "coast", source, ImportPlan(key="id"), by_server=False)
    with pool.connection() as connection:
        want_cancel(connection, job_id)
    with pytest.raises(Cancelled):
        run_import(pool, job_id, source)
    assert list(contents(pool)) == ["before"]
    assert incoming_count(pool) == 0
    with pool.connection() as connection:
        assert import_with_id(connection, job_id).state == "cancelled"
        assert rejected_rows(connection, job_id) == []


def test_who_begins_an_import_hears_of_it_before_anybody_can_do_it(pool: Pool, tmp_path: Path):
    """What is secret in a source is only with whoever begins: a runner that is quicker would not have it."""
    source = FileSource(Source(file_of(tmp_path, [{"id": "a"}])))

    def noted(_job_id: int) -> None:
        with pool.connection() as connection:
            assert unfinished_imports(connection) == []

    job_id = begin_import(pool, "coast", source, ImportPlan(key="id"), by_server=True, noted=noted)
    with pool.connection() as connection:
        assert [one.id for one in unfinished_imports(connection)] == [job_id]


def test_an_import_is_done_by_one_at_a_time(pool: Pool, tmp_path: Path):
    source = FileSource(Source(file_of(tmp_path, [{"id": "a"}])))
    job_id = begin_import(pool, "coast", source, ImportPlan(key="id"), by_server=False)
    with psycopg.connect(str(pool.conninfo)) as other, holding_job(other, job_id) as held:
        assert held
        with pytest.raises(BadInput, match="being done already"):
            run_import(pool, job_id, source)
    assert run_import(pool, job_id, source).added == 1


def test_a_server_takes_up_what_it_was_at(pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    source = FileSource(Source(file_of(tmp_path, many_rows())))
    monkeypatch.setattr(importing, "_BATCH_ROWS", 300)
    job_id = begin_import(pool, "coast", source, ImportPlan(key="id"), by_server=True)
    with monkeypatch.context() as cut:
        cut_off_after(1_000, cut)
        with pytest.raises(CutOff):
            run_import(pool, job_id, source)
    runner = JobRunner(pool, {"import": imports_done(pool, {})})
    assert runner.look() == [job_id]
    runner.finish()
    with pool.connection() as connection:
        assert import_with_id(connection, job_id).state == "done"
    assert len(contents(pool)) == 1_900


def test_killed_at_random_moments_and_resumed_it_is_the_same_collection(pool: Pool, tmp_path: Path):
    """kill -9 at moments drawn from a seed, then left alone: the import is taken up again each time."""
    path = file_of(tmp_path, many_rows(8_000))
    load_path(pool, path, "whole")
    moments = random.Random(1846)
    # Forked from a process that has loaded what an import needs, and as alone as any.
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([*LOADED, "tests.work.tasks"])
    ready = context.Semaphore(0)
    kills = 0
    for moment in [*(moments.uniform(0, 0.4) for _ in range(8)), *(moments.uniform(0.3, 1.5) for _ in range(4)), 60]:
        process = context.Process(target=tasks.load_slowly, args=(str(pool.conninfo), path, ready))
        process.start()
        assert ready.acquire(timeout=60)
        process.join(moment)
        if process.exitcode == 0:
            break
        assert process.exitcode is None
        process.kill()
        process.join()
        kills += 1
    assert kills >= 6
    assert contents(pool) == contents(pool, "whole")
    with pool.connection() as connection:
        one, other = collection_named(connection, "coast"), collection_named(connection, "whole")
        assert one.fingerprint == other.fingerprint
        assert one.revision == 1
        assert unfinished_imports(connection) == []


def test_rejected_rows_are_mended_and_go_in(pool: Pool, tmp_path: Path):
    path = tmp_path / "records.csv"
    path.write_text('id;year;title\na;1846;Fog\nb;c. 1850;"Bell; large"\nc;1851\n')
    plan = ImportPlan(key="id", fields=[FieldPlan(name="year", kind="number")])
    report = load_path(pool, path, plan=plan)
    assert [row.line for row in report.rejects] == [3, 4]
    with pool.connection() as connection:
        job = import_with_id(connection, report.job)
        name, content = rejected_as_file(job, rejected_rows(connection, job.id))
    assert name == "records-rejected.csv"
    assert content == 'id;year;title\nb;c. 1850;"Bell; large"\nc;1851\n'
    mended = mend_rows(pool, report.job, [(2, 'b;1850;"Bell; large"\n'), (3, "c;about 1851;Lamp")])
    assert mended.mended == [2]
    assert [row.reason for row in mended.still_rejected] == [
        'the field "year" must be a number, and here is "about 1851".'
    ]
    assert contents(pool)["b"] == {"id": "b", "year": 1850, "title": "Bell; large"}
    with pool.connection() as connection:
        assert import_with_id(connection, report.job).rows_rejected == 1
        assert [(row.line, row.raw) for row in rejected_rows(connection, report.job)] == [(4, "c;about 1851;Lamp")]
    mend_rows(pool, report.job, [(3, "c;1851;Lamp")])
    with pool.connection() as connection:
        assert rejected_rows(connection, report.job) == []
        assert [job.state for job in imports_of(connection, "coast")] == ["done"]


class OfTwoLines:
    """A title on one line and a key on the next."""

    name = "two_lines"
    title = "two lines"
    mended_by: str | None = "two_lines"

    def recognises(self, source: Source, head: bytes) -> bool:
        return source.name.endswith(".two")

    def complete_plan(self, source: Source, plan: ImportPlan) -> ImportPlan:
        return plan

    def rows(self, source: Source, plan: ImportPlan) -> Iterator[RawRow]:
        with source.open() as file:
            pieces = file.read().split(b"\n\n")
        for number, piece in enumerate(pieces):
            title, line_end, key = piece.strip().decode().partition("\n")
            values = {"id": key, "title": title} if line_end else None
            yield RawRow(1 + 3 * number, values, "the key is missing.", piece.strip() + b"\n")


def test_rows_of_any_kind_of_file_are_mended_by_the_kind_that_it_names(
    pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr("pale_harbor.formats.records.FORMATS", (OfTwoLines(), *FORMATS))
    path = tmp_path / "records.two"
    path.write_text("Fog bell\na\n\nA lamp\n\nQuay\nc\n")
    report = load_path(pool, path, plan=ImportPlan(key="id"))
    assert (report.added, [row.line for row in report.rejects]) == (2, [4])
    with pool.connection() as connection:
        job = import_with_id(connection, report.job)
        rejected = rejected_rows(connection, job.id)
    assert rejected_as_file(job, rejected) == ("records-rejected.two", "A lamp\n")
    for name, called in (("cards.two.gz", "cards-rejected.two"), ("cards", "cards-rejected.txt")):
        assert rejected_as_file(replace(job, source={"name": name}), rejected)[0] == called
    number = rejected[0].row_number
    assert [row.reason for row in mend_rows(pool, report.job, [(number, "A lamp")]).still_rejected] == [
        "the key is missing."
    ]
    assert mend_rows(pool, report.job, [(number, "A lamp\nb")]).mended == [number]
    assert contents(pool)["b"] == {"id": "b", "title": "A lamp"}


def test_rows_that_are_files_are_mended_in_the_files(pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    own = OfTwoLines()
    own.mended_by = None
    monkeypatch.setattr("pale_harbor.formats.records.FORMATS", (own, *FORMATS))
    path = tmp_path / "records.two"
    path.write_text("Fog bell\na\n\nA lamp\n")
    report = load_path(pool, path, plan=ImportPlan(key="id"))
    with pytest.raises(BadInput, match="are mended in the files themselves"):
        mend_rows(pool, report.job, [(report.rejects[0].row_number, "A lamp\nb")])


@pytest.fixture
def other_database(cluster: Cluster) -> Iterator[str]:
    """A second database, of somebody else."""
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        connection.execute("drop database if exists archive")
        connection.execute("create database archive")
    address = cluster.keepers_address("archive")
    with psycopg.connect(address) as connection:
        connection.execute("create table makers (id int primary key, name text)")
        connection.execute(
            "create table things (nr text, title text, maker int, weight numeric, made date, tags text[], "
            "changed timestamptz default now())"
        )
        connection.execute("insert into makers values (1, 'Coyle'), (2, 'Orde')")
        connection.execute(
            "insert into things values ('a', 'Harpoon', 1, 2.50, '1846-05-03', '{ash,iron}', '2020-01-01'), "
            "('b', 'Lamp', null, 7, null, null, '2020-01-02')"
        )
    yield address
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        connection.execute("drop database archive with (force)")


def test_whatever_a_query_does_beside_reading_is_taken_back(pool: Pool, other_database: str):
    source = database_source(pool, "coast", other_database, "select lo_create(0)::bigint as nr", None)
    with suppress(BadInput):
        import_now(pool, "coast", source, ImportPlan(key="nr"))
    with psycopg.connect(other_database) as connection:
        assert connection.execute("select count(*) from pg_largeobject_metadata").fetchone() == (0,)


SELECT = """
select nr, title, makers.name as maker, weight, made, tags, changed
from things left join makers on makers.id = maker order by nr;
"""


def test_records_come_from_another_database(pool: Pool, other_database: str):
    source = database_source(pool, "coast", other_database, SELECT, None)
    assert import_now(pool, "coast", source, ImportPlan(key="nr")).added == 2
    (first, second) = contents(pool).values()
    first.pop("changed")
    assert first == {
        "nr": "a", "title": "Harpoon", "maker": "Coyle", "weight": 2.5, "made": "1846-05-03", "tags": ["ash", "iron"],
    }  # fmt: skip
    assert (second["nr"], second["weight"]) == ("b", 7)
    with pool.connection() as connection:
        kinds = {one.name: one.kind for one in fields_of(connection, collection_named(connection, "coast").id)}
        kept = orjson.dumps([job.source for job in imports_of(connection, "coast")]).decode()
    assert (kinds["made"], kinds["weight"], kinds["tags"]) == ("date", "number", "exact")
    password = conninfo_to_dict(other_database)["password"]
    assert str(password) not in kept


def test_only_what_changed_is_read_where_a_column_tells(pool: Pool, other_database: str):
    def load() -> tuple[int, int, int]:
        source = database_source(pool, "coast", other_database, SELECT, "changed")
        report = import_now(pool, "coast", source, ImportPlan(key="nr"))
        return report.read, report.added, report.updated

    assert load() == (2, 2, 0)
    with psycopg.connect(other_database) as connection:
        connection.execute("update things set title = 'Whale lance', changed = '2021-01-01' where nr = 'a'")
        connection.execute("insert into things values ('c', 'Bell', 2, 1, null, null, '2021-01-01')")
    assert load() == (3, 1, 1)
    assert load() == (2, 0, 0)


@pytest.mark.parametrize(
    ("query", "told"),
    [
        ("select nothing", 'column "nothing" does not exist'),
        ("delete from things returning nr", "syntax error"),
        ("select nr, title as nr from things", "more than one column 'nr'"),
        ("insert into things select * from things", "syntax error"),
    ],
)
def test_a_query_that_cannot_be_asked_is_told_and_changes_nothing(
    pool: Pool, other_database: str, query: str, told: str
):
    with pytest.raises(BadInput, match=told):
        import_now(pool, "coast", database_source(pool, "coast", other_database, query, None), ImportPlan(key="nr"))
    with psycopg.connect(other_database) as connection:
        assert connection.execute("select count(*) from things").fetchone() == (2,)
    with pytest.raises(BadInput, match="no connection string"):
        database_source(pool, "coast", "a database", query, None)


def test_a_query_may_not_write(pool: Pool, other_database: str):
    with psycopg.connect(other_database) as connection:
        connection.execute(
            "create function sly() returns text language sql as $$ delete from things; select 'x'::text $$"
        )
    with pytest.raises(BadInput, match="read-only transaction"):
        import_now(
            pool,
            "coast",
            database_source(pool, "coast", other_database, "select sly() as nr", None),
            ImportPlan(key="nr"),
        )


def test_many_rows_do_not_stay_in_memory(pool: Pool, tmp_path: Path):
    """A file much larger than a batch is read with no more memory than a few batches take."""
    import tracemalloc

    path = tmp_path / "large.csv"
    with path.open("w") as file:
        file.write("id,text\n")
        for i in range(10_000):
            file.write(f"{i},{'fog and bells ' * 300}\n")
    assert path.stat().st_size > 40_000_000
    tracemalloc.start()
    load_path(pool, path, plan=ImportPlan(key="id", fields=[]))
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert most < 20_000_000
    with pool.connection() as connection:
        assert record_count(connection, collection_named(connection, "coast").id) == 10_000


def test_a_collection_that_is_renamed_during_an_import_gets_its_rows(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "old", "title": "Fog"}])
    renamed: list[str] = []

    def rename(job: Import) -> None:
        if not renamed and job.rows_read:
            bench.rename_collection("coast", "shore")
            renamed.append("shore")

    source = FileSource(Source(file_of(tmp_path, many_rows(2_500), "more.jsonl")))
    report = import_now(bench.pool, "coast", source, ImportPlan(key="id"), rename)
    assert renamed == ["shore"]
    assert [one.name for one in bench.collections()] == ["shore"]
    assert len(contents(bench.pool, "shore")) == report.added + 1
    with bench.pool.connection() as connection:
        assert import_with_id(connection, report.job).collection == "shore"


def test_what_goes_wrong_in_the_background_is_told_in_the_log(capsys: pytest.CaptureFixture[str]):
    def fail() -> None:
        raise ValueError("a mistake")

    def refuse() -> None:
        raise BadInput("not like this")

    def be_late() -> None:
        raise PoolClosed("the pool is closed")

    in_background("reading", be_late).join(10)
    told = capsys.readouterr().out
    # A process that ends leaves its work to others: nothing went wrong.
    assert "work cut off" in told
    assert "broke off" not in told
    in_background("joining slabs", fail).join(10)
    in_background("asking", refuse).join(10)
    told = capsys.readouterr().out
    assert "work broke off" in told
    assert "a mistake" in told
    assert "not like this" in told
