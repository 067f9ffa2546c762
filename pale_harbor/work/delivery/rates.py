"""How often may be asked: by a key, and from one address with it, counted by the minute."""

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil
from threading import Lock
from time import time
from typing import Final

from cachetools import LRUCache

_WINDOW_S: Final = 60
# Of keys and addresses in a minute; whoever has more of them finds those that ask least counted anew.
_MOST_COUNTED: Final = 200_000


@dataclass(frozen=True, slots=True)
class Allowance:
    """How much is left of what may be asked. name: whose; most: in a window; left: in the present one, which ends in
    `seconds`."""

    name: str
    most: int
    left: int
    seconds: int


@dataclass(frozen=True, slots=True)
class Counted:
    """What a request came to: whether it may be answered, and what is left of each allowance."""

    is_allowed: bool
    allowances: tuple[Allowance, ...]

    @property
    def headers(self) -> dict[str, str]:
        """As told to whoever asks: RateLimit-Policy and RateLimit ("RateLimit header fields for HTTP", IETF draft), and
        Retry-After (RFC 9110) where it is too much."""
        policy = ", ".join(f'"{one.name}";q={one.most};w={_WINDOW_S}' for one in self.allowances)
        left = ", ".join(f'"{one.name}";r={one.left};t={one.seconds}' for one in self.allowances)
        told = {"RateLimit-Policy": policy, "RateLimit": left}
        if not self.is_allowed:
            told["Retry-After"] = str(max(one.seconds for one in self.allowances if one.left == 0))
        return told


class Rates:
    """Counts requests in memory, of this process alone. Addresses are forgotten with their minute. clock: in seconds.
    Safe to use from several threads."""

    def __init__(self, clock: Callable[[], float] = time) -> None:
        self._clock = clock
        self._minute = -1
        self._counts: LRUCache[tuple[int, str | None], int] = LRUCache(_MOST_COUNTED)
        self._lock = Lock()

    def count(self, key_id: int, address: str, per_minute: int, per_minute_each: int) -> Counted:
        """Counts a request, by the key and by the address that asks with it.

        >>> rates = Rates(clock=lambda: 0.0)
        >>> [rates.count(1, "10.0.0.7", 2, 9).is_allowed for _ in range(3)]
        [True, True, False]
        """
        now = self._clock()
        minute = int(now // _WINDOW_S)
        with self._lock:
            if minute != self._minute:
                self._minute = minute
                self._counts.clear()
            each = self._counts[key_id, address] = self._counts.get((key_id, address), 0) + 1
            whole = self._counts.get((key_id, None), 0)
            # Whoever asks too much alone uses up nothing of what others may ask.
            if each <= per_minute_each:
                whole = self._counts[key_id, None] = whole + 1
        seconds = max(1, ceil((minute + 1) * _WINDOW_S - now))
        return Counted(
            each <= per_minute_each and whole <= per_minute,
            (
                Allowance("each", per_minute_each, max(0, per_minute_each - each), seconds),
                Allowance("key", per_minute, max(0, per_minute - whole), seconds),
            ),
        )
