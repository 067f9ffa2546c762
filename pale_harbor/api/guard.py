"""What every answer carries, and whom the server does not listen to."""

from collections.abc import Iterable
from secrets import token_hex
from typing import Final

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from structlog.contextvars import bind_contextvars

from pale_harbor.api.problems import MEDIA_TYPE, REQUEST_ID, Problem

# The names by which this machine knows itself.
LOOPBACK: Final = ("127.0.0.1", "localhost", "[::1]")

# Nothing is fetched from outside, nothing frames the page, no script or style stands in it. Signs in style sheets are
# pictures of theirs.
CONTENT_POLICY: Final = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; "
    "form-action 'self'"
)
_HEADERS: Final = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}
_AS_SENT: Final = [(name.lower().encode(), value.encode()) for name, value in _HEADERS.items()]
_NUMBER_AS_SENT: Final = REQUEST_ID.lower().encode()
_CHANGES_NOTHING: Final = ("GET", "HEAD", "OPTIONS")
# Asked by pages of other sites, by a key alone: no browser sends anything there of its own accord.
FOR_OTHER_SITES: Final = "/v1/"


class Guard:
    """Answers to its own names alone (a name that a stranger points at this machine must not reach the app: DNS
    rebinding), refuses changes that pages of other sites ask for (Fetch Metadata, W3C; Origin, RFC 6454), and says what
    the page may load.

    names: beside those of loopback, without a port.
    """

    def __init__(self, app: ASGIApp, names: Iterable[str] = ()) -> None:
        self.app = app
        self.names = {name.lower() for name in (*LOOPBACK, *names)}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        # By which a line of the log and an answer are told to belong together.
        number = token_hex(8)
        scope.setdefault("state", {})["request_id"] = number
        bind_contextvars(request=number)

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                own: list[tuple[bytes, bytes]] = list(message.get("headers", ()))
                there = {name for name, _ in own}
                own += [one for one in _AS_SENT if one[0] not in there]
                message = {**message, "headers": [*own, (_NUMBER_AS_SENT, number.encode())]}
            await send(message)

        refused = self._refused(scope)
        if refused is not None:
            response = JSONResponse(refused.model_dump(), refused.status, media_type=MEDIA_TYPE)
            await response(scope, receive, send_with_headers)
            return
        await self.app(scope, receive, send_with_headers)

    def _refused(self, scope: Scope) -> Problem | None:
        headers = Headers(scope=scope)
        host = headers.get("host", "").lower()
        if _without_port(host) not in self.names:
            said = f'This server is not called "{host[:200]}".' if host else "The request does not say whom it asks."
            return Problem(title="Not here", status=400, detail=f"{said} It answers to its own names alone.")
        if scope["method"] in _CHANGES_NOTHING or scope["path"].startswith(FOR_OTHER_SITES):
            return None
        asked_by, origin = headers.get("sec-fetch-site"), headers.get("origin")
        # Browsers say one or the other; programs that are none say neither.
        is_foreign = origin is not None and origin.lower() != f"{scope['scheme']}://{host}"
        if asked_by in ("cross-site", "same-site") or (asked_by is None and is_foreign):
            return Problem(title="Not allowed", status=403, detail="Pages of other sites may not change anything here.")
        return None


def _without_port(host: str) -> str:
    """
    >>> _without_port("localhost:7340"), _without_port("[::1]:7340"), _without_port("[::1]")
    ('localhost', '[::1]', '[::1]')
    """
    name, colon, port = host.rpartition(":")
    return name if colon and port.isdecimal() else host
