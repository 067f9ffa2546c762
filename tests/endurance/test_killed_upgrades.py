"""An upgrade killed at any moment leaves what was there, or all of it in its new place; the next start works on it.

`ENDURED_UPGRADES=40` in the environment tries it so often.
"""

import hashlib
import os
import random
import signal
import threading

import httpx

from tests.endurance.ferries import HOME, SET, Ferries
from tests.endurance.harbor import Harbor, harbor, scaled

SEED = 20_310_518
# As long as one takes that nobody kills, and a little more: some come to their end.
_LONGEST_S = 9.0


def digest(here: Harbor) -> str:
    """Of all records, judgments and imports."""
    told = [
        httpx.get(f"{here.address}{path}", timeout=60)
        for path in (f"{HOME}/export?form=jsonl", f"{SET}/files/judgments?form=columns", f"{HOME}/imports")
    ]
    assert [one.status_code for one in told] == [200] * 3
    return hashlib.sha256(b"".join(one.content for one in told)).hexdigest()


def stop(here: Harbor) -> None:
    """Has the server end, as a manager of services would."""
    assert here.process is not None
    here.process.terminate()
    here.process.wait(60)


def test_whatever_is_left_is_gone_on_with():
    kills = scaled(3, "ENDURED_UPGRADES")
    moments = random.Random(SEED)
    with harbor() as here:
        Ferries(here.address, SEED).begin()
        before = digest(here)
        for _ in range(kills):
            stop(here)
            upgrade = here.command("upgrade", "--again")
            # The moment itself is what is tried.
            threading.Event().wait(moments.uniform(0.3, _LONGEST_S))
            if upgrade.poll() is None:
                os.killpg(upgrade.pid, signal.SIGKILL)
            upgrade.wait(60)
            here.start()
            assert digest(here) == before
            left = {one.name for one in here.data.iterdir()}
            assert not left & {"database-new", "database-taking-place.json"}
        stop(here)
        moved = here.command("upgrade", "--again")
        assert moved.wait(120) == 0, here.log[-3_000:]
        assert "Moved from PostgreSQL" in here.log
        here.start()
        assert digest(here) == before
