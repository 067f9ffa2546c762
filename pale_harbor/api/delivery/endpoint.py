"""The search endpoint of a site: answers by key alone, to pages of other sites as well, and knows nobody.

Below `/v1/COLLECTION`; see docs/delivery.md. It stands before everything that knows people, cookies and sessions, and
uses none of it.
"""

from functools import lru_cache
from typing import Any, Final

from mimeparse import MimeTypeParseException, best_match
from starlette.datastructures import Headers, QueryParams
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Router
from starlette.types import ASGIApp, Receive, Scope, Send

from pale_harbor.api.delivery.asked import (
    CompletionsAsked,
    CorrectionAsked,
    EventTold,
    ListAsked,
    PageAsked,
    PictureAsked,
    of_address,
    of_body,
    read_as,
)
from pale_harbor.api.delivery.by_key import ByKey, NamedRoute, Refused, body_of, etag_of, is_known, problem_answer
from pale_harbor.api.delivery.document import document_for
from pale_harbor.api.delivery.protocols import protocol_routes
from pale_harbor.api.delivery.shown import (
    ANSWERS,
    JSON,
    about_told,
    answer_of,
    as_json,
    completions_told,
    list_told,
    meant_told,
    page_told,
)
from pale_harbor.api.guard import FOR_OTHER_SITES
from pale_harbor.api.problems import Problem
from pale_harbor.work.delivery.answering import DeliveredList
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.running.memory_budget import MemoryBudget

# Completions that are being gathered are told as being so, rather than waited for.
_PATIENCE_S: Final = 0.25
_COMPRESSED_FROM: Final = 2_000


class WorldFirst:
    """Takes what is asked of the search endpoint; everything else goes on to the application."""

    def __init__(self, app: ASGIApp, endpoint: ASGIApp) -> None:
        self._app, self._endpoint = app, endpoint

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        is_of_it = scope["type"] == "http" and scope["path"].startswith(FOR_OTHER_SITES)
        await (self._endpoint if is_of_it else self._app)(scope, receive, send)


def endpoint_of(delivery: Delivery, budget: MemoryBudget) -> ASGIApp:
    """The endpoint as an application of its own."""
    by = ByKey(delivery, budget)
    own = _Endpoint(by)
    reading, asking = ["GET", "OPTIONS"], ["GET", "POST", "OPTIONS"]
    routes = [
        NamedRoute("/v1/{collection}/search", own.search, methods=asking, name="world_search"),
        NamedRoute("/v1/{collection}/typed", own.typed, methods=asking, name="world_typed"),
        NamedRoute("/v1/{collection}/completions", own.completions, methods=reading, name="world_completions"),
        NamedRoute("/v1/{collection}/correction", own.correction, methods=reading, name="world_correction"),
        NamedRoute("/v1/{collection}/records/{record:path}", own.record, methods=reading, name="world_record"),
        NamedRoute("/v1/{collection}/pages/{record:path}", own.page, methods=reading, name="world_page"),
        NamedRoute("/v1/{collection}/pictures/{picture:path}", own.picture, methods=reading, name="world_picture"),
        NamedRoute("/v1/{collection}/events", own.event, methods=["POST", "OPTIONS"], name="world_event"),
        NamedRoute("/v1/{collection}/about", own.about, methods=reading, name="world_about"),
        NamedRoute("/v1/{collection}/openapi.json", own.document, methods=reading, name="world_document"),
        *protocol_routes(by),
    ]
    router = Router(routes, redirect_slashes=False, default=_no_address)

    async def answered(scope: Scope, receive: Receive, send: Send) -> None:
        try:
            await router(scope, receive, send)
        except HTTPException as error:
            detail = "This address is not asked so: openapi.json beside it says how."
            problem = Problem(title=error.detail, status=error.status_code, detail=detail)
            await problem_answer(problem, dict(error.headers or {}))(scope, receive, send)

    compressed = GZipMiddleware(answered, _COMPRESSED_FROM, 1)

    async def as_wanted(scope: Scope, receive: Receive, send: Send) -> None:
        wants = "gzip" in Headers(scope=scope).get("accept-encoding", "")
        await (compressed if wants else answered)(scope, receive, send)

    return as_wanted


async def _no_address(scope: Scope, receive: Receive, send: Send) -> None:
    problem = Problem(title="Not found", status=404, detail="There is no such address of the search endpoint.")
    await problem_answer(problem, {})(scope, receive, send)


