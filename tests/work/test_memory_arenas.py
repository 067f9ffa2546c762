"""Few stores of free memory: what one thread let go of, another one takes."""

import sys

import pytest

from pale_harbor.work.running import memory_arenas
from pale_harbor.work.running.memory_arenas import keep_few_arenas


@pytest.mark.skipif(sys.platform != "linux", reason="A setting of the GNU C library.")
def test_the_c_library_is_told():
    assert keep_few_arenas()


def test_where_there_is_no_such_setting_all_stays_as_it_is(monkeypatch: pytest.MonkeyPatch):
    class Another:
        """A C library that knows no such thing."""

    def library(_name: str | None) -> Another:
        return Another()

    monkeypatch.setattr(memory_arenas.ctypes, "CDLL", library)
    assert not keep_few_arenas()
