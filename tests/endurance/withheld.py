"""How much of the processors this machine was kept from: what runs it may give them to others meanwhile.

Linux tells it as *steal* (proc(5), /proc/stat): time in which this machine wanted to go on and could not. What takes
longer then says nothing of the program, so that times are told apart by it.
"""

import psutil


class Withheld:
    """How much since it was asked last."""

    def __init__(self) -> None:
        self._before = psutil.cpu_times()

    def share(self) -> float:
        """Of all the processors' time since then, from 0 to 1."""
        now, before = psutil.cpu_times(), self._before
        self._before = now
        # What guests take is in the user's time already.
        whole = sum(now[:8]) - sum(before[:8])
        return (now.steal - before.steal) / whole if whole > 0 else 0.0