class _Endpoint:
    def __init__(self, by: ByKey) -> None:
        self._by, self._delivery = by, by.delivery

    async def search(self, request: Request) -> Response:
        """A page of the list for a query."""
        return await self._by.answer(
            request, lambda known, headers: self._list(request, known, headers, is_typed=False)
        )

    async def typed(self, request: Request) -> Response:
        """The same while the query is being typed."""
        return await self._by.answer(request, lambda known, headers: self._list(request, known, headers, is_typed=True))

    async def completions(self, request: Request) -> Response:
        """Whole suggestions for what is being typed."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            asked: CompletionsAsked = read_as(CompletionsAsked, _plain(request.query_params))
            own = self._delivery.answering
            found = await self._by.in_thread(
                lambda: own.completed(known, asked.typed, asked.top, asked.language, _PATIENCE_S)
            )
            return Response(as_json(completions_told(found)), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def correction(self, request: Request) -> Response:
        """What a query may have meant."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            asked: CorrectionAsked = read_as(CorrectionAsked, _plain(request.query_params))
            wanted = ListAsked(query=asked.query, language=asked.language).wanted(is_typed=False)
            meant = await self._by.in_thread(lambda: self._delivery.answering.corrected(known, wanted))
            return Response(as_json({"correction": meant_told(meant)}), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def record(self, request: Request) -> Response:
        """One record."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            key: str = request.path_params["record"]
            own = self._delivery.answering
            etag = etag_of(own.state_of(known, None), key)
            if is_known(request, etag):
                return Response(status_code=304, headers=headers | {"ETag": etag})
            fields, revision = await self._by.in_thread(lambda: own.record(known, key))
            headers["ETag"] = etag_of(own.state_of(known, None, revision), key)
            return Response(as_json({"key": key, "fields": fields}), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def page(self, request: Request) -> Response:
        """A page that a machine read, with what a query matched on it and on the others of its thing."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            key: str = request.path_params["record"]
            asked: PageAsked = read_as(PageAsked, _plain(request.query_params))
            wanted = ListAsked(query=asked.query, language=asked.language).wanted(is_typed=asked.typed)
            told = await self._by.in_thread(lambda: page_told(self._delivery.page(known, key, wanted)))
            return Response(as_json(told), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def picture(self, request: Request) -> Response:
        """A picture that records name in a field that may be seen."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            name: str = request.path_params["picture"]
            asked: PictureAsked = read_as(PictureAsked, _plain(request.query_params))
            found = await self._by.in_thread(lambda: self._delivery.picture(known, name, small=asked.small))
            headers["Cache-Control"] = "private, max-age=3600"
            # A picture of another kind runs nothing, wherever it is opened.
            headers["Content-Security-Policy"] = "default-src 'none'; style-src 'unsafe-inline'; sandbox"
            return Response(found.content, headers=headers, media_type=found.media_type)

        return await self._by.answer(request, work)

    async def event(self, request: Request) -> Response:
        """What somebody did with a row of a list: kept before it is answered."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            told: EventTold = of_body(await body_of(request), EventTold)
            await self._by.in_thread(lambda: self._delivery.note_event(known, told.query_id, told.kind, told.record))
            return Response(status_code=204, headers=headers)

        return await self._by.answer(request, work)

    async def about(self, request: Request) -> Response:
        """How a page shows what it finds."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            told = await self._by.in_thread(lambda: self._delivery.about(known))
            return Response(as_json(about_told(told)), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def document(self, request: Request) -> Response:
        """What can be asked here with this key, as an OpenAPI document."""

        async def work(known: Known, headers: dict[str, str]) -> Response:
            return Response(as_json(document_for(known, str(request.base_url))), headers=headers, media_type=JSON)

        return await self._by.answer(request, work)

    async def _list(self, request: Request, known: Known, headers: dict[str, str], *, is_typed: bool) -> Response:
        shown = known.audience.shown
        if request.method == "POST":
            asked: ListAsked = of_body(await body_of(request), ListAsked)
        else:
            asked = of_address(request.query_params, shown)
        wanted = asked.wanted(is_typed=is_typed)
        kind = _kind_wanted(request)
        own = self._delivery.answering
        said = f"{kind} {request.url.path} {sorted(request.query_params.multi_items())}"
        if request.method == "GET":
            etag = etag_of(own.state_of(known, wanted), said)
            if is_known(request, etag):
                return Response(status_code=304, headers=headers | {"ETag": etag})

        def written(found: DeliveredList) -> bytes:
            # Whoever asks again may get what there was no time for, or what a service did not give.
            if request.method == "GET" and found.is_whole:
                headers["ETag"] = etag_of(own.state_of(known, wanted, found.revision), said)
            hits = self._delivery.paged.hits_of(known, found) if asked.hits else None
            return answer_of(kind, found, list_told(found, hits), known)

        kept = self._delivery.listed_before(known, wanted)
        # Where words stand is read from the database.
        if kept is not None and not asked.hits:
            content = written(kept)
        else:
            content = await self._by.in_thread(lambda: written(kept or self._delivery.listed(known, wanted)))
        return Response(content, headers=headers, media_type=kind)


def _plain(said: QueryParams) -> dict[str, Any]:
    return {name: value for name, value in said.items() if name != "key"}


def _kind_wanted(request: Request) -> str:
    """In which form an answer is wanted (RFC 9110, 12.5.1): JSON where nothing else is asked for. Raises Refused."""
    found = _most_welcome(request.headers.get("accept") or "*/*")
    if not found:
        detail = f"This is answered as {', '.join(ANSWERS)}."
        raise Refused(Problem(title="Not acceptable", status=406, detail=detail))
    return found


# Browsers say few different things, over and over.
@lru_cache(64)
def _most_welcome(accepted: str) -> str:
    try:
        # The last of those that are equally welcome is taken.
        return str(best_match([*reversed(ANSWERS)], accepted))
    except MimeTypeParseException:
        return JSON
