"""Errors as problem documents (RFC 9457, "Problem Details for HTTP APIs")."""

from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg import DataError, OperationalError
from psycopg.errors import ForeignKeyViolation, NumericValueOutOfRange
from psycopg_pool import PoolTimeout
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from pale_harbor.api.told_paths import told_path
from pale_harbor.core.text import ChainError, Place
from pale_harbor.errors import (
    BadInput,
    Cancelled,
    HarborError,
    NotAllowed,
    NotFound,
    NotSignedIn,
    Overtaken,
    TooLarge,
    TooManyAttempts,
    Unavailable,
)
from pale_harbor.work.running.room import NO_ROOM, is_for_want_of_room

MEDIA_TYPE = "application/problem+json"
# By which an answer and lines of the log are told to belong together.
REQUEST_ID = "X-Request-ID"
# Of a request: what tells why it was ended, beyond what is usual.
ENDED_FOR = "pale_harbor.ended_for"
NO_DATABASE = "The database does not answer. Start it with ./paleharbor up."


class PlaceModel(BaseModel):
    """A stretch of notation; lines and columns count from 1, in code points."""

    line: int
    column: int
    length: int


class ProblemDetail(BaseModel):
    """One thing that is wrong: where (a path of keys, a line, or empty) and what."""

    where: str
    what: str


class Problem(BaseModel):
    """What went wrong and what to do. place, expected, nearest: for chain notation only."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    problems: list[ProblemDetail] = []
    place: PlaceModel | None = None
    expected: list[str] = []
    nearest: str | None = None


def place_model(place: Place) -> PlaceModel:
    """A stretch of notation as it goes out."""
    return PlaceModel(line=place.line, column=place.column, length=place.length)


def chain_problem(error: ChainError) -> Problem:
    """A wrong chain, with the place to underline."""
    return Problem(
        title="This chain cannot be read",
        status=422,
        detail=error.problem,
        place=place_model(error.place),
        expected=list(error.expected),
        nearest=error.nearest,
    )


def problem_of(error: HarborError, ended_for: str | None = None) -> Problem:
    """An error as it is told. ended_for: why a request was ended, where it is not for the usual reasons."""
    match error:
        case NotFound():
            return Problem(title="Not found", status=404, detail=str(error))
        case NotSignedIn():
            return Problem(title="Sign in", status=401, detail=str(error))
        case NotAllowed():
            return Problem(title="Not allowed", status=403, detail=str(error))
        case TooManyAttempts():
            return Problem(title="Too many attempts", status=429, detail=str(error))
        case Overtaken():
            return Problem(title="Changed meanwhile", status=409, detail=str(error))
        case Cancelled():
            usual = (
                "This was ended: nobody waited for it any more, or it took longer than a request may. Ask for less at "
                "once: fewer records, queries or stages."
            )
            return Problem(title="Ended", status=503, detail=ended_for or usual)
        case Unavailable():
            return Problem(title="Not available now", status=503, detail=str(error))
        case ChainError():
            return chain_problem(error)
        case TooLarge():
            return Problem(title="Too large", status=413, detail=str(error))
        case BadInput():
            details = [ProblemDetail(where=where, what=what) for where, what in error.problems]
            return Problem(title="Cannot be used", status=422, detail=error.message, problems=details)
        case _:
            return Problem(title="Cannot be done", status=400, detail=str(error))


def install_problem_handlers(app: FastAPI) -> None:
    """Makes every error of the app a problem document, without a stack trace."""

    @app.exception_handler(HarborError)
    async def harbor_error(asked: Request, error: HarborError) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        return _answer(problem_of(error, asked.scope.get(ENDED_FOR, lambda: None)()))

    @app.exception_handler(OperationalError)
    @app.exception_handler(PoolTimeout)
    async def no_database(_: Request, error: Exception) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        if is_for_want_of_room(error):
            return _no_room(error)
        structlog.get_logger().error("the database does not answer", reason=str(error))
        return _answer(Problem(title="Not available now", status=503, detail=NO_DATABASE))

    @app.exception_handler(OSError)
    async def not_written(_: Request, error: OSError) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        if not is_for_want_of_room(error):
            raise error
        return _no_room(error)

    @app.exception_handler(ForeignKeyViolation)
    async def gone_meanwhile(_: Request, error: ForeignKeyViolation) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        structlog.get_logger().warning("gone meanwhile", reason=str(error))
        detail = "What this is about was dropped meanwhile. Look again."
        return _answer(Problem(title="Not found", status=404, detail=detail))

    @app.exception_handler(DataError)
    async def unstorable(_: Request, error: DataError) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        # Names and numbers in an address reach the database as they are.
        if isinstance(error, NumericValueOutOfRange):
            detail = "The request holds a number that is larger than any here."
        elif "NUL" in str(error):
            detail = "The request holds a NUL character (U+0000), which nothing here is called. Leave it out."
        else:
            raise error
        return _answer(Problem(title="Cannot be used", status=422, detail=detail))

    @app.exception_handler(RequestValidationError)
    async def wrong_request(_: Request, error: RequestValidationError) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        details = [ProblemDetail(where=_where(item["loc"]), what=str(item["msg"])) for item in error.errors()]
        detail = "The request does not have the shape that the API documents."
        return _answer(Problem(title="Wrong request", status=422, detail=detail, problems=details))

    @app.exception_handler(HTTPException)
    async def http_error(_: Request, error: HTTPException) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        return _answer(Problem(title=str(error.detail), status=error.status_code, detail=str(error.detail)))

    @app.exception_handler(Exception)
    async def unforeseen(request: Request, error: Exception) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        structlog.get_logger().error("unforeseen error", path=told_path(request.url.path), exc_info=error)
        number = getattr(request.state, "request_id", None)
        where = f" under the request {number}" if number else ""
        detail = f"Something went wrong on our side; the server's log has the details{where}."
        answer = _answer(Problem(title="Unforeseen error", status=500, detail=detail))
        if number:
            # Made outside of what gives other answers their number.
            answer.headers[REQUEST_ID] = number
        return answer


def _where(loc: tuple[Any, ...]) -> str:
    return ".".join(str(step) for step in loc if step != "body")


def _no_room(error: Exception) -> JSONResponse:
    structlog.get_logger().error("no room on the disk", reason=str(error))
    return _answer(Problem(title="Not available now", status=503, detail=NO_ROOM))


def _answer(problem: Problem) -> JSONResponse:
    return JSONResponse(problem.model_dump(), problem.status, media_type=MEDIA_TYPE)
