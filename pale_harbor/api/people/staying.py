"""A browser that is somebody's from now on, by a cookie."""

from typing import Final, TypeVar

from fastapi import Request, Response

from pale_harbor.api.who import COOKIE
from pale_harbor.errors import Unavailable
from pale_harbor.work.people import visiting
from pale_harbor.work.running.sealing import Sealing, is_sealed

R = TypeVar("R", bound=Response)

_REFUSAL: Final = "paleharbor-refusal"
_SECONDS_TOLD: Final = 60
_LONGEST_REFUSAL: Final = 500


def staying(request: Request, token: str, response: R) -> R:
    """The answer, with the cookie that a browser is to show."""
    keep(request, response, COOKIE, token, int(visiting.BROWSER_DAYS * 86_400))
    return response


def keep(request: Request, response: Response, name: str, value: str, seconds: int) -> None:
    """Has a browser keep something that no script and no other site's form gets at."""
    response.set_cookie(
        name,
        value,
        max_age=seconds,
        path=path_of(request),
        httponly=True,
        samesite="lax",
        secure=is_secure(request),
    )


def keep_refusal(request: Request, response: Response, sealing: Sealing, said: str) -> None:
    """Has a browser told at its next page why it was not let in."""
    keep(request, response, _REFUSAL, sealing.sealed({"said": said[:_LONGEST_REFUSAL]})["said"], _SECONDS_TOLD)


def refusal_of(request: Request, sealing: Sealing) -> str | None:
    """Why a browser was not let in a moment ago; None where it was, and for what we did not say."""
    kept = request.cookies.get(_REFUSAL)
    if not kept or not is_sealed(kept):
        return None
    try:
        return sealing.opened({"said": kept})["said"]
    except Unavailable:
        return None


def browser_of(request: Request) -> str:
    """What a browser says that it is."""
    return request.headers.get("user-agent", "a browser that does not say which")


def path_of(request: Request) -> str:
    """Below which path cookies are shown."""
    return request.app.state.below or "/"


def is_secure(request: Request) -> bool:
    """Whether it was asked over TLS, here or by the proxy before."""
    return bool(request.url.scheme == "https")
