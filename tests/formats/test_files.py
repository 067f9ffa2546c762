"""Files: good ones are read whole, bad rows are told one by one, nothing breaks on hostile ones."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import build_index
from pale_harbor.core.text import chain_of
from pale_harbor.errors import BadInput
from pale_harbor.formats.index_files import read_index, write_index
from pale_harbor.formats.storable import unstorable, well_formed
from pale_harbor.formats.trec import read_grades, read_run, write_run


def written(folder: Path, content: str | bytes, name: str = "file") -> Path:
    path = folder / name
    path.write_bytes(content.encode("utf-8", "surrogatepass") if isinstance(content, str) else content)
    return path


@given(text=st.text(st.characters(exclude_categories=()), max_size=20))
def test_well_formed_text_keeps_its_length_and_can_be_written(text: str):
    mended = well_formed(text)
    assert len(mended) == len(text)
    mended.encode("utf-8")
    assert (unstorable(mended) is None) == ("\x00" not in text)


def test_grades_and_runs_in_columns(tmp_path: Path):
    grades = written(tmp_path, "q1 0 a 3\r\nq1\t0\tb\t0\n\nq2 0 a 1\n")
    assert read_grades(grades) == {"q1": {"a": 3, "b": 0}, "q2": {"a": 1}}
    run = tmp_path / "run"
    write_run(run, [("q1", [("a", 2.5), ("b", 0.1)])], "first:1")
    assert run.read_text() == "q1 Q0 a 1 2.5 first:1\nq1 Q0 b 2 0.1 first:1\n"
    assert read_run(run) == {"q1": {"a": 2.5, "b": 0.1}}


@pytest.mark.parametrize(
    ("content", "problem"),
    [
        ("q1 0 a\n", ("line 1", "3 columns; a grade has 4: query, iter, record, grade.")),
        ("q1 0 a 1\nq1 0 a x\n", ("line 2", "the grade 'x' is not a whole number.")),
        ("q1 0 a 999\n", ("line 1", "the grade 999 is out of all proportion.")),
        ("q1 0 a 1\nq1 0 a 2\n", ("line 2", "a of query q1 was graded 1 before.")),
        ("q1 0 a\x00 1\n", ("line 1", "this line holds a NUL character (U+0000) at character 7.")),
    ],
)
def test_wrong_columns_are_told_by_line(tmp_path: Path, content: str, problem: tuple[str, str]):
    with pytest.raises(BadInput) as caught:
        read_grades(written(tmp_path, content))
    assert caught.value.problems == [problem]


@pytest.mark.parametrize("score", ["nan", "inf", "x"])
def test_a_score_that_is_no_number_is_refused(tmp_path: Path, score: str):
    with pytest.raises(BadInput):
        read_run(written(tmp_path, f"q1 Q0 a 1 {score} t\n"))


NAMES = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0 \t\r\n\ufeff"), min_size=1, max_size=6)


@given(lists=st.dictionaries(NAMES, st.dictionaries(NAMES, st.floats(allow_nan=False, allow_infinity=False))))
def test_whatever_has_no_blank_in_it_stands_in_a_run_file_and_comes_back(
    lists: dict[str, dict[str, float]], tmp_path_factory: pytest.TempPathFactory
):
    run = tmp_path_factory.mktemp("runs") / "run"
    write_run(run, [(query, list(own.items())) for query, own in lists.items()], "t")
    assert read_run(run) == {query: own for query, own in lists.items() if own}


def test_a_key_with_a_blank_cannot_stand_in_a_run_file(tmp_path: Path):
    with pytest.raises(BadInput):
        write_run(tmp_path / "run", [("q1", [("a", 2.0), ("two words", 1.0)])], "t")
    assert not (tmp_path / "run").exists()


def test_a_run_file_that_cannot_be_written_is_told(tmp_path: Path):
    with pytest.raises(BadInput, match="cannot be written: No such file or directory"):
        write_run(tmp_path / "nowhere" / "run", [("q1", [("a", 1.0)])], "t")


def test_several_who_write_the_same_index_at_once_leave_one(tmp_path: Path):
    index = build_index([["pale harbor"], ["fog"]], chain_of("words"))
    folder = tmp_path / "index"
    with ThreadPoolExecutor(8) as several:
        list(several.map(write_index, [folder] * 80, [index] * 80))
    again = read_index(folder)
    assert again is not None
    assert list(again.vocabulary) == ["fog", "harbor", "pale"]
    assert list(tmp_path.iterdir()) == [folder]


def test_an_index_comes_back_from_its_files_and_a_damaged_one_does_not(tmp_path: Path):
    for values in ([["pale harbor"], [], ["fog harbor"]], []):
        folder = tmp_path / f"index{len(values)}"
        index = build_index(values, chain_of("words"))
        write_index(folder, index)
        again = read_index(folder)
        assert again is not None
        assert list(again.vocabulary) == list(index.vocabulary)
        for name in ("record_ids", "frequencies", "posting_lengths", "positions", "starts", "ends", "lengths"):
            assert np.array_equal(getattr(again, name), getattr(index, name))
        (folder / "positions.npy").write_bytes(b"\x93NUMPY half")
        assert read_index(folder) is None
        (folder / "positions.npy").unlink()
        assert read_index(folder) is None
        write_index(folder, index)
        assert read_index(folder) is not None
