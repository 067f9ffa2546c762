"""The search endpoint of a site: answers by key alone, to pages of other sites as well, and knows nobody.

Below `/v1/COLLECTION`; see docs/delivery.md. It stands before everything that knows people, cookies and sessions, and
uses none of it.
"""

from collections.abc import Awaitable, Callable
from functools import lru_cache
from hashlib import sha256
from time import perf_counter
from typing import Any, Final, TypeVar

import orjson
import structlog
from anyio import CapacityLimiter, to_thread
from mimeparse import MimeTypeParseException, best_match
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from starlette.datastructures import Headers, QueryParams
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import ClientDisconnect, Request
from starlette.responses import Response
from starlette.routing import Match, Route, Router
from starlette.types import ASGIApp, Receive, Scope, Send

from pale_harbor.api.delivery.asked import (
    CompletionsAsked,
    CorrectionAsked,
    EventTold,
    ListAsked,
    of_address,
    of_body,
    read_as,
)
from pale_harbor.api.delivery.document import document_for
from pale_harbor.api.delivery.shown import (
    ANSWERS,
    JSON,
    about_told,
    answer_of,
    as_json,
    completions_told,
    list_told,
    meant_told,
)
from pale_harbor.api.guard import FOR_OTHER_SITES
from pale_harbor.api.problems import MEDIA_TYPE, NO_DATABASE, Problem, problem_of
from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.errors import HarborError, NotSignedIn, TooLarge, Unavailable
from pale_harbor.work.delivery.answering import DeliveredList
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import NO_KEY, Known
from pale_harbor.work.delivery.rates import Counted
from pale_harbor.work.running.giving_way import going_first
from pale_harbor.work.running.memory_budget import MemoryBudget

T = TypeVar("T")
# Of a body: a query with filters; nobody sends more.
_LARGEST_BODY: Final = 100_000
# Searches that are worked on at once; threads of one interpreter take turns.
_AT_ONCE: Final = 4
# Completions that are being gathered are told as being so, rather than waited for.
_PATIENCE_S: Final = 0.25
_COMPRESSED_FROM: Final = 2_000
_METHODS: Final = "GET, POST, OPTIONS"
_TOLD: Final = "ETag, RateLimit, RateLimit-Policy, Retry-After, X-Request-ID"
_PREFLIGHT_S: Final = 600
# Why a page may not ask is no secret, and whoever makes it needs to know.
_READ_BY_ALL: Final = {"Access-Control-Allow-Origin": "*"}


