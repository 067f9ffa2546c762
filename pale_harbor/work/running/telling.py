"""Hands on what the database tells to everybody who listens: one connection for all."""

from collections.abc import Callable
from threading import Event, Lock
from typing import Any, Final

from psycopg import OperationalError

from pale_harbor.store.running.notices import notices
from pale_harbor.work.running.background import in_background

_SECONDS_BETWEEN_LOOKS: Final = 5.0
_SECONDS_UNTIL_AGAIN: Final = 2.0

Notice = dict[str, Any]


class Telling:
    """Whoever listens hears every notice; all hear `again` where some may have been missed."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._listeners: dict[int, Callable[[Notice], object]] = {}
        self._lock, self._ended = Lock(), Event()
        self._next = 0

    def start(self) -> None:
        """Begins to listen, in the background."""
        in_background("telling", self._listen)

    def stop(self) -> None:
        """Listens no more."""
        self._ended.set()

    def add(self, listener: Callable[[Notice], object]) -> Callable[[], None]:
        """Has somebody hear of everything from now on; returns what ends that. A listener must not take long."""
        with self._lock:
            self._next += 1
            number = self._next
            self._listeners[number] = listener

        def end() -> None:
            with self._lock:
                self._listeners.pop(number, None)

        return end

    def _tell(self, notice: Notice) -> None:
        with self._lock:
            listeners = list(self._listeners.values())
        for listener in listeners:
            listener(notice)

    def _listen(self) -> None:
        again = False
        while not self._ended.is_set():
            try:
                for notice in notices(self._address, _SECONDS_BETWEEN_LOOKS):
                    if self._ended.is_set():
                        return
                    if notice is not None:
                        self._tell(notice)
                    elif again:
                        self._tell({"subject": "again"})
                    again = False
            except OperationalError:
                # What happens until somebody listens again is missed.
                again = True
                self._ended.wait(_SECONDS_UNTIL_AGAIN)
