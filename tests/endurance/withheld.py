"""How much of the processors this machine was kept from: what runs it may give them to others meanwhile.

Linux tells it as *steal* (proc(5), /proc/stat): time in which this machine wanted to go on and could not. What takes
longer then says nothing of the program, so that times are told apart by it.
"""

from typing import Final

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


# Of the processors' time, from which on nothing that is measured says anything.
WITHHELD: Final = 0.1
# So few are under way where nothing is behind.
USUAL_UNDER_WAY: Final = 5
# What has gathered within a moment is caught up with in no less.
_LEAST_S: Final = 1.0


class Excused:
    """Whether what is due now is late because the machine was kept from its processors, or has to catch up with that:
    for as long as it was kept from them, at least a second. Whatever is slow after that is slow by itself.

    kept_s, excused_s: how long it was kept from them, and how long that excused.
    """

    def __init__(self, now: float) -> None:
        self.is_excused = False
        self.kept_s = self.excused_s = 0.0
        self._looked_at = self._kept_until = now
        self._stretch_s = 0.0

    def look(self, now: float, share: float, under_way: int) -> None:
        """At a moment. share: of the processors' time that it was kept from since the last look."""
        since, self._looked_at = now - self._looked_at, now
        if share > WITHHELD:
            # What comes while it is still catching up is one stretch with what was before.
            self._stretch_s = since if not self.is_excused else self._stretch_s + since
            self._kept_until, self.is_excused = now, True
            self.kept_s += since
        elif under_way <= USUAL_UNDER_WAY or now - self._kept_until > max(_LEAST_S, self._stretch_s):
            self.is_excused = False
        if self.is_excused:
            self.excused_s += since
