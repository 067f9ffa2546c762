"""Finds out who asks: by a cookie of a browser, by a key of a program, or by being at this machine."""

from secrets import compare_digest
from typing import Final

import structlog
from anyio import CapacityLimiter, to_thread
from cachetools import TTLCache
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from pale_harbor.api.problems import MEDIA_TYPE, NO_DATABASE, Problem
from pale_harbor.store.database import Pool
from pale_harbor.work.people.asking import asked_by
from pale_harbor.work.people.tokens import hash_of
from pale_harbor.work.people.visiting import HERE, NOBODY, Guest, are_people_known, guest_showing

COOKIE: Final = "paleharbor-visit"
# Whoever was shut out is let in no longer than this by a server that did not do it itself.
SECONDS_KNOWN: Final = 1.0
_MOST_KNOWN: Final = 10_000
# Answered whoever asks and whatever the database does.
_FOR_ALL: Final = ("/api/alive", "/api/health", "/api/openapi.json")


class Who:
    """Who shows what. needs_sign_in: whether nobody is let in without, even where nobody is known yet."""

    def __init__(self, pool: Pool | None, local_key: str | None = None, *, needs_sign_in: bool = False) -> None:
        self._pool, self._local_key, self._needs_sign_in = pool, local_key, needs_sign_in
        self._known: TTLCache[bytes, Guest] = TTLCache(_MOST_KNOWN, SECONDS_KNOWN)
        self._here: TTLCache[None, bool] = TTLCache(1, SECONDS_KNOWN)
        self._limiter: CapacityLimiter | None = None

    async def asks(self, scope: Scope) -> Guest:
        """Who sends this request. Raises OperationalError or PoolTimeout where nobody can tell."""
        if self._pool is None:
            return HERE
        token = token_of(scope)
        if token is None:
            return await self._showing_nothing()
        if self._local_key is not None and compare_digest(token.encode(), self._local_key.encode()):
            return HERE
        shown = hash_of(token)
        known = self._known.get(shown)
        if known is None:
            known = await to_thread.run_sync(guest_showing, self._pool, token, limiter=self._own_limiter())
            known = known or await self._showing_nothing()
            self._known[shown] = known
        return known

    async def _showing_nothing(self) -> Guest:
        return NOBODY if await self.is_sign_in_needed() else HERE

    async def is_sign_in_needed(self) -> bool:
        """Whether whoever shows nothing is nobody here."""
        if self._needs_sign_in or self._pool is None:
            return self._needs_sign_in
        known = self._here.get(None)
        if known is None:
            known = await to_thread.run_sync(are_people_known, self._pool, limiter=self._own_limiter())
            self._here[None] = known
        return known

    def forget(self) -> None:
        """Something about people changed: everybody is asked for anew."""
        self._known.clear()
        self._here.clear()

    def _own_limiter(self) -> CapacityLimiter:
        # Finding out who asks is no work: it waits for nobody's.
        if self._limiter is None:
            self._limiter = CapacityLimiter(4)
        return self._limiter


def token_of(scope: Scope) -> str | None:
    """What a request shows: `Authorization: Bearer` (RFC 6750), or else the cookie."""
    headers = Headers(scope=scope)
    kind, _, token = headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer" and token.strip():
        return token.strip()
    return cookie_parser(headers.get("cookie", "")).get(COOKIE) or None


class WhoAsks:
    """Has everything behind it done for whoever asks; what they may, the routes see to."""

    def __init__(self, app: ASGIApp, who: Who) -> None:
        self._app, self._who = app, who

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        asks = scope["type"] == "http" and (scope["path"].startswith("/api/") or scope["path"] == "/metrics")
        if not asks or scope["path"] in _FOR_ALL:
            await self._app(scope, receive, send)
            return
        try:
            guest = await self._who.asks(scope)
        except (OperationalError, PoolTimeout) as error:
            structlog.get_logger().error("the database does not answer", reason=str(error))
            problem = Problem(title="Not available now", status=503, detail=NO_DATABASE)
            await JSONResponse(problem.model_dump(), 503, media_type=MEDIA_TYPE)(scope, receive, send)
            return
        with asked_by(guest):
            await self._app(scope, receive, send)
