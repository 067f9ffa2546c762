"""The own database moved to another cluster: what was kept is kept, and a crash amid it loses nothing."""

import shutil
from collections.abc import Generator
from pathlib import Path

import orjson
import pytest

from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.settings import Settings
from pale_harbor.store import cluster as cluster_room
from pale_harbor.store.cluster import Cluster, finish_taking_place, take_place
from pale_harbor.store.database import serving_alone
from pale_harbor.work.backups import upgrading
from pale_harbor.work.backups.upgrading import Upgraded, drop_cut_off_upgrade, upgrade
from pale_harbor.work.serving import DATABASE, ready_pool
from pale_harbor.work.workbench import Workbench
from tests.conftest import NO_FSYNC, make_data_folder
from tests.loading import load_rows


@pytest.fixture
def here(tmp_path: Path) -> Generator[Settings]:
    """An installation of its own that holds a collection."""
    own = Settings(data=make_data_folder(), database_options=NO_FSYNC)
    with ready_pool(own) as pool:
        load_rows(pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    yield own
    Cluster(own.cluster).stop(at_once=True)
    shutil.rmtree(own.data)


def records_of(settings: Settings) -> list[tuple[str, str]]:
    with ready_pool(settings) as pool:
        kept = Workbench(pool, settings.indexes).collections()
        return [(one.name, one.fingerprint) for one in kept]


def test_it_moves_into_a_new_cluster_and_keeps_the_old_one_and_a_backup(here: Settings):
    before = records_of(here)
    password = orjson.loads((here.cluster / "access.json").read_bytes())["password"]
    address = Cluster(here.cluster).address(DATABASE)
    refused: list[str] = []

    def begin_meanwhile(what: str) -> None:
        if what == "records":
            with pytest.raises(Unavailable, match="works on this data already"), serving_alone(address, 0.0):
                pass
            refused.append(what)

    done = upgrade(here, begin_meanwhile, again=True)
    # While it was backed up, and while that was restored.
    assert refused == ["records", "records"]
    assert records_of(here) == before
    assert orjson.loads((here.cluster / "access.json").read_bytes())["password"] != password
    assert done.before == done.now == Cluster(here.cluster).version()
    assert done.backup is not None
    assert done.backup.is_file()
    assert done.old is not None
    assert (done.old / "cluster/PG_VERSION").is_file()


def test_where_there_is_nothing_newer_nothing_is_moved(here: Settings):
    version = Cluster(here.cluster).version()
    assert version is not None
    assert upgrade(here) == Upgraded(version, version)
    assert sorted(one.name for one in here.data.iterdir()) == ["database"]


def test_what_goes_wrong_leaves_all_as_it_was(here: Settings, monkeypatch: pytest.MonkeyPatch):
    before = records_of(here)

    def refuse(*_: object) -> None:
        raise BadInput("The backup is damaged.")

    monkeypatch.setattr(upgrading, "restore_backup", refuse)
    with pytest.raises(BadInput, match="damaged"):
        upgrade(here, again=True)
    assert records_of(here) == before
    assert not (here.data / "database-new").exists()
    # What an upgrade left that was killed is in nobody's way.
    (here.data / "database-new/cluster").mkdir(parents=True)
    monkeypatch.undo()
    upgrade(here, again=True)
    assert records_of(here) == before


def test_a_running_server_somebody_elses_database_and_none_at_all_are_told_of(
    here: Settings, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    def running(_: Settings) -> str:
        return "http://127.0.0.1:7340"

    monkeypatch.setattr(upgrading, "running_address", running)
    with pytest.raises(Unavailable, match=r"Stop it with \./paleharbor down first"):
        upgrade(here)
    with pytest.raises(BadInput, match="whoever keeps it moves it"):
        upgrade(Settings(data=here.data, database="postgresql://harbor@127.0.0.1/search"))
    with pytest.raises(BadInput, match="There is no database yet"):
        upgrade(Settings(data=tmp_path))


@pytest.mark.parametrize("done", [0, 1, 2])
def test_a_crash_amid_the_exchange_of_folders_is_finished_by_the_next_start(
    done: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    folder, new, aside = tmp_path / "database", tmp_path / "database-new", tmp_path / "database-of-14"
    for one in (folder, new):
        one.mkdir()
        (one / "whose").write_text(one.name)

    rename, calls = Path.rename, iter(range(9))

    def crashing(self: Path, target: Path) -> Path:
        if next(calls) == done:
            raise KeyboardInterrupt
        return rename(self, target)

    monkeypatch.setattr(cluster_room.Path, "rename", crashing)
    if done < 2:
        with pytest.raises(KeyboardInterrupt):
            take_place(folder, new, aside)
    else:
        take_place(folder, new, aside)
    monkeypatch.undo()
    finish_taking_place(folder)
    assert ((folder / "whose").read_text(), (aside / "whose").read_text()) == ("database-new", "database")
    assert sorted(one.name for one in tmp_path.iterdir()) == ["database", "database-of-14"]
    # And once more changes nothing.
    finish_taking_place(folder)
    assert (folder / "whose").read_text() == "database-new"


def test_the_new_cluster_of_a_killed_upgrade_is_ended_and_dropped(here: Settings):
    drop_cut_off_upgrade(here)
    left = Cluster(here.cluster.with_name("database-new"), NO_FSYNC)
    left.start()
    drop_cut_off_upgrade(here)
    assert not left.running()
    assert sorted(one.name for one in here.data.iterdir()) == ["database"]
    assert records_of(here)
