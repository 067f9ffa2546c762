"""How commands print, and where they read from."""

from pathlib import Path

import orjson
import pytest

from pale_harbor.cli.output import print_columns, print_json, score_digits, text_of
from pale_harbor.cli.ranking.searching import ranker_choice
from pale_harbor.errors import BadInput, HarborError, NotFound, Unavailable
from pale_harbor.work.workbench import RankerChoice


def test_columns_are_aligned_and_end_without_blanks(capsys: pytest.CaptureFixture[str]):
    print_columns([("rank", "key"), (1, "sm0001"), (10, "")])
    assert capsys.readouterr().out == "rank  key\n1     sm0001\n10\n"
    print_columns([])
    assert capsys.readouterr().out == ""


@pytest.mark.parametrize(
    ("scores", "digits"),
    [
        ([], 3),
        ([12.5], 3),
        ([2.5, 1.25, 1.25], 3),
        # Of ranks summed up, neighbours differ by little.
        ([0.0164, 0.0161, 0.0159], 4),
        ([0.016393, 0.016388, 0.01], 6),
        # What is the same is written the same, and nobody reads more than eight.
        ([0.5, 0.5], 3),
        ([0.5, 0.4999999999], 8),
    ],
)
def test_neighbours_that_differ_never_look_the_same(scores: list[float], digits: int):
    assert score_digits(scores) == digits


def test_json_is_one_line(capfdbinary: pytest.CaptureFixture[bytes]):
    print_json({"query": "Åsmoe", "score": 0.1})
    out = capfdbinary.readouterr().out
    assert out.count(b"\n") == 1
    assert orjson.loads(out) == {"query": "Åsmoe", "score": 0.1}


def test_a_file_is_read_as_utf_8_with_or_without_its_mark(tmp_path: Path):
    path = tmp_path / "chain"
    for content in ("words > lower", "\ufeffwords > lower"):
        path.write_text(content, "utf-8")
        assert text_of(str(path)) == "words > lower"


@pytest.mark.parametrize("content", [None, b"\xff\xfe"])
def test_a_file_that_cannot_be_read_is_told(tmp_path: Path, content: bytes | None):
    path = tmp_path / "chain"
    if content is not None:
        path.write_bytes(content)
    with pytest.raises(BadInput, match="chain"):
        text_of(str(path))


def test_a_ranker_is_named_with_or_without_its_version():
    assert ranker_choice(None) == RankerChoice()
    assert ranker_choice("first") == RankerChoice("first")
    assert ranker_choice("first:3") == RankerChoice("first", 3)
    for written in ("first:x", "first:-1", "first:99999999999"):
        with pytest.raises(BadInput):
            ranker_choice(written)


def test_errors_for_people_say_where_and_what():
    error = BadInput("This file cannot be used.", [("line 3", "no key."), ("", "and 4 more.")])
    assert str(error) == "This file cannot be used.\nline 3: no key.\nand 4 more."
    assert error.message == "This file cannot be used."
    assert all(issubclass(kind, HarborError) for kind in (BadInput, NotFound, Unavailable))
