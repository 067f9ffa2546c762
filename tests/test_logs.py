"""A server's log: JSON lines in a file that is kept short, and no reason to fail."""

import json
import logging
from collections.abc import Generator
from pathlib import Path

import pytest
import structlog

from pale_harbor import logs
from pale_harbor.logs import set_up_logs


@pytest.fixture(autouse=True)
def as_before() -> Generator[None]:
    """Logs as they were, once a test is over."""
    raising = logging.raiseExceptions
    handlers, level = list(logging.root.handlers), logging.root.level
    yield
    structlog.reset_defaults()
    logging.root.handlers[:] = handlers
    logging.root.setLevel(level)
    logging.raiseExceptions = raising


def lines(file: Path) -> list[dict[str, object]]:
    return [json.loads(line) for line in file.read_text("utf-8").splitlines()]


def test_every_line_is_an_object_with_its_time_and_level(tmp_path: Path):
    file = tmp_path / "logs/server.log"
    set_up_logs(as_server=True, file=file)
    structlog.get_logger("pale_harbor.here").info("index built", records=3)
    structlog.get_logger("pale_harbor.here").debug("not told")
    logging.getLogger("elsewhere").warning("of another package")
    logging.getLogger("elsewhere").info("not told")
    first, second = lines(file)
    assert (first["event"], first["records"], first["level"]) == ("index built", 3, "info")
    assert str(first["timestamp"]).endswith("Z")
    assert (second["event"], second["level"]) == ("of another package", "warning")


def test_what_went_wrong_is_told_with_its_trace(tmp_path: Path):
    file = tmp_path / "server.log"
    set_up_logs(as_server=True, file=file)
    try:
        raise ValueError("no such stage")
    except ValueError as error:
        structlog.get_logger("pale_harbor.here").error("unforeseen", exc_info=error)
    assert "no such stage" in str(lines(file)[0]["exception"])


def test_the_log_and_a_few_before_it_are_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(logs, "LARGEST_LOG", 1_000)
    file = tmp_path / "server.log"
    set_up_logs(as_server=True, file=file)
    for number in range(200):
        structlog.get_logger("pale_harbor.here").info("line", number=number)
    kept = sorted(one.name for one in tmp_path.iterdir())
    assert kept == ["server.log", *(f"server.log.{number}" for number in range(1, 5))]
    assert all(one.stat().st_size <= 1_000 for one in tmp_path.iterdir())
    assert lines(file)[-1]["number"] == 199


def test_a_log_that_cannot_be_written_stops_nothing():
    set_up_logs(as_server=True, file=Path("/dev/full"))
    structlog.get_logger("pale_harbor.here").error("nobody hears this")
    structlog.get_logger("pale_harbor.here").info("nor this")


def test_a_command_tells_only_what_it_must_warn_of(capsys: pytest.CaptureFixture[str]):
    set_up_logs(as_server=False)
    structlog.get_logger("pale_harbor.here").info("index built")
    structlog.get_logger("pale_harbor.here").warning("a space could not be asked")
    told = [json.loads(line) for line in capsys.readouterr().err.splitlines()]
    assert [one["event"] for one in told] == ["a space could not be asked"]
