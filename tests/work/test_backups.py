"""Backups: of one moment, restored whole or not at all, from every version of the tables there ever was."""

import errno
import os
import struct
import zipfile
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import Any

import orjson
import psycopg
import pytest
from psycopg import sql
from psycopg.conninfo import make_conninfo

from pale_harbor.core.measures import measure
from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.formats import whole_files
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.store.backups.tables import copy_out, counters, table_shapes
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import Pool, known_migrations, open_pool, serving_alone, use_database
from pale_harbor.work.backups.making import make_backup
from pale_harbor.work.backups.measuring_again import MeasuredAgain, measured_again
from pale_harbor.work.backups.restoring import restore_backup
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.measuring.measuring import measure_ranker
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

KEPT = Path(__file__).parents[1] / "data/backups"
ROWS: list[dict[str, Any]] = [
    {"id": "a", "title": "Fog bell", "text": "Rung for the ferries.", "height": 1.50},
    {"id": "b", "title": "Tide table\twith tabs\\", "text": "Hours of high water.\nAnd of low.", "height": None},
    {"id": "ø", "title": "Færge 🛳", "text": "Ferry.", "many": ["x", "y"]},
]
_numbers = count(1)


@pytest.fixture
def other(cluster: Cluster, empty_database: Callable[[], str]) -> Any:
    """A second installation that holds nothing."""
    with open_pool(cluster.address(empty_database())) as opened:
        yield opened


@pytest.fixture
def kept(pool: Pool, bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument) -> Path:
    """A backup of a collection with a ranker, a judged set and a run of it."""
    load_rows(pool, tmp_path, ROWS)
    bench.put_ranker("coast", "first", simple_ranker)
    (tmp_path / "queries.tsv").write_text("q1\tferry\nq2\ttide\n")
    (tmp_path / "grades.qrels").write_text("q1 0 a 3\nq2 0 b 2\n")
    load_judged_set(bench, "coast", "visitors", tmp_path / "queries.tsv", tmp_path / "grades.qrels")
    measure_ranker(bench, "coast", RankerChoice("first"), "visitors", [measure("ndcg@10")])
    file = tmp_path / "kept.zip"
    make_backup(pool, file)
    return file


def contents(pool: Pool) -> dict[str, str]:
    with pool.connection() as connection:
        return {one.name: copy_out(connection, one, len).digest for one in table_shapes(connection)}


def changed(file: Path, told: dict[str, Any] | None = None, members: dict[str, bytes | None] | None = None) -> Path:
    """The same backup with something in it changed, or left out where it is None."""
    result = file.with_name("changed.zip")
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(result, "w") as new:
        for name in old.namelist():
            own = old.read(name)
            if name == "backup.json" and told is not None:
                own = orjson.dumps(orjson.loads(own) | told)
            content = (members or {}).get(name, own)
            if content is not None:
                new.writestr(name, content)
    return result


def is_untouched(pool: Pool) -> bool:
    with pool.connection() as connection:
        return connection.execute("select count(*) from collections").fetchone() == (0,)


def test_what_is_restored_is_what_was_kept_row_by_row(pool: Pool, other: Pool, kept: Path, tmp_path: Path):
    restored = restore_backup(other, tmp_path / "other", kept)
    assert contents(other) == contents(pool)
    with pool.connection() as connection, other.connection() as second:
        assert counters(second) == counters(connection)
    assert (restored.brought_up, restored.differing) == ([], {})
    assert [(one.name, one.records) for one in restored.told.collections] == [("coast", 3)]


def test_an_installation_goes_on_where_it_was(other: Pool, kept: Path, tmp_path: Path):
    restore_backup(other, tmp_path / "other", kept)
    bench = Workbench(other, tmp_path / "other")
    # What numbers its rows goes on behind the last one, and what tables refer to is checked again.
    load_rows(other, tmp_path, ROWS, "pier")
    assert sorted(one.name for one in bench.collections()) == ["coast", "pier"]
    with other.connection() as connection:
        with pytest.raises(psycopg.errors.ForeignKeyViolation):
            connection.execute("insert into fields (collection_id, name, place, kind) values (99, 'x', 1, 'text')")
        connection.rollback()
        # And others are told of changes again.
        connection.execute("listen revisions")
        off = connection.execute(
            "select count(*) from pg_trigger where not tgisinternal and tgenabled = 'D'"
        ).fetchone()
    assert off == (0,)


