"""When an answer is due: what has not been begun by then is left out of it, and named."""

from collections.abc import Callable
from time import perf_counter


class Hurry:
    """So many seconds from now on, None for as many as it takes. left_out: what there was no time for, each once."""

    def __init__(self, seconds: float | None = None, clock: Callable[[], float] = perf_counter) -> None:
        self._clock = clock
        self._due = None if seconds is None else clock() + seconds
        self.left_out: list[str] = []

    def seconds_left(self) -> float | None:
        """How many there are, 0 once it is due; None for as many as it takes.

        >>> Hurry(2.0, clock=lambda: 5.0).seconds_left()
        2.0
        """
        return None if self._due is None else max(0.0, self._due - self._clock())

    def has_time_for(self, part: str) -> bool:
        """Whether something may be begun yet; noted as left out where it may not.

        >>> late = Hurry(0.0)
        >>> late.has_time_for("facets"), late.has_time_for("facets"), late.left_out
        (False, False, ['facets'])
        """
        if self.seconds_left() != 0.0:
            return True
        self.leave_out(part)
        return False

    def leave_out(self, part: str) -> None:
        """Notes something that there was no time for."""
        if part not in self.left_out:
            self.left_out.append(part)
