"""Spaces of a real collection: made, filled, followed by changed records, looked into."""

from collections.abc import Generator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from pale_harbor.core.fields import OneOf
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.space_document import LearnedSource
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.running.jobs import holding_job, job_with_id, note_progress, unfinished_jobs
from pale_harbor.store.spaces.spaces import Space, space_named, space_with_id, spaces_of, want_followed
from pale_harbor.work.collections.opened import OpenCollection, with_joined_slabs
from pale_harbor.work.records.changes import put_records, remove_records
from pale_harbor.work.running.processes import Followed, Processes
from pale_harbor.work.running.worker import JobRunner
from pale_harbor.work.spaces import making
from pale_harbor.work.spaces.filling import cost_of_filling, fill_space, fillings_done
from pale_harbor.work.spaces.learning import learn
from pale_harbor.work.spaces.looks import Neighbour, Wanted, neighbours, space_map
from pale_harbor.work.spaces.open_space import make_vectors
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows
from tests.spaces import COLLECTION, filled, made, refilled
from tests.work.watched import WatchedProcesses

PACKAGED = {"kind": "packaged"}
LEARNED = {"kind": "learned", "dimensions": 8, "chain": "words > lower"}
BROUGHT = {"kind": "brought"}
ROWS: list[dict[str, Any]] = [
    {"id": "bell", "title": "Fog bell", "text": "A bell rung in fog so that ships keep off the rocks.", "kind": "bell"},
    {"id": "horn", "title": "Fog horn", "text": "A horn sounded in fog so that ships keep off.", "kind": "horn"},
    {"id": "coat", "title": "Oilskin coat", "text": "A coat worn by sailors against rain and cold.", "kind": "cloth"},
    {"id": "sock", "title": "Knitted socks", "text": "Wool socks that sailors wore to keep warm.", "kind": "cloth"},
    {
        "id": "stew",
        "title": "Ship's stew",
        "text": "Salted beef and biscuit, eaten by sailors.\n\nCooked daily.",
        "kind": "food",
    },
    {"id": "none", "title": None, "text": "", "kind": "food"},
]


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS)
    return bench


def unjoined(_: OpenCollection) -> bool:
    return False


def near(bench: Workbench, space: str, top: int = 10, **wanted: Any) -> list[Neighbour]:
    return bench.with_collection(COLLECTION, lambda opened: neighbours(opened, space, Wanted(**wanted), top))


def keys(found: list[Neighbour]) -> list[str]:
    return [one.key for one in found]


def space_row(bench: Workbench, name: str) -> Space:
    with bench.pool.connection() as connection:
        collection = collection_named(connection, COLLECTION)
        return next(one for one in spaces_of(connection, collection.id) if one.name == name)


def test_words_find_records_that_share_none_with_them(coast: Workbench):
    space = filled(coast, "meaning", PACKAGED)
    assert (space.state, space.dimensions) == ("done", 256)
    assert space.report == {
        "records": 6,
        "vectors": 5,
        "passages": 0,
        "whole": 5,
        "faults": {"has no text in the fields of the space": 1},
        "examples": [{"key": "none", "what": "has no text in the fields of the space"}],
    }
    found = near(coast, "meaning", text="warm clothing")
    assert set(keys(found)[:2]) == {"coat", "sock"}
    assert [one.similarity for one in found] == sorted((one.similarity for one in found), reverse=True)


def test_a_learned_space_knows_the_words_of_the_house(coast: Workbench):
    space = filled(coast, "house", LEARNED)
    assert space.model == "learned from 6 records"
    assert keys(near(coast, "house", text="fog"))[:2] in (["bell", "horn"], ["horn", "bell"])
    with pytest.raises(BadInput, match="knows no word of this query"):
        near(coast, "house", text="zeppelin")


def test_learning_again_gives_the_same_space(coast: Workbench):
    first = filled(coast, "house", LEARNED)
    before = [(one.key, one.similarity) for one in near(coast, "house", text="ships in fog")]
    making.fill(coast, COLLECTION, "house", anew=True)
    second = refilled(coast, first)
    assert second.epoch > first.epoch
    after = [(one.key, one.similarity) for one in near(coast, "house", text="ships in fog")]
    assert [key for key, _ in after] == [key for key, _ in before]
    assert [value for _, value in after] == pytest.approx([value for _, value in before], abs=1e-4)


