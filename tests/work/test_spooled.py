"""Exports for slow readers: all of it in order, and nothing held but a file."""

from collections.abc import Iterator
from pathlib import Path
from threading import Event

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.store.database import Pool
from pale_harbor.work.records.exporting import exported_lines
from pale_harbor.work.running.spooled import spooled
from tests.loading import load_rows


def test_everything_comes_in_order():
    made = [bytes([number]) * (number * 1_000) for number in range(1, 100)]
    assert b"".join(spooled(lambda: iter(made))) == b"".join(made)
    assert list(spooled(lambda: iter(()))) == []


def test_the_first_piece_comes_before_the_last_is_made():
    go_on = Event()

    def pieces() -> Iterator[bytes]:
        yield b"first"
        assert go_on.wait(10)
        yield b"last"

    read = spooled(pieces)
    assert next(read) == b"first"
    go_on.set()
    assert b"".join(read) == b"last"


def test_all_is_made_while_nobody_reads_on():
    done = Event()

    def pieces() -> Iterator[bytes]:
        yield from (b"x" * 100_000 for _ in range(50))
        done.set()

    read = spooled(pieces)
    first = next(read)
    assert done.wait(10)
    assert len(first) + sum(map(len, read)) == 5_000_000


def test_what_goes_wrong_is_told_after_what_was_made():
    def pieces() -> Iterator[bytes]:
        yield b"some"
        raise BadInput("the records were dropped")

    read = spooled(pieces)
    assert next(read) == b"some"
    with pytest.raises(BadInput, match="dropped"):
        next(read)


def test_whoever_stops_reading_ends_the_making():
    stopped, go_on = Event(), Event()

    def pieces() -> Iterator[bytes]:
        try:
            yield b"first"
            assert go_on.wait(10)
            while True:
                yield b"more"
        finally:
            stopped.set()

    read = spooled(pieces)
    assert next(read) == b"first"
    read.close()  # pyright: ignore
    go_on.set()
    assert stopped.wait(10)


def test_stalled_downloads_hold_no_connection(pool: Pool, tmp_path: Path):
    load_rows(pool, tmp_path, [{"id": f"r{i}", "title": "Fog bell " * 50} for i in range(2_000)])
    ended = [Event() for _ in range(pool.max_size + 3)]

    def watched(end: Event) -> Iterator[bytes]:
        try:
            yield from exported_lines(pool, "coast", "jsonl")
        finally:
            end.set()

    downloads = [spooled(lambda one=one: watched(one)) for one in ended]
    for one in downloads:
        assert next(one).startswith(b"{")
    # Nobody reads on; all are written, and every connection is free again.
    assert all(one.wait(60) for one in ended)
    with pool.connection(timeout=1) as connection:
        assert connection.execute("SELECT 1").fetchone() == (1,)
    assert {sum(1 for piece in one for _ in piece.splitlines()) >= 1_000 for one in downloads} == {True}
