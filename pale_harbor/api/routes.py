"""Routes that see to it that whoever asks has a right to it, that a body is not too large before it is read, and that
what was changed is noted."""

from collections.abc import Awaitable, Callable
from functools import wraps
from inspect import iscoroutinefunction
from typing import Any, Final, TypeVar, cast

import orjson
from anyio import to_thread
from fastapi import APIRouter, Request, Response
from fastapi.routing import APIRoute

from pale_harbor.api.rights import right_needed
from pale_harbor.errors import TooLarge, Unavailable
from pale_harbor.work.people.asking import need, who_asks
from pale_harbor.work.people.changes import note_change
from pale_harbor.work.people.jobs import collection_of_job
from pale_harbor.work.people.rights import Right

LARGEST_BODY: Final = 2_000_000
_Endpoint = TypeVar("_Endpoint", bound=Callable[..., Any])
_WITH_BODY: Final = ("POST", "PUT", "PATCH")
_READS: Final = ("GET", "HEAD", "OPTIONS")
# What is noted in the list of changes: whatever is more than looking.
_NOTED: Final = (Right.CHANGE, Right.OWN, Right.BRING, Right.MAKE, Right.KEEP)
# Of it, what changes nothing yet; drafts, which change with every turn of a knob; and what is noted where it is done.
_LOOKS_ONLY: Final = (
    "upload",
    "preview_source",
    "read_thesaurus",
    "command",
    "post_draft",
    "put_draft",
    "delete_draft",
    "rename",
)
# Of a request's body, what is noted with it: short, and no secret.
_TELLING: Final = (
    *("name", "shown", "role", "keeper", "makes_collections", "judges", "title"),
    *("query_id", "record_key", "grade", "share", "closed"),
)
_MOST_TOLD_OF: Final = 20_000


def largest_body(largest: int) -> Callable[[_Endpoint], _Endpoint]:
    """Marks an endpoint whose requests may hold so many bytes, where that is not the usual."""

    def mark(endpoint: _Endpoint) -> _Endpoint:
        endpoint.largest_body = largest  # pyright: ignore[reportFunctionMemberAccess]
        return endpoint

    return mark


class GuardedRoute(APIRoute):
    """A route that reads no body larger than its endpoint allows, and writes its answer where the endpoint worked.

    Otherwise answers are looked through once more in another thread, and written while nobody else is heard: what they
    hold is of the right kind already, as types are checked and tests ask every endpoint.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **named: Any) -> None:
        @wraps(endpoint)
        def told(*args: Any, **given: Any) -> Any:
            answer = endpoint(*args, **given)
            if self.response_field is None or isinstance(answer, Response):
                return answer
            written = self.response_field.serialize_json(answer)
            return Response(written, self.status_code or 200, media_type="application/json")

        super().__init__(path, endpoint if iscoroutinefunction(endpoint) else told, **named)

    def get_route_handler(self) -> Callable[[Request], Awaitable[Response]]:  # pyright: ignore
        handle = super().get_route_handler()
        right = right_needed(self.name)
        is_noted = right in _NOTED and "GET" not in (self.methods or ()) and self.name not in _LOOKS_ONLY
        says = (self.endpoint.__doc__ or self.name).strip().split("\n\n")[0]
        largest: int = getattr(self.endpoint, "largest_body", LARGEST_BODY)

        changes = right in _NOTED and bool({"POST", "PUT", "PATCH", "DELETE"} & set(self.methods or ()))

        async def guarded(request: Request) -> Response:
            if changes and request.app.state.searches_only:
                raise Unavailable(
                    "This server only searches and measures. Ask the one that changes what is here, on the same data."
                )
            if right is not Right.ANYBODY:
                need(Right.SIGNED_IN)
            collection = await _collection_of(request)
            # Of a job without one it is known by now that it is whoever asks who makes its collection.
            if collection is not None or "job_id" not in request.path_params:
                need(right, collection)
            length = request.headers.get("content-length", "0")
            unknown = "transfer-encoding" in request.headers or not length.isdecimal()
            if request.method in _WITH_BODY and (unknown or int(length) > largest):
                raise TooLarge(f"A request may hold {largest:,} bytes at most here, and must say its Content-Length.")
            response = await handle(request)
            if right not in (Right.LOOK, Right.CHANGE) and request.method not in _READS and self.name != "judge_said":
                # Who is what, or may do what, may be another thing now; not by what a judge says, which is said often.
                request.app.state.who.forget()
            if is_noted and response.status_code < 400:
                told = await _told_of(request, int(length) if length.isdecimal() else 0)
                await to_thread.run_sync(_note, request, collection, says, told)
            return response

        return guarded


async def _collection_of(request: Request) -> str | None:
    """The name of the collection that a request is about."""
    path, given = request.scope["route"].path, request.path_params
    if "/collections/{collection}" in path:
        return given["collection"]
    if "/collections/{name}" in path:
        return given["name"]
    job = given.get("job_id", given.get("reckoning_id"))
    # A reading is remembered longer than its job, and a keeper may see every one.
    if job is None or ("reckoning_id" in given and who_asks().is_keeper):
        return None
    return await to_thread.run_sync(collection_of_job, request.app.state.server.bench.pool, str(job))


async def _told_of(request: Request, length: int) -> list[str]:
    """What of a request's body says whom or what it was about."""
    if not 0 < length <= _MOST_TOLD_OF or "json" not in request.headers.get("content-type", ""):
        return []
    # It was read already, and is kept; where nothing is expected, anything may have been sent.
    try:
        body = orjson.loads(await request.body())
    except orjson.JSONDecodeError:
        return []
    if not isinstance(body, dict):
        return []
    given = cast("dict[str, Any]", body)
    return [f"{key} {given[key]}" for key in _TELLING if given.get(key) not in (None, "")]


def _note(request: Request, collection: str | None, says: str, told: list[str]) -> None:
    about = " ".join([*(value for value in request.path_params.values() if value != collection), *told])
    server = request.app.state.server
    if server is not None:
        note_change(server.bench.pool, collection, " ".join(says.split()).rstrip("."), about)


def guarded_router() -> APIRouter:
    """A router of a room of the API."""
    return APIRouter(route_class=GuardedRoute)
