"""Visitors at the search endpoint, with facets, beside an engineer who builds, fills and tunes: nothing goes wrong.

They ask servers that only search, one for each processor, beside the one that changes things, which stands back where
the processor is short: docs/running.md says how. `ENDURED_SECONDS=600` in the environment asks three hundred times a
second of a hundred thousand records for ten minutes, and holds memory and times to their bounds as well: a short run
beside other tests says nothing of these.
"""

import os
import shutil

import psutil
import pytest

from tests.conftest import make_data_folder
from tests.endurance.harbor import Harbor, begun, free_port, scaled, until
from tests.endurance.quay import Quay, percentile
from tests.endurance.search_box import Searched
from tests.endurance.test_mixed_load import held_bytes

_LONG_S = 300
_MOST_MS = 50.0
# What a server may keep, so that it is full before memory is looked at.
_FOR_VISITORS = {"PALEHARBOR_SEARCHES_ONLY": "true", "PALEHARBOR_MEMORY_BYTES": "200000000"}


def test_visitors_are_answered_whoever_else_is_at_work(capsys: pytest.CaptureFixture[str]):
    seconds = scaled(8, "ENDURED_SECONDS")
    is_long = seconds >= _LONG_S
    rate = 300.0 if is_long else 20.0
    data = make_data_folder()
    main = Harbor(data, free_port(), {"PALEHARBOR_STANDS_BACK": "true"})
    processors = sorted(os.sched_getaffinity(0)) if is_long else [0]
    visitors = [
        Harbor(data, free_port(), _FOR_VISITORS | _held(processor if is_long else None)) for processor in processors
    ]
    try:
        with begun(main):
            quay = Quay(main.address, 100_000 if is_long else 1_000)
            quay.begin()
            for one in visitors:
                one.start()
            assert [_stands_back(one) for one in (main, *visitors)] == [10, *(0 for _ in visitors)]
            own = [one.address for one in visitors]
            warm = quay.visited(own, rate, seconds if is_long else seconds / 4)
            before = held_bytes(*visitors)
            alone = quay.visited(own, rate, seconds)
            after = held_bytes(*visitors)
            at_work = quay.work()
            beside = quay.visited(own, rate, seconds)
            quay.rest(at_work)
            asked = sum(len(one.seconds) + len(one.others) for one in (warm, alone, beside))
            # They are kept a little behind, by servers that change nothing else.
            until(lambda: quay.kept() == asked, 60, lambda: f"Of {asked} lists {quay.kept()} are kept.")
    finally:
        for one in visitors:
            if one.process is not None:
                one.kill()
        main.cluster.stop(at_once=True)
        shutil.rmtree(data, ignore_errors=True)
    with capsys.disabled():
        print(f"\nAlone: {_told(alone)}\nBeside an engineer: {_told(beside)}")
        print(f"Memory {before / 1e6:.0f} MB, afterwards {after / 1e6:.0f} MB.")
    assert [*warm.wrong, *alone.wrong, *beside.wrong, *quay.wrong] == []
    if is_long:
        assert percentile(alone, 95) < _MOST_MS
        assert percentile(beside, 95) <= 2 * percentile(alone, 95)
        assert after <= 1.1 * before


def _stands_back(server: Harbor) -> int:
    assert server.process is not None
    return psutil.Process(server.process.pid).nice() - os.nice(0)


def _held(processor: int | None) -> dict[str, str]:
    return {} if processor is None else {"PALEHARBOR_PROCESSOR": str(processor)}


def _told(found: Searched) -> str:
    """With what is left out of the figure that is asserted, and what it is with that."""
    return (
        f"{len(found.seconds)} searches, p50 {percentile(found, 50):.1f} ms, p95 {percentile(found, 95):.1f} ms; "
        f"left out {len(found.others)} and {found.passed_over} not sent: kept from the processors for "
        f"{found.kept_s:.0f} s, excused for {found.excused_s:.0f} s; with what is left out "
        f"p95 {percentile(found, 95, with_others=True):.1f} ms"
    )