class _Refused(Exception):
    """A request that is answered with a problem."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.detail)
        self.problem = problem


class WorldFirst:
    """Takes what is asked of the search endpoint; everything else goes on to the application."""

    def __init__(self, app: ASGIApp, endpoint: ASGIApp) -> None:
        self._app, self._endpoint = app, endpoint

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        is_of_it = scope["type"] == "http" and scope["path"].startswith(FOR_OTHER_SITES)
        await (self._endpoint if is_of_it else self._app)(scope, receive, send)


class _NamedRoute(Route):
    """A route that whoever counts requests knows by its name."""

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        match, found = super().matches(scope)
        return match, {**found, "route": self}


def endpoint_of(delivery: Delivery, budget: MemoryBudget) -> ASGIApp:
    """The endpoint as an application of its own."""
    own = _Endpoint(delivery, budget)
    routes = [
        _NamedRoute("/v1/{collection}/search", own.search, methods=["GET", "POST", "OPTIONS"], name="world_search"),
        _NamedRoute("/v1/{collection}/typed", own.typed, methods=["GET", "POST", "OPTIONS"], name="world_typed"),
        _NamedRoute(
            "/v1/{collection}/completions", own.completions, methods=["GET", "OPTIONS"], name="world_completions"
        ),
        _NamedRoute("/v1/{collection}/correction", own.correction, methods=["GET", "OPTIONS"], name="world_correction"),
        _NamedRoute(
            "/v1/{collection}/records/{record:path}", own.record, methods=["GET", "OPTIONS"], name="world_record"
        ),
        _NamedRoute(
            "/v1/{collection}/pictures/{picture:path}", own.picture, methods=["GET", "OPTIONS"], name="world_picture"
        ),
        _NamedRoute("/v1/{collection}/events", own.event, methods=["POST", "OPTIONS"], name="world_event"),
        _NamedRoute("/v1/{collection}/about", own.about, methods=["GET", "OPTIONS"], name="world_about"),
        _NamedRoute("/v1/{collection}/openapi.json", own.document, methods=["GET", "OPTIONS"], name="world_document"),
    ]
    router = Router(routes, redirect_slashes=False, default=_no_address)

    async def answered(scope: Scope, receive: Receive, send: Send) -> None:
        try:
            await router(scope, receive, send)
        except HTTPException as error:
            detail = "This address is not asked so: openapi.json beside it says how."
            problem = Problem(title=error.detail, status=error.status_code, detail=detail)
            await _problem(problem, dict(error.headers or {}))(scope, receive, send)

    compressed = GZipMiddleware(answered, _COMPRESSED_FROM, 1)

    async def as_wanted(scope: Scope, receive: Receive, send: Send) -> None:
        wants = "gzip" in Headers(scope=scope).get("accept-encoding", "")
        await (compressed if wants else answered)(scope, receive, send)

    return as_wanted


async def _no_address(scope: Scope, receive: Receive, send: Send) -> None:
    problem = Problem(title="Not found", status=404, detail="There is no such address of the search endpoint.")
    await _problem(problem, {})(scope, receive, send)


class _Endpoint:
    def __init__(self, delivery: Delivery, budget: MemoryBudget) -> None:
        self._delivery, self._budget = delivery, budget
        self._limiter: CapacityLimiter | None = None

    async def search(self, request: Request) -> Response:
        """A page of the list for a query."""
        return await self._answer(request, lambda known, headers: self._list(request, known, headers, is_typed=False))

    async def typed(self, request: Request) -> Response:
        """The same while the query is being typed."""
        return await self._answer(request, lambda known, headers: self._list(request, known, headers, is_typed=True))

    async def completions(self, request: Request) -> Response:
        """Whole suggestions for what is being typed."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            asked: CompletionsAsked = read_as(CompletionsAsked, _plain(request.query_params))
            own = self._delivery.answering
            found = await self._in_thread(
                lambda: own.completed(known, asked.typed, asked.top, asked.language, _PATIENCE_S)
            )
            return Response(as_json(completions_told(found)), headers=headers, media_type=JSON)

        return await self._answer(request, work)

    async def correction(self, request: Request) -> Response:
        """What a query may have meant."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            asked: CorrectionAsked = read_as(CorrectionAsked, _plain(request.query_params))
            wanted = ListAsked(query=asked.query, language=asked.language).wanted(is_typed=False)
            meant = await self._in_thread(lambda: self._delivery.answering.corrected(known, wanted))
            return Response(as_json({"correction": meant_told(meant)}), headers=headers, media_type=JSON)

        return await self._answer(request, work)

    async def record(self, request: Request) -> Response:
        """One record."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            key: str = request.path_params["record"]
            own = self._delivery.answering
            etag = _etag(own.state_of(known, None), key)
            if _is_known(request, etag):
                return Response(status_code=304, headers=headers | {"ETag": etag})
            fields, revision = await self._in_thread(lambda: own.record(known, key))
            headers["ETag"] = _etag(own.state_of(known, None, revision), key)
            return Response(as_json({"key": key, "fields": fields}), headers=headers, media_type=JSON)

        return await self._answer(request, work)

    async def picture(self, request: Request) -> Response:
        """A picture that records name in a field that may be seen."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            name: str = request.path_params["picture"]
            found = await self._in_thread(lambda: self._delivery.picture(known, name))
            headers["Cache-Control"] = "private, max-age=3600"
            # A picture of another kind runs nothing, wherever it is opened.
            headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; sandbox"
            return Response(found.content, headers=headers, media_type=found.media_type)

        return await self._answer(request, work)

    async def event(self, request: Request) -> Response:
        """What somebody did with a row of a list: kept before it is answered."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            told: EventTold = of_body(await _body(request), EventTold)
            await self._in_thread(lambda: self._delivery.note_event(known, told.query_id, told.kind, told.record))
            return Response(status_code=204, headers=headers)

        return await self._answer(request, work)

    async def about(self, request: Request) -> Response:
        """How a page shows what it finds."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            told = await self._in_thread(lambda: self._delivery.about(known))
            return Response(as_json(about_told(told)), headers=headers, media_type=JSON)

        return await self._answer(request, work)

    async def document(self, request: Request) -> Response:
        """What can be asked here with this key, as an OpenAPI document."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            return Response(as_json(document_for(known, str(request.base_url))), headers=headers, media_type=JSON)

        return await self._answer(request, work)

    async def _list(self, request: Request, known: Known, headers: dict[str, str], *, is_typed: bool) -> Response:
        shown = known.audience.shown
        if request.method == "POST":
            asked: ListAsked = of_body(await _body(request), ListAsked)
        else:
            asked = of_address(request.query_params, shown)
        wanted = asked.wanted(is_typed=is_typed)
        kind = _kind_wanted(request)
        own = self._delivery.answering
        said = f"{kind} {request.url.path} {sorted(request.query_params.multi_items())}"
        if request.method == "GET":
            etag = _etag(own.state_of(known, wanted), said)
            if _is_known(request, etag):
                return Response(status_code=304, headers=headers | {"ETag": etag})

        def written(found: DeliveredList) -> bytes:
            # Whoever asks again may get what there was no time for, or what a service did not give.
            if request.method == "GET" and found.is_whole:
                headers["ETag"] = _etag(own.state_of(known, wanted, found.revision), said)
            return answer_of(kind, found, list_told(found), known)

        kept = self._delivery.listed_before(known, wanted)
        if kept is not None:
            content = written(kept)
        else:
            content = await self._in_thread(lambda: written(self._delivery.listed(known, wanted)))
        return Response(content, headers=headers, media_type=kind)

    async def _answer(self, request: Request, work: Callable[[Known, dict[str, str]], Awaitable[Response]]) -> Response:
        """What `work` gives for the key that is shown, where that may ask; every error as a problem."""
        headers = {"Vary": "Origin, Accept, Accept-Encoding", "Cross-Origin-Resource-Policy": "cross-origin"}
        headers["Cache-Control"] = "private, no-cache"
        try:
            if request.method == "OPTIONS":
                return await self._preflight(request, headers)
            known = await self._known(request)
            self._allow(request, known, headers)
            if (short := self._budget.refusal()) is not None:
                raise Unavailable(short)
            with self._budget.counted(), going_first():
                return await work(known, headers)
        except _Refused as refused:
            return _problem(refused.problem, _READ_BY_ALL | headers)
        except NotSignedIn as error:
            problem = problem_of(error).model_copy(update={"title": "No key"})
            return _problem(problem, headers | _READ_BY_ALL | {"WWW-Authenticate": "Bearer"})
        except HarborError as error:
            problem = problem_of(error)
            return _problem(problem, headers | ({"Retry-After": "5"} if problem.status == 503 else {}))
        except (OperationalError, PoolTimeout) as error:
            structlog.get_logger().error("the database does not answer", reason=str(error))
            problem = Problem(title="Not available now", status=503, detail=NO_DATABASE)
            return _problem(problem, headers | {"Retry-After": "5"})
        except ClientDisconnect:
            return Response(status_code=499)

    async def _known(self, request: Request) -> Known:
        token, collection = _token(request), request.path_params["collection"]
        if token is None:
            raise NotSignedIn(NO_KEY)
        known = self._delivery.keys.known(token, collection)
        if known is None:
            known = await self._in_thread(lambda: self._delivery.keys.of(token, collection))
        return known

    def _allow(self, request: Request, known: Known, headers: dict[str, str]) -> None:
        """Sees to it that the page that asks may, and that it does not ask too often. Raises _Refused."""
        origin = request.headers.get("origin")
        if origin is not None:
            is_own = origin.lower() == f"{request.url.scheme}://{request.headers.get('host', '').lower()}"
            if not is_own and not known.terms.allows(origin):
                detail = f'Pages of {origin[:200]} may not ask with this key. Its "origins" say which may.'
                raise _Refused(Problem(title="Not allowed", status=403, detail=detail))
            headers |= {"Access-Control-Allow-Origin": origin, "Access-Control-Expose-Headers": _TOLD}
        address = request.client.host if request.client is not None else ""
        counted = self._delivery.count(known, address)
        headers |= counted.headers
        if not counted.is_allowed:
            raise _Refused(_too_often(counted))

    async def _preflight(self, request: Request, headers: dict[str, str]) -> Response:
        """Which pages may ask at all (Fetch, WHATWG): the key is shown only with the request itself."""
        origin, collection = request.headers.get("origin", ""), request.path_params["collection"]
        if await self._in_thread(lambda: self._delivery.keys.lets_ask(origin, collection)):
            headers |= {
                "Access-Control-Allow-Origin": origin,
                "Access-Control-Allow-Methods": _METHODS,
                "Access-Control-Allow-Headers": "Authorization, Content-Type, If-None-Match",
                "Access-Control-Max-Age": str(_PREFLIGHT_S),
            }
        return Response(status_code=204, headers=headers)

    async def _in_thread(self, work: Callable[[], T]) -> T:
        def bounded() -> T:
            with patterns_within_bounds(perf_counter):
                return work()

        if self._limiter is None:
            self._limiter = CapacityLimiter(_AT_ONCE)
        return await to_thread.run_sync(bounded, limiter=self._limiter)


