"""How long a database is left alone between two looks: it has other work."""

import time
from typing import Final

# What is asked of the database takes it this share of the time at most, unless that would keep changes waiting.
_SHARE_OF_ITS_TIME: Final = 0.04
_LEAST_S: Final = 0.2
# A few changes are wanted soon; where more than so many a second come, they may as well come in larger parts.
_LONGEST_S: Final = 0.6
_MANY_A_SECOND: Final = 500.0
_LONGEST_OF_MANY_S: Final = 5.0


def pause_after(asked_s: float, changes_a_second: float) -> float:
    """How long a database is left alone, in seconds. asked_s: for how long it was asked just now.

    >>> [round(pause_after(asked_s, 200.0), 2) for asked_s in (0.001, 0.02, 1.0)]
    [0.2, 0.5, 0.6]
    >>> [round(pause_after(0.1, changes_a_second), 2) for changes_a_second in (500.0, 501.0)]
    [0.6, 2.5]
    >>> pause_after(1.0, 1_000.0)
    5.0
    """
    longest = _LONGEST_OF_MANY_S if changes_a_second > _MANY_A_SECOND else _LONGEST_S
    return min(longest, max(_LEAST_S, asked_s / _SHARE_OF_ITS_TIME))


class Pacing:
    """The pace of one follower. pause_s: until it is next to look."""

    def __init__(self) -> None:
        self.pause_s = _LEAST_S
        self._looked_at = time.monotonic()

    def note(self, asked_s: float, changes: int) -> None:
        """Notes a look: for how long the database was asked, and how many changes came of it."""
        now = time.monotonic()
        since, self._looked_at = max(1e-3, now - self._looked_at), now
        self.pause_s = pause_after(asked_s, changes / since)
