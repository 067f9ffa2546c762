"""Signing in and out over HTTP, invitations taken, and what is somebody's own."""

from typing import Annotated

from fastapi import Path, Request, Response

from pale_harbor.api.people.models import (
    Invited,
    Key,
    KeyRequest,
    Me,
    Own,
    OwnPasswordRequest,
    SignInRequest,
    TakeRequest,
)
from pale_harbor.api.people.staying import browser_of, is_secure, path_of, refusal_of, staying
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.api.who import COOKIE, token_of
from pale_harbor.errors import BadInput, NotFound, NotSignedIn
from pale_harbor.store.people.visits import Visit, Visitor
from pale_harbor.work.people import members, people, visiting
from pale_harbor.work.people.asking import who_asks

router = guarded_router()

Token = Annotated[str, Path(min_length=20, max_length=100)]


@router.get("/me")
async def me(request: Request) -> Me:
    """Whoever asks, and whether they have to sign in."""
    guest = who_asks()
    visitor = guest.visitor
    provider = request.app.state.provider
    return Me(
        elsewhere=None if provider is None else provider.name,
        refused=None if provider is None else refusal_of(request, request.app.state.server.bench.sealing),
        needs_sign_in=await request.app.state.who.is_sign_in_needed(),
        person=None
        if visitor is None
        else Own(
            name=visitor.name,
            shown=visitor.shown,
            has_password=visitor.has_password,
            keeper=visitor.keeper,
            makes_collections=visitor.makes_collections,
            roles=visitor.roles,  # pyright: ignore[reportArgumentType]
        ),
    )


@router.post("/sign-in", status_code=204, response_class=Response)
def sign_in(asked: SignInRequest, request: Request, bench: Bench) -> Response:
    """Signs somebody in: their browser shows a cookie from now on."""
    token = visiting.come_in(bench.pool, asked.name, asked.password, _address(request), browser_of(request))
    return staying(request, token, Response(status_code=204))


@router.post("/sign-out", status_code=204, response_class=Response)
def sign_out(request: Request, bench: Bench) -> Response:
    """Signs out; what the browser shows counts no more."""
    token = token_of(request.scope)
    if token is not None:
        visiting.go(bench.pool, token)
    response = Response(status_code=204)
    response.delete_cookie(COOKIE, path=path_of(request), httponly=True, samesite="lax", secure=is_secure(request))
    return response


@router.get("/invitations/{token}")
def invited(token: Token, bench: Bench) -> Invited:
    """What an invitation is to."""
    found = members.invitation_told(bench.pool, token)
    visitor = who_asks().visitor
    return Invited(
        shown=found.shown,
        collection=found.collection,
        role=found.role,  # pyright: ignore[reportArgumentType]
        keeper=found.keeper,
        by_person=found.by_person,
        ends_at=found.ends_at,
        known=None if visitor is None else visitor.shown,
    )


@router.post("/invitations/{token}", status_code=204, response_class=Response)
def take_invitation(token: Token, asked: TakeRequest, request: Request, bench: Bench) -> Response:
    """Takes an invitation: as whoever is signed in, or as somebody new, who is signed in from then on."""
    visitor = who_asks().visitor
    if visitor is not None:
        members.take_as(bench.pool, token, visitor.name)
        return Response(status_code=204)
    if asked.name is None or asked.password is None:
        raise BadInput("Say by which name and which password you are to sign in.")
    shown = asked.shown or members.invitation_told(bench.pool, token).shown
    person = members.take_as_new(bench.pool, token, asked.name, shown, asked.password)
    token = visiting.stay(bench.pool, person, browser_of(request))
    return staying(request, token, Response(status_code=204))


@router.post("/me/password", status_code=204, response_class=Response)
def change_own_password(asked: OwnPasswordRequest, request: Request, bench: Bench) -> None:
    """Somebody's own new password. Their other browsers and their keys count no more."""
    people.change_own_password(bench.pool, _somebody().name, asked.old, asked.new, token_of(request.scope))


@router.get("/me/visits")
def own_visits(bench: Bench) -> list[Visit]:
    """The browsers in which somebody is signed in, and the keys of their programs."""
    return visiting.own_visits(bench.pool, _somebody().person_id)


@router.delete("/me/visits/{number}", status_code=204, response_class=Response)
def end_own_visit(number: Annotated[str, Path(max_length=16)], bench: Bench) -> None:
    """Signs a browser out, or ends a key."""
    if not visiting.end_own(bench.pool, _somebody().person_id, number):
        raise NotFound("This browser or key is signed out already.")


@router.post("/me/keys")
def make_own_key(asked: KeyRequest, bench: Bench) -> Key:
    """Makes a key by which a program acts for somebody. It is told this once."""
    return Key(key=visiting.make_key(bench.pool, _somebody().person_id, asked.label, asked.days))


def _somebody() -> Visitor:
    visitor = who_asks().visitor
    if visitor is None:
        raise NotSignedIn("Nobody is signed in here: this machine's own keeper, and a program, have no account.")
    return visitor


def _address(request: Request) -> str:
    return request.client.host if request.client is not None else ""
