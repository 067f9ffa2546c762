"""Signing in by another place that says who somebody is."""

from typing import Annotated

from fastapi import Query, Request, Response
from fastapi.responses import RedirectResponse

from pale_harbor.api.people.staying import browser_of, is_secure, keep, keep_refusal, path_of, staying
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.errors import HarborError, NotAllowed, NotFound
from pale_harbor.work.people import elsewhere, visiting
from pale_harbor.work.people.asking import who_asks
from pale_harbor.work.people.provider import SECONDS_TO_COME_BACK, Provider, attempt_of

router = guarded_router()

ATTEMPT = "paleharbor-attempt"
_To = Annotated[str, Query(max_length=2_000)]


@router.get("/sign-in/elsewhere", status_code=303, response_class=Response)
def sign_in_elsewhere(request: Request, bench: Bench, to: _To = "/") -> Response:
    """Sends a browser to where it is said who somebody is; it comes back by itself. to: where it goes on then."""
    # Of this page alone: nobody is sent on to another site from here.
    to = to if to.startswith("/") and not to.startswith(("//", "/\\")) else "/"
    address, attempt = _provider(request).begin(_back(request), to)
    response = RedirectResponse(address, 303)
    keep(request, response, ATTEMPT, attempt.sealed(bench.sealing), SECONDS_TO_COME_BACK)
    return response


@router.get("/sign-in/back", status_code=303, response_class=Response)
def back_from_elsewhere(
    request: Request,
    bench: Bench,
    state: Annotated[str, Query(max_length=200)] = "",
    code: Annotated[str, Query(max_length=4_000)] = "",
    error: Annotated[str, Query(max_length=200)] = "",
) -> Response:
    """Where a browser comes back to: signs it in, and sends it on to where somebody wanted to go."""
    provider = _provider(request)
    try:
        attempt = attempt_of(bench.sealing, request.cookies.get(ATTEMPT), state)
        if error or not code:
            raise NotAllowed(f"{provider.name} did not let you in{f' ({error})' if error.isidentifier() else ''}.")
        identity = provider.identity(attempt, code, _back(request))
        visitor = who_asks().visitor
        if visitor is not None:
            elsewhere.bind_person(bench.pool, visitor.person_id, identity)
            response: Response = RedirectResponse(_here(request, attempt.to), 303)
        else:
            person = elsewhere.person_elsewhere(bench.pool, identity, attempt.to)
            token = visiting.stay(bench.pool, person, browser_of(request))
            # An invitation was taken with it: its page has nothing more to say.
            to = "/" if attempt.to.startswith("/invited/") else attempt.to
            response = staying(request, token, RedirectResponse(_here(request, to), 303))
            request.app.state.who.forget()
    except HarborError as refused:
        # A browser shows this, not a program: told where one signs in, and by nobody else who writes a link there.
        response = RedirectResponse(_here(request, "/sign-in"), 303)
        keep_refusal(request, response, bench.sealing, str(refused))
    response.delete_cookie(ATTEMPT, path=path_of(request), httponly=True, samesite="lax", secure=is_secure(request))
    return response


def _provider(request: Request) -> Provider:
    found: Provider | None = request.app.state.provider
    if found is None:
        raise NotFound("Nobody elsewhere says here who people are: sign in by name and password.")
    return found


def _back(request: Request) -> str:
    return f"{request.url.scheme}://{request.headers['host']}{request.app.state.below}/api/sign-in/back"


def _here(request: Request, path: str) -> str:
    return f"{request.app.state.below}{path}"