def test_vectors_follow_changed_records_without_learning_anew(coast: Workbench, tmp_path: Path):
    space = filled(coast, "house", LEARNED)
    put_records(coast.pool, COLLECTION, [{"id": "lamp", "title": "Fog lamp", "text": "A lamp in fog.", "kind": "lamp"}])
    remove_records(coast.pool, COLLECTION, ["horn"])
    found = keys(near(coast, "house", text="fog"))
    assert set(found[:2]) == {"bell", "lamp"}
    assert "horn" not in found
    with coast.pool.connection() as connection:
        want_followed(connection)
        assert [one.space_id for one in unfinished_jobs(connection)] == [space.id]
        # The filling before is forgotten: one job tells of a space.
        assert space.job is not None
        with pytest.raises(NotFound):
            job_with_id(connection, space.job)
    again = refilled(coast, space)
    assert (again.epoch, again.model) == (space.epoch, space.model)
    assert again.report is not None
    assert again.report["records"] == 6
    with coast.pool.connection() as connection:
        want_followed(connection)
        assert unfinished_jobs(connection) == []


def test_a_record_counts_by_its_nearest_passage_and_shows_it(coast: Workbench):
    filled(coast, "cut", PACKAGED, fields=["text"], passages={"by": "paragraphs"})
    (first,) = near(coast, "cut", 1, text="cooking every day")
    assert (first.key, first.passage and first.passage.text) == ("stew", "Cooked daily.")
    assert space_row(coast, "cut").report == {
        "records": 6,
        "vectors": 6,
        "passages": 6,
        "whole": 5,
        "faults": {"has no text in the fields of the space": 1},
        "examples": [{"key": "none", "what": "has no text in the fields of the space"}],
    }


def test_a_field_that_says_how_it_is_cut_is_cut_so(coast: Workbench):
    coast.change_field(COLLECTION, "text", "text", None, {"by": "paragraphs"})
    space = filled(coast, "cut", PACKAGED)
    # Titles as a whole, and each paragraph.
    assert space.report is not None
    assert space.report["vectors"] == 5 + 6


def test_like_one_record_and_away_from_another(coast: Workbench):
    filled(coast, "meaning", PACKAGED)
    assert keys(near(coast, "meaning", liked=("bell",)))[0] == "horn"
    like = near(coast, "meaning", liked=("sock",))
    assert "sock" not in keys(like)
    away = near(coast, "meaning", liked=("sock",), disliked=("stew",))
    assert not {"sock", "stew"} & set(keys(away))
    with pytest.raises(BadInput, match="has no vector in the space"):
        near(coast, "meaning", liked=("none",))
    with pytest.raises(NotFound, match='no record with the key "whale"'):
        near(coast, "meaning", liked=("whale",))
    with pytest.raises(BadInput, match="from where"):
        near(coast, "meaning", disliked=("stew",))


def test_filters_are_applied_before_the_nearest_are_chosen(coast: Workbench):
    filled(coast, "meaning", PACKAGED)
    found = coast.with_collection(
        COLLECTION,
        lambda opened: neighbours(opened, "meaning", Wanted("fog"), 2, [OneOf("kind", ("cloth",))]),
    )
    assert set(keys(found)) == {"coat", "sock"}


def test_a_map_shows_records_what_is_looked_for_and_its_neighbours(coast: Workbench):
    filled(coast, "meaning", PACKAGED)
    found = coast.with_collection(COLLECTION, lambda opened: space_map(opened, "meaning", Wanted("fog"), "title"))
    by_key = {point.key: point for point in found.points}
    assert set(by_key) == {"bell", "horn", "coat", "sock", "stew"}
    assert {by_key["bell"].rank, by_key["horn"].rank} == {1, 2}
    assert by_key["bell"].title == "Fog bell"
    assert found.wanted is not None
    assert 0 < found.kept <= 1
    alone = coast.with_collection(COLLECTION, lambda opened: space_map(opened, "meaning", None, "title"))
    assert {point.rank for point in alone.points} == {0}
    assert alone.wanted is None


