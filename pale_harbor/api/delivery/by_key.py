"""How whoever shows a key is answered: within its limits, every error as a problem."""

from collections.abc import Awaitable, Callable, Mapping
from hashlib import sha256
from time import perf_counter
from typing import Final, TypeVar

import orjson
import structlog
from anyio import CapacityLimiter, to_thread
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from starlette.requests import ClientDisconnect, Request
from starlette.responses import Response
from starlette.routing import Match, Route
from starlette.types import Scope

from pale_harbor.api.problems import MEDIA_TYPE, NO_DATABASE, Problem, problem_of
from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.errors import HarborError, NotSignedIn, TooLarge, Unavailable
from pale_harbor.formats.visitor_terms import EVERY_ORIGIN
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import NO_KEY, Known
from pale_harbor.work.delivery.rates import Counted
from pale_harbor.work.running.giving_way import going_first
from pale_harbor.work.running.memory_budget import MemoryBudget

T = TypeVar("T")
Work = Callable[[Known, dict[str, str]], Awaitable[Response]]
# Of a body: a query with filters; nobody sends more.
_LARGEST_BODY: Final = 100_000
# Searches that are worked on at once; threads of one interpreter take turns.
_AT_ONCE: Final = 4
_METHODS: Final = "GET, POST, OPTIONS"
_TOLD: Final = "ETag, RateLimit, RateLimit-Policy, Retry-After, X-Request-ID"
_PREFLIGHT_S: Final = 600
# Why a page may not ask is no secret, and whoever makes it needs to know.
_READ_BY_ALL: Final = {"Access-Control-Allow-Origin": "*"}


class Refused(Exception):
    """A request that is answered with a problem."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.detail)
        self.problem = problem


class NamedRoute(Route):
    """A route that whoever counts requests knows by its name."""

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        match, found = super().matches(scope)
        return match, {**found, "route": self}


class ByKey:
    """Answers by key."""

    def __init__(self, delivery: Delivery, budget: MemoryBudget) -> None:
        self.delivery, self._budget = delivery, budget
        self._limiter: CapacityLimiter | None = None

    async def answer(self, request: Request, work: Work) -> Response:
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
        except Refused as refused:
            return problem_answer(refused.problem, _READ_BY_ALL | headers)
        except NotSignedIn as error:
            problem = problem_of(error).model_copy(update={"title": "No key"})
            return problem_answer(problem, headers | _READ_BY_ALL | {"WWW-Authenticate": "Bearer"})
        except HarborError as error:
            problem = problem_of(error)
            return problem_answer(problem, headers | ({"Retry-After": "5"} if problem.status == 503 else {}))
        except (OperationalError, PoolTimeout) as error:
            structlog.get_logger().error("the database does not answer", reason=str(error))
            problem = Problem(title="Not available now", status=503, detail=NO_DATABASE)
            return problem_answer(problem, headers | {"Retry-After": "5"})
        except ClientDisconnect:
            return Response(status_code=499)

    async def _known(self, request: Request) -> Known:
        token, collection = token_of(request), request.path_params["collection"]
        if token is None:
            raise NotSignedIn(NO_KEY)
        known = self.delivery.keys.known(token, collection)
        if known is None:
            known = await self.in_thread(lambda: self.delivery.keys.of(token, collection))
        return known

    def _allow(self, request: Request, known: Known, headers: dict[str, str]) -> None:
        """Sees to it that the page that asks may, and that it does not ask too often. Raises Refused."""
        origin = request.headers.get("origin")
        if origin is not None:
            is_own = origin.lower() == f"{request.url.scheme}://{request.headers.get('host', '').lower()}"
            if not is_own and not known.terms.allows(origin):
                detail = f'Pages of {origin[:200]} may not ask with this key. Its "origins" say which may.'
                raise Refused(Problem(title="Not allowed", status=403, detail=detail))
            # What everybody may read is read by whoever has it from somebody else, too.
            reader = EVERY_ORIGIN if EVERY_ORIGIN in known.terms.origins else origin
            headers |= {"Access-Control-Allow-Origin": reader, "Access-Control-Expose-Headers": _TOLD}
        address = request.client.host if request.client is not None else ""
        counted = self.delivery.count(known, address)
        headers |= counted.headers
        if not counted.is_allowed:
            raise Refused(_too_often(counted))

    async def _preflight(self, request: Request, headers: dict[str, str]) -> Response:
        """Which pages may ask at all (Fetch, WHATWG): the key is shown only with the request itself."""
        origin, collection = request.headers.get("origin", ""), request.path_params["collection"]
        if await self.in_thread(lambda: self.delivery.keys.lets_ask(origin, collection)):
            headers |= {
                "Access-Control-Allow-Origin": origin,
                "Access-Control-Allow-Methods": _METHODS,
                "Access-Control-Allow-Headers": "Authorization, Content-Type, If-None-Match",
                "Access-Control-Max-Age": str(_PREFLIGHT_S),
            }
        return Response(status_code=204, headers=headers)

    async def in_thread(self, work: Callable[[], T]) -> T:
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


def token_of(request: Request) -> str | None:
    """The key that is shown: in the path, as `Authorization: Bearer` (RFC 6750), or as `key` in the address, which
    needs no preflight."""
    if in_path := request.path_params.get("key"):
        return str(in_path)
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer" and token.strip():
        return token.strip()
    return request.query_params.get("key") or None


async def body_of(request: Request) -> bytes:
    """A body that says how long it is and is no longer than it may be. Raises TooLarge."""
    length = request.headers.get("content-length", "")
    if not length.isdecimal() or int(length) > _LARGEST_BODY:
        raise TooLarge(f"A request may hold {_LARGEST_BODY:,} bytes at most here, and must say its Content-Length.")
    return await request.body()


def etag_of(state: str, asked: str) -> str:
    """Weak, since what is noted with each answer differs (RFC 9110, 8.8.1)."""
    return f'W/"{sha256(f"{state} {asked}".encode("utf-8", "surrogatepass")).hexdigest()[:32]}"'


def is_known(request: Request, etag: str) -> bool:
    said = [one.strip() for one in request.headers.get("if-none-match", "").split(",")]
    return "*" in said or any(one.removeprefix("W/") == etag.removeprefix("W/") for one in said)


def problem_answer(problem: Problem, headers: Mapping[str, str]) -> Response:
    content = orjson.dumps(problem.model_dump(exclude_defaults=True) | {"status": problem.status})
    return Response(content, problem.status, headers=headers, media_type=MEDIA_TYPE)
