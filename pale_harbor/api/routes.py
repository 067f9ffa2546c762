"""Routes that say how much a request to them may hold: a body that is too large is refused before it is read."""

from collections.abc import Awaitable, Callable
from typing import Any, Final, TypeVar

from fastapi import APIRouter, Request, Response
from fastapi.routing import APIRoute

from pale_harbor.errors import TooLarge

LARGEST_BODY: Final = 2_000_000
_Endpoint = TypeVar("_Endpoint", bound=Callable[..., Any])
_WITH_BODY: Final = ("POST", "PUT", "PATCH")


def largest_body(largest: int) -> Callable[[_Endpoint], _Endpoint]:
    """Marks an endpoint whose requests may hold so many bytes, where that is not the usual."""

    def mark(endpoint: _Endpoint) -> _Endpoint:
        endpoint.largest_body = largest  # pyright: ignore[reportFunctionMemberAccess]
        return endpoint

    return mark


class GuardedRoute(APIRoute):
    """A route that reads no body larger than its endpoint allows."""

    def get_route_handler(self) -> Callable[[Request], Awaitable[Response]]:  # pyright: ignore
        handle = super().get_route_handler()
        largest: int = getattr(self.endpoint, "largest_body", LARGEST_BODY)

        async def guarded(request: Request) -> Response:
            length = request.headers.get("content-length", "0")
            unknown = "transfer-encoding" in request.headers or not length.isdecimal()
            if request.method in _WITH_BODY and (unknown or int(length) > largest):
                raise TooLarge(f"A request may hold {largest:,} bytes at most here, and must say its Content-Length.")
            return await handle(request)

        return guarded


def guarded_router() -> APIRouter:
    """A router of a room of the API."""
    return APIRouter(route_class=GuardedRoute)
