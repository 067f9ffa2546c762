"""What every answer carries, and whom the server does not listen to."""

from typing import Final

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pale_harbor.api.problems import MEDIA_TYPE, Problem

# Nothing is fetched from outside, nothing frames the page. The theme's inline styles are ours.
_CONTENT_POLICY: Final = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


class Guard:
    """Refuses changes that pages of other sites ask for (Fetch Metadata, W3C); says what the page may load."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers.setdefault("Content-Security-Policy", _CONTENT_POLICY)
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "same-origin"
            await send(message)

        asked_by = Headers(scope=scope).get("sec-fetch-site")
        if scope["method"] not in ("GET", "HEAD") and asked_by in ("cross-site", "same-site"):
            problem = Problem(
                title="Not allowed", status=403, detail="Pages of other sites may not change anything here."
            )
            response = JSONResponse(problem.model_dump(), 403, media_type=MEDIA_TYPE)
            await response(scope, receive, send_with_headers)
            return
        await self.app(scope, receive, send_with_headers)