def _too_often(counted: Counted) -> Problem:
    spent = next(one for one in counted.allowances if one.left == 0)
    whose = "by one address with this key" if spent.name == "each" else "with this key"
    detail = f"{spent.most:,} requests a minute may be sent {whose}. Ask again in {spent.seconds} s."
    return Problem(title="Too many requests", status=429, detail=detail)


def _token(request: Request) -> str | None:
    """The key that is shown: `Authorization: Bearer` (RFC 6750), or `key` in the address, which needs no preflight."""
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer" and token.strip():
        return token.strip()
    return request.query_params.get("key") or None


def _plain(said: QueryParams) -> dict[str, Any]:
    return {name: value for name, value in said.items() if name != "key"}


async def _body(request: Request) -> bytes:
    """A body that says how long it is and is no longer than it may be. Raises TooLarge."""
    length = request.headers.get("content-length", "")
    if not length.isdecimal() or int(length) > _LARGEST_BODY:
        raise TooLarge(f"A request may hold {_LARGEST_BODY:,} bytes at most here, and must say its Content-Length.")
    return await request.body()


def _kind_wanted(request: Request) -> str:
    """In which form an answer is wanted (RFC 9110, 12.5.1): JSON where nothing else is asked for. Raises _Refused."""
    found = _most_welcome(request.headers.get("accept") or "*/*")
    if not found:
        detail = f"This is answered as {', '.join(ANSWERS)}."
        raise _Refused(Problem(title="Not acceptable", status=406, detail=detail))
    return found


# Browsers say few different things, over and over.
@lru_cache(64)
def _most_welcome(accepted: str) -> str:
    try:
        # The last of those that are equally welcome is taken.
        return str(best_match([*reversed(ANSWERS)], accepted))
    except MimeTypeParseException:
        return JSON


def _etag(state: str, asked: str) -> str:
    """Weak, since what is noted with each answer differs (RFC 9110, 8.8.1)."""
    return f'W/"{sha256(f"{state} {asked}".encode("utf-8", "surrogatepass")).hexdigest()[:32]}"'


def _is_known(request: Request, etag: str) -> bool:
    said = [one.strip() for one in request.headers.get("if-none-match", "").split(",")]
    return "*" in said or any(one.removeprefix("W/") == etag.removeprefix("W/") for one in said)


def _problem(problem: Problem, headers: dict[str, str]) -> Response:
    content = orjson.dumps(problem.model_dump(exclude_defaults=True) | {"status": problem.status})
    return Response(content, problem.status, headers=headers, media_type=MEDIA_TYPE)
