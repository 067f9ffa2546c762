"""People of the installation, members of a collection, and who changed what, over HTTP."""

from collections.abc import Iterator
from typing import Annotated

from fastapi import Path, Query, Response
from fastapi.responses import StreamingResponse

from pale_harbor.api.models import MOST
from pale_harbor.api.people.models import (
    InviteMemberRequest,
    InviteRequest,
    Link,
    MemberRequest,
    NewPersonRequest,
    PasswordRequest,
    People,
    PersonModel,
    PersonRequest,
    invitation_model,
    person_model,
)
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.store.people.changes import NotedChange
from pale_harbor.work.people import changes, members
from pale_harbor.work.people import people as work
from pale_harbor.work.people.members import Members

router = guarded_router()

PersonName = Annotated[str, Path(max_length=63)]
Number = Annotated[int, Path(ge=1, le=MOST)]
ByPerson = Annotated[str | None, Query(max_length=200)]
Text = Annotated[str | None, Query(max_length=200)]
Before = Annotated[int | None, Query(ge=1, le=MOST)]


@router.get("/people")
def people(bench: Bench) -> People:
    """Everybody who may come in, and who is invited to keep the installation."""
    return People(
        people=[person_model(one) for one in work.everybody(bench.pool)],
        invited=[invitation_model(one) for one in members.keepers_invited(bench.pool)],
    )


@router.post("/people")
def add_person(asked: NewPersonRequest, bench: Bench) -> PersonModel:
    """Makes a person. From the first one on, who has to be a keeper, everybody signs in."""
    made = work.make_person(bench.pool, asked.name, asked.shown or asked.name, asked.password, keeper=asked.keeper)
    return person_model(made)


@router.put("/people/{person}")
def change_person(person: PersonName, asked: PersonRequest, bench: Bench) -> PersonModel:
    """Sets what somebody may do here, and whether they may come in."""
    changed = work.change_person(
        bench.pool, person, keeper=asked.keeper, makes_collections=asked.makes_collections, left=asked.left
    )
    return person_model(changed)


@router.delete("/people/{person}", status_code=204, response_class=Response)
def forget_person(person: PersonName, bench: Bench) -> None:
    """Forgets somebody for good: what they did stays, as done by somebody who left."""
    work.forget_person(bench.pool, person)


@router.put("/people/{person}/password", status_code=204, response_class=Response)
def set_password_of(person: PersonName, asked: PasswordRequest, bench: Bench) -> None:
    """Gives somebody a new password; they are signed out everywhere."""
    work.set_password(bench.pool, person, asked.password)


@router.post("/people/invitations")
def invite_keeper(asked: InviteRequest, bench: Bench) -> Link:
    """Invites somebody to keep the installation."""
    return Link(path=f"/invited/{members.invite(bench.pool, asked.shown, None, None, keeper=True, days=asked.days)}")


@router.delete("/people/invitations/{number}", status_code=204, response_class=Response)
def draw_keeper_back(number: Number, bench: Bench) -> None:
    """Draws an invitation to keep the installation back."""
    members.draw_back(bench.pool, None, number)


@router.get("/collections/{collection}/members", name="members")
def members_of_collection(collection: str, bench: Bench) -> Members:
    """A collection's members by their roles, and who is invited."""
    return members.members_told(bench.pool, collection)


@router.put("/collections/{collection}/members/{person}")
def set_member(collection: str, person: PersonName, asked: MemberRequest, bench: Bench) -> Members:
    """Makes somebody a member of a collection, or gives them another role."""
    members.set_member(bench.pool, collection, person, asked.role)
    return members.members_told(bench.pool, collection)


@router.delete("/collections/{collection}/members/{person}")
def drop_member(collection: str, person: PersonName, bench: Bench) -> Members:
    """Somebody is no member of a collection any more."""
    members.drop_member(bench.pool, collection, person)
    return members.members_told(bench.pool, collection)


@router.post("/collections/{collection}/invitations")
def invite_member(collection: str, asked: InviteMemberRequest, bench: Bench) -> Link:
    """Invites somebody to a collection; the link's end is told this once."""
    token = members.invite(bench.pool, asked.shown, collection, asked.role, days=asked.days)
    return Link(path=f"/invited/{token}")


@router.delete("/collections/{collection}/invitations/{number}", status_code=204, response_class=Response)
def draw_member_back(collection: str, number: Number, bench: Bench) -> None:
    """Draws an invitation to a collection back."""
    members.draw_back(bench.pool, collection, number)


@router.get("/collections/{collection}/changes")
def changes_of_collection(
    collection: str, bench: Bench, person: ByPerson = None, text: Text = None, before: Before = None
) -> list[NotedChange]:
    """Who changed what in a collection, the newest first; `before`: only what is older than the change of that id."""
    return changes.changes_told(bench.pool, collection, person=person, text=text, before=before)


@router.get("/collections/{collection}/changes/file", response_class=StreamingResponse)
def changes_of_collection_file(
    collection: str, bench: Bench, person: ByPerson = None, text: Text = None
) -> StreamingResponse:
    """All of them as CSV."""
    return _file(f"{collection}-changes", changes.changes_as_csv(bench.pool, collection, person=person, text=text))


@router.get("/changes")
def changes_everywhere(
    bench: Bench, person: ByPerson = None, text: Text = None, before: Before = None
) -> list[NotedChange]:
    """Who changed what anywhere, the newest first."""
    return changes.changes_told(bench.pool, None, person=person, text=text, before=before)


@router.get("/changes/file", response_class=StreamingResponse)
def changes_everywhere_file(bench: Bench, person: ByPerson = None, text: Text = None) -> StreamingResponse:
    """All of them as CSV."""
    return _file("changes", changes.changes_as_csv(bench.pool, None, person=person, text=text))


def _file(name: str, lines: Iterator[str]) -> StreamingResponse:
    return StreamingResponse(
        lines, media_type="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}.csv"'}
    )
