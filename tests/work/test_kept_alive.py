"""A process of its own that is begun again whenever it ends, for as long as it is wanted."""

import os
import signal
import time
from threading import Event

import psutil
import pytest

from pale_harbor.work.running.kept_alive import KeptAlive
from tests.endurance.harbor import until


def go_on() -> None:
    """What the process does."""
    while True:
        time.sleep(60)


@pytest.fixture
def wanted() -> Event:
    return Event()


def test_it_is_there_while_it_is_wanted_and_again_after_it_was_killed(wanted: Event):
    alive = KeptAlive("going on", go_on, (), wanted.is_set)
    alive.start()
    try:
        assert alive.process_id is None
        wanted.set()
        alive.look_soon()
        until(lambda: alive.process_id is not None, 30, lambda: "It does not begin.")
        first = alive.process_id
        assert first is not None
        os.kill(first, signal.SIGKILL)
        until(lambda: alive.process_id not in (None, first), 30, lambda: "It does not begin again.")
        second = alive.process_id
        assert second is not None
    finally:
        alive.stop()
    until(lambda: not psutil.pid_exists(second), 30, lambda: "It goes on.")
    assert alive.process_id is None


def test_it_ends_a_while_after_nobody_wants_it(wanted: Event, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.work.running.kept_alive._SECONDS_UNWANTED", 0.5)
    alive = KeptAlive("going on", go_on, (), wanted.is_set)
    wanted.set()
    alive.start()
    try:
        until(lambda: alive.process_id is not None, 30, lambda: "It does not begin.")
        wanted.clear()
        until(lambda: alive.process_id is None, 30, lambda: "It does not end.")
    finally:
        alive.stop()
