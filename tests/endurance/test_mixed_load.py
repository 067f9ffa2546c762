"""Twenty people and a busy search box at once, while chains are built: nothing goes wrong.

The box asks a server that only searches and is held on a processor, beside the one that people change things with,
which stands back where the processor is short: docs/running.md says how. `ENDURED_SECONDS=3600` in the environment
goes on for an hour, with a hundred searches a second, and holds memory and times to their bounds as well: a short run
beside other tests says nothing of these.
"""

import os
from pathlib import Path
from typing import Any

import psutil
import pytest

from tests.api.alone import alone
from tests.command_host import CommandHost
from tests.conftest import demo_copy
from tests.endurance.harbor import Harbor, begun, free_port, scaled
from tests.endurance.mixed_load import Harbour, Load

_LONG_S = 300
# Before anything is measured, so that whatever is made once is made; and at rest.
_LONGEST_BEFORE_S = 300
# Of each server's caches: so few that they are full before anything is measured, and what grows later is a leak.
_CACHED_BYTES = 200_000_000


def held_bytes(*servers: Harbor) -> int:
    """Of servers and what they began, without mapped files."""
    own = [psutil.Process(server.process.pid) for server in servers if server.process is not None]
    each = [one.memory_info() for server in own for one in (server, *server.children(recursive=True))]
    return sum(one.rss - one.shared for one in each)


def test_nothing_goes_wrong(host: CommandHost, demo_folder: Path, capsys: pytest.CaptureFixture[str]):
    seconds = scaled(12, "ENDURED_SECONDS")
    is_long = seconds >= _LONG_S
    before = min(_LONGEST_BEFORE_S, seconds / 12)
    with demo_copy(host, demo_folder) as command:
        data: Path = command.data  # pyright: ignore[reportFunctionMemberAccess]
        sizes = {"PALEHARBOR_MEMORY_BYTES": str(_CACHED_BYTES)}
        main = Harbor(data, free_port(), sizes | {"PALEHARBOR_STANDS_BACK": "true"})
        held = {"PALEHARBOR_SEARCHES_ONLY": "true", "PALEHARBOR_PROCESSOR": str(max(os.sched_getaffinity(0)))}
        searching = Harbor(data, free_port(), sizes | held)
        with begun(main), begun(searching):
            harbour = Harbour(main.address, searching.address, rate=100.0 if is_long else 15.0)
            harbour.begin()
            found: dict[str, Any] = {}

            async def story() -> None:
                found["warm"] = await harbour.go_on(before)
                found["rest"] = await harbour.go_on(before, only_searches=True)
                found["held"] = held_bytes(main, searching)
                found["load"] = await harbour.go_on(seconds)
                found["held after"] = held_bytes(main, searching)

            alone(story())
    rest, load = found["rest"], found["load"]
    with capsys.disabled():
        print(_told(rest, load, found["held"], found["held after"], seconds))
    assert [*found["warm"].wrong, *rest.wrong, *load.wrong] == []
    assert load.asked > 15 * seconds
    if is_long:
        assert found["held after"] <= 1.1 * found["held"]
        # Half of them say enough.
        undisturbed = (len(one.seconds) > len(one.others) + one.passed_over for one in (rest, load))
        assert all(undisturbed), "The machine was kept from working."
        assert load.percentile(95) <= 2 * rest.percentile(95)


def _told(rest: Load, load: Load, held: int, held_after: int, seconds: int) -> str:
    return (
        f"\n{load.asked} requests in {seconds} s. Under load {_searches_told(load)}. At rest {_searches_told(rest)}. "
        f"Memory {held / 1e6:.0f} MB, afterwards {held_after / 1e6:.0f} MB."
    )


def _searches_told(load: Load) -> str:
    """With what is left out of the figure that is asserted, and what it is with that."""
    return (
        f"{len(load.seconds)} searches of the box, p50 {load.percentile(50):.1f} ms, p95 {load.percentile(95):.1f} ms; "
        f"left out {len(load.others)} and {load.passed_over} not sent: kept from the processors for "
        f"{load.kept[0]:.0f} s, excused for {load.kept[1]:.0f} s; with what is left out "
        f"p95 {load.percentile(95, with_others=True):.1f} ms"
    )
