"""Asks others over HTTP: one way to do it, limits on what is believed, and tries for what may succeed later."""

import socket
import time
from collections.abc import Callable, Generator, Mapping
from contextlib import contextmanager, suppress
from threading import Event
from typing import Any, Final, Literal, TypeVar

import httpx
from tenacity import RetryCallState, Retrying, retry_if_exception, stop_after_attempt

from pale_harbor.errors import Cancelled, Unavailable
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.door import Closed, ThroughTheDoor, the_door
from pale_harbor.work.running.wanted import wanted_by_this_thread

T = TypeVar("T")

_LATER: Final = (408, 425, 429, 500, 502, 503, 504)
_LONGEST_WAIT: Final = 30.0
_BETWEEN_LOOKS_S: Final = 0.1
# Shorter ones stand in any answer by chance.
_LEAST_SECRET: Final = 6


class NotAnswered(Unavailable):
    """Somebody who was asked gave no usable answer.

    how: in which way; later: whether it may answer if it is asked again; wait: seconds that it asks for; content: what
    it said with a refusal.
    """

    def __init__(
        self,
        how: Literal["late", "nobody", "broken", "refused", "too long", "closed"],
        message: str,
        *,
        later: bool = False,
        wait: float | None = None,
        content: bytes = b"",
    ) -> None:
        super().__init__(message)
        self.how = how
        self.later = later
        self.wait = wait
        self.content = content


class Asking:
    """Asks others, one question at a time. Use it in a `with`.

    seconds: for a whole answer, however it trickles in. secrets: headers that are sent and never told: an answer that
    repeats one is not taken. is_wanted: whether somebody still waits, looked at while the answer is awaited; by
    default whoever waits for what this thread does. transport: for tests.
    """

    def __init__(
        self,
        seconds: float,
        headers: Mapping[str, str],
        secrets: Mapping[str, str] | None = None,
        is_wanted: Callable[[], bool] | None = None,
        transport: httpx.BaseTransport | None = None,
    ) -> None:
        self.seconds = seconds
        self._secrets = [value.encode() for value in (secrets or {}).values() if len(value) >= _LEAST_SECRET]
        self._client = httpx.Client(
            timeout=seconds,
            headers={**headers, **(secrets or {})},
            follow_redirects=False,
            transport=transport or (None if the_door().inside is None else ThroughTheDoor(the_door())),
        )
        self._watch = _Watch(is_wanted or wanted_by_this_thread())

    def __enter__(self) -> "Asking":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Lets go of its connections."""
        self._watch.end()
        self._client.close()

    def answer(self, method: str, address: str, body: str | bytes | None, largest: int) -> bytes:
        """What an address answers, JSON sent where there is a body.

        Raises NotAnswered, and Cancelled where nobody waits any more.
        """
        headers = {} if body is None else {"Content-Type": "application/json"}
        try:
            with (
                self._watch.over(self.seconds),
                self._client.stream(
                    method, address, content=body, headers=headers, extensions={"trace": self._watch.heard}
                ) as answer,
            ):
                content = self._content(answer, largest)
                self._refuse_echo(content, answer)
                if answer.status_code >= 300:
                    raise _refused(answer, content)
                return content
        except httpx.TimeoutException as error:
            raise self._late() from error
        except httpx.ConnectError as error:
            raise NotAnswered("nobody", "nobody answers there", later=True) from error
        except httpx.HTTPError as error:
            if self._watch.ended == "unwanted":
                raise Cancelled("Nobody waits for this any more.") from error
            if self._watch.ended == "late":
                raise self._late() from error
            raise NotAnswered("broken", str(error), later=True) from error
        except Closed as error:
            raise NotAnswered("closed", str(error)) from error

    def _content(self, answer: httpx.Response, largest: int) -> bytes:
        pieces = bytearray()
        for piece in answer.iter_bytes():
            pieces += piece
            if len(pieces) > largest:
                raise NotAnswered("too long", f"more than {largest:,} bytes")
        # Of a connection that the watch closed, what came so far may look like a whole.
        if self._watch.ended is not None:
            raise httpx.ReadError("the answer was given up")
        return bytes(pieces)

    def _refuse_echo(self, content: bytes, answer: httpx.Response) -> None:
        told = content + answer.reason_phrase.encode()
        if any(secret in told for secret in self._secrets):
            raise NotAnswered("broken", "the answer repeats what is secret, so nothing of it was taken")

    def _late(self) -> NotAnswered:
        return NotAnswered("late", f"no answer within {self.seconds:g} s", later=True)


def _refused(answer: httpx.Response, content: bytes) -> NotAnswered:
    after = answer.headers.get("Retry-After", "")
    return NotAnswered(
        "refused",
        f"{answer.status_code} {answer.reason_phrase}",
        later=answer.status_code in _LATER,
        wait=min(_LONGEST_WAIT, float(after)) if after.isdecimal() else None,
        content=content,
    )


class _Watch:
    """Gives up an answer that takes too long or that nobody waits for, by closing its connection.

    A read that waits cannot be told of either, and a byte now and then keeps it waiting for ever.
    """

    def __init__(self, is_wanted: Callable[[], bool]) -> None:
        self.ended: Literal["late", "unwanted"] | None = None
        self._is_wanted = is_wanted
        self._sockets: list[socket.socket] = []
        self._until: float | None = None
        self._closed = Event()
        self._begun = False

    @contextmanager
    def over(self, seconds: float) -> Generator[None]:
        """Watches over what is asked within."""
        self.ended, self._until = None, time.monotonic() + seconds
        if not self._begun:
            self._begun = True
            in_background("watching over an answer", self._look)
        try:
            yield
        finally:
            self._until = None

    def heard(self, event: str, told: Mapping[str, Any]) -> None:
        """Hears of each connection that is made."""
        # TLS takes the socket over: what was closed before would be nobody's.
        if event in ("connection.connect_tcp.complete", "connection.start_tls.complete"):
            made = told["return_value"].get_extra_info("socket")
            if made is not None:
                self._sockets.append(made)

    def end(self) -> None:
        """Looks no longer."""
        self._closed.set()

    def _look(self) -> None:
        while not self._closed.wait(_BETWEEN_LOOKS_S):
            until = self._until
            if until is None or self.ended is not None:
                continue
            if time.monotonic() > until:
                self._give_up("late")
            elif not self._is_wanted():
                self._give_up("unwanted")

    def _give_up(self, why: Literal["late", "unwanted"]) -> None:
        self.ended = why
        for one in self._sockets:
            with suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)


def with_retries(once: Callable[[], T], tries: int, wait: Callable[[float], None], first_wait: float) -> T:
    """What is given at last: what may succeed later is tried again, after a while that doubles, or that is asked for.

    once: raises errors with `later` and `wait` as NotAnswered has them; wait: sleeps, and may raise to end it all.
    """

    def seconds(state: RetryCallState) -> float:
        error: Any = state.outcome.exception() if state.outcome is not None else None
        asked_for = getattr(error, "wait", None) or 0.0
        return min(_LONGEST_WAIT, max(asked_for, first_wait * 2 ** (state.attempt_number - 1)))

    retrying = Retrying(
        stop=stop_after_attempt(tries),
        retry=retry_if_exception(lambda error: bool(getattr(error, "later", False))),
        wait=seconds,
        sleep=wait,
        reraise=True,
    )
    return retrying(once)
