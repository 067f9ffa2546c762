"""What nobody needs is cleared at a start, and nothing else is."""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from anyio import run

from pale_harbor.errors import NotFound
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.imports.imports import import_with_id
from pale_harbor.work.collections.tidying import tidy
from pale_harbor.work.imports.importing import begin_import, run_import
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.imports.uploads import Uploads
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import file_of, load_rows


def aged(folder: Path) -> None:
    """Makes everything in a folder a month old."""
    month_ago = time.time() - 30 * 24 * 3600
    for path in [folder, *folder.rglob("*")]:
        os.utime(path, (month_ago, month_ago))


def test_indexes_that_are_used_stay_and_others_go(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])

    def keys() -> list[str]:
        return bench.with_collection(
            "coast",
            lambda opened: [
                r.key
                for r in find(
                    opened, bench.choose(opened.collection, RankerChoice()).ranker, Question("fog"), 5
                ).results
            ],
        )

    assert keys() == ["a"]
    with bench.pool.connection() as connection:
        own = bench.index_folder / str(collection_named(connection, "coast").uid)
    (slab,) = (folder for folder in own.iterdir() if folder.is_dir())
    (slab / "unfinished-x").mkdir()
    (own / "slab-old").mkdir()
    (bench.index_folder / "of-a-dropped-collection").mkdir()
    uploads = Uploads(tmp_path / "uploads")
    assert tidy(bench.pool, bench.index_folder, uploads) == 0
    aged(bench.index_folder)
    assert tidy(bench.pool, bench.index_folder, uploads) == 2
    assert sorted(folder.name for folder in bench.index_folder.iterdir()) == [own.name]
    assert [folder.name for folder in own.iterdir() if folder.is_dir()] == [slab.name]
    assert not (slab / "unfinished-x").exists()
    assert keys() == ["a"]


def test_uploads_are_kept_for_a_while(bench: Workbench, tmp_path: Path):
    async def pieces():
        yield b"id,title\n"
        yield b"a,Fog\n"

    uploads = Uploads(tmp_path / "uploads")
    with ThreadPoolExecutor(1) as worker:
        # In a thread of its own: the browser's tests may have left a loop running in this one.
        kept = [
            worker.submit(run, uploads.keep, name, pieces()).result()
            for name in ("a.csv", "../../etc/b.csv", "\x00 / ")
        ]
    assert [uploads.source(one).name for one in kept] == ["a.csv", "b.csv", "file"]
    assert uploads.source(kept[0]).head() == b"id,title\na,Fog\n"
    tidy(bench.pool, bench.index_folder, uploads)
    assert uploads.source(kept[0]).name == "a.csv"
    aged(uploads.folder)
    uploads.tidy({str(uploads.source(kept[1]).path)})
    assert uploads.source(kept[1]).name == "b.csv"
    with pytest.raises(NotFound):
        uploads.source(kept[0])


@pytest.mark.parametrize(("days", "left"), [(6, False), (8, True)])
def test_an_import_that_nobody_decides_about_waits_for_a_week(bench: Workbench, tmp_path: Path, days: int, left: bool):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog"}])
    source = FileSource(Source(file_of(tmp_path, [{"id": "b", "title": "Bell"}], "more.jsonl")))
    job = begin_import(bench.pool, "coast", source, ImportPlan(key="id"), by_server=True, asks=True)
    run_import(bench.pool, job, source)
    with bench.pool.connection() as connection:
        connection.execute("update jobs set updated_at = now() - make_interval(days => %s) where id = %s", [days, job])
    tidy(bench.pool, bench.index_folder, Uploads(tmp_path / "uploads"))
    with bench.pool.connection() as connection:
        assert import_with_id(connection, job).state == ("cancelled" if left else "undecided")