def test_vectors_that_are_brought(coast: Workbench, tmp_path: Path):
    space = made(coast, "own", BROUGHT)
    assert space.state == "new"
    vectors, names = tmp_path / "vectors.npy", tmp_path / "keys.txt"
    rows = np.array([[1, 0], [0.8, 0.6], [0, 1], [0, 0], [1, 1], [np.nan, 1]], np.float32)
    np.save(vectors, rows)
    names.write_text("bell\nhorn\ncoat\nsock\nwhale\nstew\n")
    space, kept, wrong = making.bring(coast, COLLECTION, "own", "record", vectors, names)
    assert kept == 3
    assert wrong == [
        "Line 4: sock has a vector of nothing but zeros, which points nowhere.",
        "Line 5: whale is no record's key.",
        "Line 6: stew has a vector that holds something that is no number.",
    ]
    space = refilled(coast, space)
    assert space.report is not None
    assert space.report["faults"] == {"has no vector yet": 3}
    assert keys(near(coast, "own", liked=("bell",))) == ["horn", "coat"]
    with pytest.raises(BadInput, match="Nobody has brought a vector of this query"):
        near(coast, "own", text="ding")
    names.write_text("ding\nclothes\n")
    np.save(vectors, np.array([[1, 0.1], [0, 1]]))
    making.bring(coast, COLLECTION, "own", "query", vectors, names)
    refilled(coast, space)
    assert keys(near(coast, "own", text="ding"))[0] == "bell"


@pytest.mark.parametrize(
    ("array", "names", "said"),
    [
        (np.zeros((2, 3)), "bell\n", "names 1 rows, but there are 2 vectors"),
        (np.zeros(3), "bell\n", "one vector a row"),
        (np.array([["a"]]), "bell\n", "one vector a row"),
        (np.array([[{}]], object), "bell\n", "no .npy file that can be read"),
    ],
)
def test_files_that_do_not_fit_are_refused(coast: Workbench, tmp_path: Path, array: Any, names: str, said: str):
    made(coast, "own", BROUGHT)
    np.save(tmp_path / "vectors.npy", array, allow_pickle=True)
    (tmp_path / "keys.txt").write_text(names)
    with pytest.raises(BadInput, match=said):
        making.bring(coast, COLLECTION, "own", "record", tmp_path / "vectors.npy", tmp_path / "keys.txt")


def test_a_space_never_mixes_two_models(coast: Workbench, tmp_path: Path):
    made(coast, "own", BROUGHT)
    np.save(tmp_path / "v.npy", np.ones((1, 3)))
    (tmp_path / "k.txt").write_text("bell")
    making.bring(coast, COLLECTION, "own", "record", tmp_path / "v.npy", tmp_path / "k.txt")
    np.save(tmp_path / "v.npy", np.ones((1, 4)))
    with pytest.raises(BadInput, match="have 4 dimensions, those of the space 3"):
        making.bring(coast, COLLECTION, "own", "record", tmp_path / "v.npy", tmp_path / "k.txt")


def test_vectors_that_came_with_the_records(bench: Workbench, tmp_path: Path):
    rows = [
        {"id": "a", "title": "A", "numbers": [1.0, 0.0, 0.5]},
        {"id": "b", "title": "B", "numbers": [0.9, 0.1, 0.4]},
        {"id": "c", "title": "C", "numbers": [0.0, 1.0]},
        {"id": "d", "title": "D"},
    ]
    load_rows(bench.pool, tmp_path, rows)
    space = filled(bench, "own", {"kind": "brought", "field": "numbers"})
    assert space.report is not None
    assert (space.dimensions, space.report["vectors"]) == (3, 2)
    assert space.report["faults"] == {"has no vector yet": 1, "has a vector of another dimension": 1}
    assert [one["key"] for one in space.report["examples"]] == ["c", "d"]
    assert keys(near(bench, "own", liked=("a",))) == ["b"]


