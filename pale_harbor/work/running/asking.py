"""Asks others over HTTP: one client, limits on what is believed, and tries for what may succeed later."""

from collections.abc import Callable, Mapping
from typing import Any, Final, Literal, TypeVar

import httpx
from tenacity import RetryCallState, Retrying, retry_if_exception, stop_after_attempt

from pale_harbor.errors import Unavailable

T = TypeVar("T")

_LATER: Final = (408, 425, 429, 500, 502, 503, 504)
_LONGEST_WAIT: Final = 30.0


class NotAnswered(Unavailable):
    """Somebody who was asked gave no usable answer.

    how: in which way; later: whether it may answer if it is asked again; wait: seconds that it asks for; answer: of a
    refusal.
    """

    def __init__(
        self,
        how: Literal["late", "nobody", "broken", "refused", "too long"],
        message: str,
        *,
        later: bool = False,
        wait: float | None = None,
        answer: httpx.Response | None = None,
    ) -> None:
        super().__init__(message)
        self.how = how
        self.later = later
        self.wait = wait
        self.answer = answer


def client(seconds: float, headers: Mapping[str, str], transport: httpx.BaseTransport | None = None) -> httpx.Client:
    """A client that waits so long, and follows no redirects: secrets stay where they are meant to go.

    transport: for tests.
    """
    return httpx.Client(timeout=seconds, headers=dict(headers), follow_redirects=False, transport=transport)


def answer_of(asking: httpx.Client, method: str, address: str, body: str | bytes | None, largest: int) -> bytes:
    """What an address answers, JSON sent where there is a body. Raises NotAnswered."""
    headers = {} if body is None else {"Content-Type": "application/json"}
    try:
        with asking.stream(method, address, content=body, headers=headers) as answer:
            if answer.status_code >= 300:
                answer.read()
                after = answer.headers.get("Retry-After", "")
                raise NotAnswered(
                    "refused",
                    f"{answer.status_code} {answer.reason_phrase}",
                    later=answer.status_code in _LATER,
                    wait=min(_LONGEST_WAIT, float(after)) if after.isdecimal() else None,
                    answer=answer,
                )
            pieces = bytearray()
            for piece in answer.iter_bytes():
                pieces += piece
                if len(pieces) > largest:
                    raise NotAnswered("too long", f"more than {largest:,} bytes")
            return bytes(pieces)
    except httpx.TimeoutException as error:
        raise NotAnswered("late", f"no answer within {asking.timeout.read:g} s", later=True) from error
    except httpx.ConnectError as error:
        raise NotAnswered("nobody", "nobody answers there", later=True) from error
    except httpx.HTTPError as error:
        raise NotAnswered("broken", str(error), later=True) from error


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
