"""A server that is held on one processor, and what it begins, which is not."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from threading import Thread

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.store.database import Pool
from pale_harbor.work.running.processes import Processes
from pale_harbor.work.running.processors import allowed_processors, hold_on
from tests.work.tasks import processors_there


def in_own_thread(work: Callable[[], object]) -> None:
    """A thread is held as well as a program: the tests' own one stays free."""
    thread = Thread(target=work)
    thread.start()
    thread.join()


def test_a_thread_and_what_it_begins_stay_on_one_processor():
    last = max(allowed_processors())
    seen: list[set[int]] = []

    def held() -> None:
        hold_on(last)
        seen.append(os.sched_getaffinity(0))
        in_own_thread(lambda: seen.append(os.sched_getaffinity(0)))

    in_own_thread(held)
    assert seen == [{last}, {last}]
    assert os.sched_getaffinity(0) == allowed_processors()


TELLS_HOW_IT_STANDS = """
import os
from pathlib import Path
from pale_harbor.work.running.processors import stand_back

shares = Path("/proc/self/autogroup")
# A kernel without shares has no such file; where no session was ever begun (some containers), it is empty.
told = lambda: (shares.exists() and shares.read_text()) or "nice 0"
before = told()
stand_back()
print(os.nice(0), before.split()[-1], told().split()[-1], sep=",")
"""


@pytest.mark.parametrize("leads", [True, False])
def test_a_program_stands_back_and_so_does_its_session_where_it_leads_one(leads: bool):
    done = subprocess.run(
        [sys.executable, "-c", TELLS_HOW_IT_STANDS], start_new_session=leads, capture_output=True, text=True, check=True
    )
    nice, before, after = (int(one) for one in done.stdout.strip().split(","))
    assert nice == min(19, os.nice(0) + 10)
    # Not every kernel shares by session.
    assert after == (10 if leads and Path("/proc/self/autogroup").exists() else before)


def test_a_processor_that_is_not_given_is_refused():
    missing = max(allowed_processors()) + 1
    with pytest.raises(BadInput, match=f"The setting processor is {missing}, and this program was given"):
        hold_on(missing)


def test_processes_that_a_held_server_begins_use_all(pool: Pool):
    found: list[frozenset[int]] = []

    def held() -> None:
        hold_on(max(allowed_processors()))
        processes = Processes(str(pool.conninfo), 1)
        found.append(processes.run(processors_there))
        processes.stop()

    in_own_thread(held)
    assert found == [allowed_processors()]