def test_filling_that_is_cancelled_ends_and_can_go_on(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    space = made(coast, "meaning", PACKAGED)
    making.cancel(coast, COLLECTION, "meaning")
    assert refilled(coast, space).state == "cancelled"
    making.fill(coast, COLLECTION, "meaning")
    assert refilled(coast, space).state == "done"


def test_only_one_fills_a_space_at_a_time(coast: Workbench):
    space = made(coast, "meaning", PACKAGED)
    assert space.job is not None
    with coast.pool.connection() as connection, holding_job(connection, space.job) as held:
        assert held
        assert not fill_space(coast, space.id)


def test_too_little_to_learn_from_is_said(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Lamp", "text": "lamp"}])
    space = filled(bench, "house", LEARNED)
    assert (space.state, space.problem) == (
        "failed",
        "There is too little to learn from: no two words stand together in two records.",
    )


def test_what_a_space_is_cannot_be_wrong(coast: Workbench):
    made(coast, "meaning", PACKAGED)
    with pytest.raises(BadInput, match='There is a space "meaning" already'):
        made(coast, "meaning", PACKAGED)
    with pytest.raises(BadInput, match="small letters, digits"):
        made(coast, "My-Space", PACKAGED)
    with pytest.raises(BadInput, match=r'no field "titel"\. Did you mean "title"'):
        made(coast, "other", PACKAGED, fields=["titel"])
    with pytest.raises(BadInput, match="lowr"):
        made(coast, "other", {"kind": "learned", "chain": "words > lowr"})
    with pytest.raises(BadInput, match="costs nothing but time"):
        cost_of_filling(coast, COLLECTION, "meaning")


def test_a_space_that_a_ranker_asks_is_not_dropped(coast: Workbench):
    space = filled(coast, "meaning", PACKAGED)
    document = {"readings": [{"field": "title", "chain": "words"}], "spaces": [{"space": "meaning"}]}
    coast.put_ranker(COLLECTION, "blended", ranker_document(document))
    with pytest.raises(BadInput, match="asked by the ranker blended"):
        making.drop(coast, COLLECTION, "meaning")
    coast.put_ranker(COLLECTION, "blended", ranker_document({"readings": document["readings"]}))
    making.drop(coast, COLLECTION, "meaning")
    with coast.pool.connection() as connection:
        assert space_with_id(connection, space.id) is None
    with pytest.raises(BadInput, match=r'there is no space "meaning"\. Make one first'):
        coast.put_ranker(COLLECTION, "blended", ranker_document(document))


def test_a_copied_collection_has_the_same_spaces(coast: Workbench):
    filled(coast, "house", LEARNED)
    before = [(one.key, one.similarity) for one in near(coast, "house", text="fog")]
    coast.copy_collection(COLLECTION, "copy")
    found = coast.with_collection("copy", lambda opened: neighbours(opened, "house", Wanted("fog"), 10))
    assert [(one.key, one.similarity) for one in found] == before


def test_a_learned_space_keeps_the_word_lists_that_it_was_made_with(coast: Workbench):
    from pale_harbor.work.chains.word_lists import put_list

    put_list(coast, COLLECTION, "small", "word\nthe\nof\n", None)
    space = made(coast, "house", {"kind": "learned", "chain": "words > lower > stopwords(@small)"})
    assert space.document["source"]["chain"] == "words > lower > stopwords(@small:1)"


def test_joined_slabs_keep_the_vectors_that_both_had(coast: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    filled(coast, "meaning", PACKAGED, passages={"by": "sentences"})
    monkeypatch.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", 0)
    monkeypatch.setattr("pale_harbor.work.workbench.wants_joining", unjoined)
    put_records(
        coast.pool, COLLECTION, [ROWS[0] | {"title": "Brass bell"}, {"id": "new", "title": "Buoy", "text": "Red."}]
    )
    before = near(coast, "meaning", text="brass buoy")
    opened = coast.with_collection(COLLECTION, lambda one: one)
    assert len(opened.slabs) == 2

    def never(*_: Any) -> Any:
        raise AssertionError("vectors were made anew")

    monkeypatch.setattr("pale_harbor.work.spaces.open_space.OpenSpace.made", never)
    after = neighbours(with_joined_slabs(opened), "meaning", Wanted("brass buoy"), 10)
    assert [(one.key, one.similarity, one.passage) for one in after] == [
        (one.key, one.similarity, one.passage) for one in before
    ]


def test_a_filling_whose_server_was_killed_is_taken_up_again(coast: Workbench):
    space = made(coast, "meaning", PACKAGED)
    with coast.pool.connection() as connection:
        # As a killed server leaves it: running, and nobody at it.
        assert space.job is not None
        note_progress(connection, space.job, "making vectors", 3, 6)
    runner = JobRunner(coast.pool, {"filling": fillings_done(coast)})
    assert runner.look() == [space.job]
    runner.finish()
    with coast.pool.connection() as connection:
        assert space_named(connection, space.collection_id, "meaning").state == "done"


@pytest.fixture
def processes(bench: Workbench) -> Generator[Processes]:
    own = Processes(str(bench.pool.conninfo), 1)
    yield own
    own.stop()


def table_of(bench: Workbench, name: str) -> Any:
    def work(opened: OpenCollection) -> Any:
        table = opened.spaces()[name].table(opened, 0)
        return table.vectors.tolist(), table.owners.tolist(), table.places.tolist(), table.faulty.tolist()

    return bench.with_collection(COLLECTION, work)


@pytest.mark.parametrize("source", [{"kind": "learned", "dimensions": 4}, {"kind": "packaged"}])
def test_a_space_is_filled_elsewhere_as_it_is_filled_here(
    coast: Workbench, processes: Processes, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, source: dict[str, Any]
):
    monkeypatch.setattr("pale_harbor.work.spaces.open_space.MADE_ELSEWHERE", 1)
    monkeypatch.setattr("pale_harbor.work.spaces.filling.ELSEWHERE_FROM", 1)
    cut = {"passages": {"by": "sentences", "size": 1, "overlap": 0, "delimiter": ""}}
    elsewhere = Workbench(coast.pool, tmp_path / "elsewhere", processes=processes)
    here, there = filled(coast, "here", source, **cut), filled(elsewhere, "there", source, **cut)
    assert (there.state, there.model, there.dimensions, there.report) == (
        "done",
        here.model,
        here.dimensions,
        here.report,
    )
    assert table_of(elsewhere, "there") == table_of(coast, "here")


@pytest.mark.parametrize(("least", "elsewhere"), [(5, 1), (6, 0)])
def test_only_vectors_of_so_many_records_are_made_elsewhere(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, least: int, elsewhere: int
):
    monkeypatch.setattr("pale_harbor.work.spaces.open_space.MADE_ELSEWHERE", least)
    load_rows(bench.pool, tmp_path, [{"id": f"r{n}", "title": f"Fog bell {n}"} for n in range(5)])
    watched = WatchedProcesses(bench.pool)
    own = Workbench(bench.pool, tmp_path / "own", processes=watched)
    filled(own, "everyday", {"kind": "packaged"}, fields=["title"])
    assert watched.asked == [make_vectors] * elsewhere


@pytest.mark.parametrize(("least", "elsewhere"), [(5, 1), (6, 0)])
def test_only_spaces_of_so_many_records_are_learned_elsewhere(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, least: int, elsewhere: int
):
    monkeypatch.setattr("pale_harbor.work.spaces.filling.ELSEWHERE_FROM", least)
    load_rows(bench.pool, tmp_path, [{"id": f"r{n}", "title": f"Fog bell {n}"} for n in range(5)])
    watched = WatchedProcesses(bench.pool)
    own = Workbench(bench.pool, tmp_path / "own", processes=watched)
    filled(own, "house", {"kind": "learned", "dimensions": 2}, fields=["title"])
    assert watched.asked == [learn] * elsewhere


def unwanted(_: object) -> bool:
    return False


def test_learning_that_nobody_waits_for_ends(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    space = made(coast, "house", {"kind": "learned", "dimensions": 4})
    monkeypatch.setattr(Followed, "wanted", unwanted)
    with pytest.raises(Cancelled), coast.pool.connection() as connection:
        learn(connection, Followed(lambda _step: None), space, LearnedSource(kind="learned", dimensions=4), 10)