def test_a_run_measured_again_gives_the_same_digits_and_another_one_is_told_of(other: Pool, kept: Path, tmp_path: Path):
    restore_backup(other, tmp_path / "other", kept)
    bench = Workbench(other, tmp_path / "other")
    (again,) = measured_again(bench)
    assert (again.collection, again.run, again.queries, again.differing) == ("coast", "first:1 on visitors", 2, ())
    assert again.now == again.before
    assert again.now is not None
    with other.connection() as connection:
        connection.execute("update run_lists set scores = array[0.5] where query_id = 'q2'")
    assert measured_again(bench)[0].differing == ("q2",)
    # One of other records than there are now is none to measure again.
    load_rows(other, tmp_path, [{"id": "new", "title": "Ferry"}])
    assert measured_again(bench) == [MeasuredAgain(collection="coast")]


@pytest.mark.parametrize("file", sorted(KEPT.glob("*.zip")), ids=lambda file: file.stem)
def test_a_backup_of_every_version_of_the_tables_is_brought_up_to_date(
    file: Path, other: Pool, tmp_path: Path, simple_ranker: RankerDocument
):
    restored = restore_backup(other, tmp_path / "other", file)
    assert restored.told.migrations + restored.brought_up == known_migrations()
    assert restored.told.migrations[-1].startswith(file.stem)
    assert restored.differing == {}
    bench = Workbench(other, tmp_path / "other")
    # The second migration made fingerprints anew.
    if "0002_imports_and_revisions.sql" not in restored.brought_up:
        assert [one.fingerprint for one in bench.collections()] == [
            one.fingerprint for one in restored.told.collections
        ]
    # The first version made no ranker of its own.
    bench.put_ranker("ferries", "simple", simple_ranker)
    found = measure_ranker(bench, "ferries", RankerChoice(), "visitors", [measure("rr")])
    # The ferry at low water stands first for "ferry tide", the harbour master's bell for "bell fog".
    assert found.measured.means == {"rr": 1.0}


def test_there_is_a_kept_backup_of_every_version_but_the_newest():
    newest = known_migrations()[-1]
    assert [file.stem for file in sorted(KEPT.glob("*.zip"))] == [
        name.split("_")[0] for name in known_migrations() if name != newest
    ]


def test_it_is_of_one_moment_whatever_is_changed_while_it_is_made(
    pool: Pool, other: Pool, bench: Workbench, tmp_path: Path
):
    load_rows(pool, tmp_path, ROWS)
    before = contents(pool)

    def change(table: str) -> None:
        if table == "fields":
            load_rows(pool, tmp_path, [{"id": "later", "title": "Came amid it"}])

    make_backup(pool, tmp_path / "kept.zip", change)
    assert contents(pool) != before
    restore_backup(other, tmp_path / "other", tmp_path / "kept.zip")
    assert contents(other) == before


def test_it_goes_into_somebody_elses_database_without_a_superuser(cluster: Cluster, kept: Path, tmp_path: Path):
    name = f"backed_{next(_numbers)}"
    with psycopg.connect(cluster.keepers_address(), autocommit=True) as connection:
        own = sql.Identifier(name)
        connection.execute(sql.SQL("create role {} login password 'ropes' nosuperuser").format(own))
        connection.execute(sql.SQL("create database {}").format(own))
        connection.execute(sql.SQL("grant create on database {} to {}").format(own, own))
    address = use_database(make_conninfo(cluster.address(name), user=name, password="ropes"))
    with open_pool(address) as pool:
        restore_backup(pool, tmp_path / "other", kept)
        again = measured_again(Workbench(pool, tmp_path / "other"))
        make_backup(pool, tmp_path / "back.zip")
    assert [(one.run, one.differing) for one in again] == [("first:1 on visitors", ())]
    assert (tmp_path / "back.zip").stat().st_size > 0


def test_index_files_of_what_was_here_before_are_dropped(other: Pool, kept: Path, tmp_path: Path):
    stale = tmp_path / "other/1/slab/old.npy"
    stale.parent.mkdir(parents=True)
    stale.write_bytes(b"of other records")
    restore_backup(other, tmp_path / "other", kept)
    assert not stale.exists()


def test_nothing_is_restored_over_what_is_kept(pool: Pool, kept: Path, tmp_path: Path):
    before = contents(pool)
    with pytest.raises(BadInput, match="collections or people here already"):
        restore_backup(pool, tmp_path / "indexes", kept)
    assert contents(pool) == before


def test_nor_where_there_are_people_alone(other: Pool, kept: Path, tmp_path: Path):
    with other.connection() as connection:
        connection.execute("insert into people (name, shown, keeper) values ('nora', 'Nora Vane', true)")
    with pytest.raises(BadInput, match="collections or people here already"):
        restore_backup(other, tmp_path / "other", kept)


