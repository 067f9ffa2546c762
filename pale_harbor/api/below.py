"""Served below a path by a proxy, which takes that path off before it asks here, or leaves it."""

from starlette.types import ASGIApp, Receive, Scope, Send


class TakesOff:
    """Takes the path off that a proxy left before an address. below: such as /search; "" where there is none."""

    def __init__(self, app: ASGIApp, below: str) -> None:
        self.app = app
        self.below = below

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if self.below and scope["type"] == "http" and f"{scope['path']}/".startswith(f"{self.below}/"):
            scope = {**scope, "path": scope["path"][len(self.below) :] or "/"}
            raw = scope.get("raw_path")
            if raw is not None:
                scope["raw_path"] = raw[len(self.below) :] or b"/"
        await self.app(scope, receive, send)
