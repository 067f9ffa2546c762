"""Twenty people and a busy search box at once, while chains are built: nothing goes wrong.

`ENDURED_SECONDS=3600` in the environment goes on for an hour, with a hundred searches a second, and holds memory and
times to their bounds as well: a short run beside other tests says nothing of these.
"""

from pathlib import Path
from typing import Any

import orjson
import psutil
import pytest

from tests.api.alone import alone
from tests.command_host import CommandHost
from tests.conftest import demo_copy
from tests.endurance.harbor import scaled
from tests.endurance.mixed_load import Harbour, Load

_LONG_S = 300


def held_bytes(data: Path) -> int:
    """Of the server and what it began, without mapped files."""
    server = psutil.Process(orjson.loads((data / "server.json").read_bytes())["process"])
    each = [one.memory_info() for one in (server, *server.children(recursive=True))]
    return sum(one.rss - one.shared for one in each)


def test_nothing_goes_wrong(host: CommandHost, demo_folder: Path, capsys: pytest.CaptureFixture[str]):
    seconds = scaled(12, "ENDURED_SECONDS")
    is_long = seconds >= _LONG_S
    with demo_copy(host, demo_folder) as command:
        up = command("up")
        assert up.returncode == 0, up.stderr
        data: Path = command.data  # pyright: ignore[reportFunctionMemberAccess]
        harbour = Harbour(up.stdout.strip(), rate=100.0 if is_long else 15.0)
        harbour.begin()
        found: dict[str, Any] = {}

        async def story() -> None:
            # So that whatever is made once is made.
            found["warm"] = await harbour.go_on(seconds / 12)
            found["rest"] = await harbour.go_on(seconds / 12, only_searches=True)
            found["held"] = held_bytes(data)
            found["load"] = await harbour.go_on(seconds)
            found["held after"] = held_bytes(data)

        alone(story())
        rest, load = found["rest"], found["load"]
        with capsys.disabled():
            print(_told(rest, load, found["held"], found["held after"], seconds))
        assert [*found["warm"].wrong, *rest.wrong, *load.wrong] == []
        assert load.asked > 20 * seconds / 4
        if is_long:
            assert found["held after"] <= 1.1 * found["held"]
            assert load.percentile(95) <= 2 * rest.percentile(95)


def _told(rest: Load, load: Load, held: int, held_after: int, seconds: int) -> str:
    own, quiet = ([one.percentile(share) for share in (50, 95)] for one in (load, rest))
    return (
        f"\n{load.asked} requests in {seconds} s, {len(load.seconds)} searches of the box: "
        f"p50 {own[0]:.0f} ms, p95 {own[1]:.0f} ms; at rest {quiet[0]:.0f} and {quiet[1]:.0f} ms. "
        f"Memory {held / 1e6:.0f} MB, afterwards {held_after / 1e6:.0f} MB."
    )