def test_nor_beside_a_server_that_works_on_it(other: Pool, kept: Path, tmp_path: Path):
    with serving_alone(str(other.conninfo)), pytest.raises(Unavailable, match="works on this data already"):
        restore_backup(other, tmp_path / "other", kept)


@pytest.mark.parametrize(
    ("told", "members", "said"),
    [
        ({}, {"tables/records.copy": b""}, 'the rows of "records" are not those'),
        ({}, {"tables/records.copy": b"no\trow\n"}, 'the rows of "records" are not those'),
        # As many rows, but another text.
        ({}, {"tables/looks.copy": b"1\t\\\\x00\t2026-01-01\n"}, 'the rows of "looks" are not those'),
        ({}, {"tables/records.copy": None}, 'the rows of "records" cannot be read'),
        ({}, {"backup.json": None}, "no backup, or is damaged: backup.json cannot be read"),
        ({}, {"backup.json": b"{"}, "backup.json cannot be read"),
        ({"tables": []}, {}, "has not the tables that it says"),
        ({"tables": 3}, {}, "does not tell tables as it should"),
        ({"format": 2}, {}, "made by a newer version"),
        ({"migrations": ["0002_imports_and_revisions.sql"]}, {}, "by steps that do not follow each other"),
        ({"migrations": [*known_migrations(), "9000_sails.sql"]}, {}, r"newer version .* \(9000_sails.sql\)"),
    ],
)
def test_a_damaged_file_and_one_of_a_newer_version_change_nothing(
    told: dict[str, Any], members: dict[str, bytes | None], said: str, kept: Path, other: Pool, tmp_path: Path
):
    with pytest.raises(BadInput, match=said):
        restore_backup(other, tmp_path / "other", changed(kept, told, members))
    assert is_untouched(other)
    # What is whole is restored all the same then.
    restore_backup(other, tmp_path / "other", kept)
    assert not is_untouched(other)


@pytest.mark.parametrize("share", [0.0, 0.5, 0.99])
def test_a_file_that_was_cut_off_is_known_as_one(share: float, kept: Path, other: Pool, tmp_path: Path):
    whole = kept.read_bytes()
    (tmp_path / "cut.zip").write_bytes(whole[: int(share * len(whole))])
    with pytest.raises(BadInput, match="is no backup, or was cut off"):
        restore_backup(other, tmp_path / "other", tmp_path / "cut.zip")


def test_a_flipped_bit_is_found(kept: Path, other: Pool, tmp_path: Path):
    with zipfile.ZipFile(kept) as archive:
        member = archive.getinfo("tables/records.copy")
        lengths = kept.read_bytes()[member.header_offset + 26 : member.header_offset + 30]
        begins = member.header_offset + 30 + sum(struct.unpack("<HH", lengths))
        place = begins + member.compress_size // 2
    content = bytearray(kept.read_bytes())
    content[place] ^= 1
    (tmp_path / "bit.zip").write_bytes(content)
    with pytest.raises(BadInput, match="records"):
        restore_backup(other, tmp_path / "other", tmp_path / "bit.zip")
    assert is_untouched(other)


def test_records_that_are_not_what_their_digest_says_are_told_of(
    pool: Pool, other: Pool, bench: Workbench, tmp_path: Path
):
    load_rows(pool, tmp_path, ROWS)
    with pool.connection() as connection:
        connection.execute("""update records set field_values = '{"title": "Another"}' where key = 'a'""")
    make_backup(pool, tmp_path / "kept.zip")
    assert restore_backup(other, tmp_path / "other", tmp_path / "kept.zip").differing == {"coast": 1}


def test_a_file_that_is_there_is_left_alone_and_one_that_cannot_be_written_leaves_nothing(
    pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    (tmp_path / "letters.zip").write_text("somebody's")
    with pytest.raises(BadInput, match="is there already"):
        make_backup(pool, tmp_path / "letters.zip")
    assert (tmp_path / "letters.zip").read_text() == "somebody's"
    with pytest.raises(BadInput, match="cannot be written: No such file or directory"):
        make_backup(pool, tmp_path / "nowhere/kept.zip")

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(whole_files.os, "fsync", full)
    with pytest.raises(BadInput, match="cannot be written: No space left on device"):
        make_backup(pool, tmp_path / "kept.zip")
    assert [file.name for file in tmp_path.iterdir()] == ["letters.zip"]


def test_nobody_else_can_read_it(kept: Path):
    assert kept.stat().st_mode & 0o777 == 0o600
