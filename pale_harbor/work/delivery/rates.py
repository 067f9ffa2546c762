"""How often may be asked: by a key, and from one address with it, counted by the minute (by the package limits)."""

from dataclasses import dataclass
from math import ceil
from time import time
from typing import Final

from limits import RateLimitItemPerMinute
from limits.storage import MemoryStorage
from limits.strategies import FixedWindowRateLimiter

_WINDOW_S: Final = 60


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
    """Counts requests in memory, of this process alone. Addresses are forgotten with their minute."""

    def __init__(self) -> None:
        self._counting = FixedWindowRateLimiter(MemoryStorage())

    def count(self, key_id: int, address: str, per_minute: int, per_minute_each: int) -> Counted:
        """Counts a request, by the key and by the address that asks with it.

        >>> rates = Rates()
        >>> [rates.count(1, "10.0.0.7", 2, 9).is_allowed for _ in range(3)]
        [True, True, False]
        """
        own, each = RateLimitItemPerMinute(per_minute), RateLimitItemPerMinute(per_minute_each)
        # Whoever asks too much alone uses up nothing of what others may ask.
        is_allowed = self._counting.hit(each, str(key_id), address) and self._counting.hit(own, str(key_id))
        return Counted(
            is_allowed,
            (
                self._allowance("each", each, str(key_id), address),
                self._allowance("key", own, str(key_id)),
            ),
        )

    def _allowance(self, name: str, item: RateLimitItemPerMinute, *whose: str) -> Allowance:
        ends_at, left = self._counting.get_window_stats(item, *whose)
        return Allowance(name, item.amount, max(0, left), max(1, ceil(ends_at - time())))
