"""Killed at any moment, nothing that was acknowledged is lost, doubled or half done, and nothing stays stuck.

`ENDURED_KILLS=200` in the environment tries it so often (half an hour).
"""

import random
import threading

from tests.endurance.ferries import Ferries
from tests.endurance.harbor import harbor, scaled, until

SEED = 20_310_517


def test_what_was_acknowledged_survives():
    kills = scaled(5, "ENDURED_KILLS")
    moments = random.Random(SEED)
    with harbor() as here:
        ferries = Ferries(here.address, SEED)
        ferries.begin()
        for number in range(kills):
            ended = threading.Event()
            threads = ferries.write(ended)
            # The moment itself is what is tried.
            ended.wait(moments.uniform(0.1, 2.5))
            # The server alone; the database alone, whose server goes on; both.
            who = ("server", "database", "both")[number % 3]
            if who != "server":
                here.kill_database()
            if who != "database":
                here.kill()
            ended.set()
            for one in threads:
                one.join(90)
                assert not one.is_alive()
            if who == "database":
                here.cluster.start()
                here.wait_until_ready()
            else:
                here.start()
            ferries.look()
        # However slow the machine is: what was tried was tried.
        ended = threading.Event()
        threads = ferries.write(ended)
        until(ferries.has_written_in_all_ways, 120, lambda: f"Not all ways were gone: {ferries.written}")
        ended.set()
        for one in threads:
            one.join(90)
        ferries.look()
