"""The port of a server on its way, and what process counts as one."""

import pytest

from pale_harbor.errors import Unavailable
from pale_harbor.work import serving


def test_a_port_is_held_from_the_moment_it_is_chosen():
    with serving._listener(None) as first:  # pyright: ignore[reportPrivateUsage]
        port = first.getsockname()[1]
        # Another server that had it before takes another one.
        with serving._listener(port) as second:  # pyright: ignore[reportPrivateUsage]
            assert second.getsockname()[1] != port
    with serving._listener(port) as again:  # pyright: ignore[reportPrivateUsage]
        assert again.getsockname()[1] == port


def test_no_free_port_is_told_with_those_that_were_tried(monkeypatch: pytest.MonkeyPatch):
    with serving._listener(None) as taken:  # pyright: ignore[reportPrivateUsage]
        port = taken.getsockname()[1]
        monkeypatch.setattr(serving, "_FIRST_PORT", port)
        monkeypatch.setattr(serving, "_PORTS", 1)
        with pytest.raises(Unavailable, match=f"None of the ports {port} to {port} is free"):
            serving._listener(None)  # pyright: ignore[reportPrivateUsage]


@pytest.mark.parametrize(
    ("called_as", "is_it"),
    [
        (["python", "-m", "pale_harbor.cli", "serve", "--listening", "7", "--port", "7340"], True),
        (["python", "-m", "pale_harbor.cli", "serve", "--port", "7340"], True),
        (["python", "-m", "pale_harbor.cli", "serve", "--port", "7341"], False),
        # Another program that has the number of a server that is gone.
        (["other", "--port", "7340"], False),
    ],
)
def test_a_server_is_known_by_how_it_was_called(called_as: list[str], is_it: bool):
    assert serving._is_server(called_as, 7340) is is_it  # pyright: ignore[reportPrivateUsage]
