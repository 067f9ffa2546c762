"""What signing in and people look like over HTTP."""

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from pale_harbor.store.people.members import Invitation
from pale_harbor.store.people.people import Person
from pale_harbor.work.people.rights import Role

Name = Annotated[str, Field(min_length=1, max_length=63)]
Shown = Annotated[str, Field(min_length=1, max_length=200)]
Password = Annotated[str, Field(min_length=1, max_length=1_000)]
Days = Annotated[float, Field(gt=0, le=3_650)]


class Own(BaseModel):
    """Whoever asks, as they are known here. roles: by collection."""

    name: str
    shown: str
    has_password: bool
    keeper: bool
    makes_collections: bool
    roles: dict[str, Role]


class Me(BaseModel):
    """needs_sign_in: whether nothing is to be had without. person: None where nobody signed in; elsewhere: what another
    place is called that says who somebody is, None where there is none; refused: why a browser that came from there
    was not let in a moment ago."""

    needs_sign_in: bool
    person: Own | None
    elsewhere: str | None = None
    refused: str | None = None


class SignInRequest(BaseModel):
    name: Annotated[str, Field(max_length=200)]
    password: Annotated[str, Field(max_length=1_000)]


class PasswordRequest(BaseModel):
    password: Password


class OwnPasswordRequest(BaseModel):
    old: Annotated[str, Field(max_length=1_000)]
    new: Password


class NewPersonRequest(BaseModel):
    """shown: by which others know them; as the name to sign in by where it is left out."""

    name: Name
    shown: Shown | None = None
    password: Password
    keeper: bool = False


class PersonRequest(BaseModel):
    """What is None stays as it is. left: they may not come in any more."""

    keeper: bool | None = None
    makes_collections: bool | None = None
    left: bool | None = None


class PersonModel(BaseModel):
    """Somebody who may come in. issuer: the place that says who they are, None where a password does."""

    name: str
    shown: str
    has_password: bool
    issuer: str | None
    keeper: bool
    makes_collections: bool
    left_at: datetime | None
    made_at: datetime


class InvitationModel(BaseModel):
    """An invitation that still holds. Its link was shown once, when it was made."""

    id: int
    shown: str
    role: Role | None
    by_person: str | None
    made_at: datetime
    ends_at: datetime


class People(BaseModel):
    people: list[PersonModel]
    invited: list[InvitationModel]


class MemberRequest(BaseModel):
    role: Role


class InviteRequest(BaseModel):
    """shown: who is invited, as others are to see the name."""

    shown: Shown
    days: Days = 7.0


class InviteMemberRequest(InviteRequest):
    role: Role


class Link(BaseModel):
    """path: what a link ends with, told this once."""

    path: str


class Invited(BaseModel):
    """What an invitation is to. known: who asks, where they are signed in already."""

    shown: str
    collection: str | None
    role: Role | None
    keeper: bool
    by_person: str | None
    ends_at: datetime
    known: str | None


class TakeRequest(BaseModel):
    """Of somebody new; whoever is signed in leaves all of it out."""

    name: Name | None = None
    shown: Shown | None = None
    password: Password | None = None


class KeyRequest(BaseModel):
    label: Annotated[str, Field(min_length=1, max_length=200)]
    days: Days = 365.0


class Key(BaseModel):
    """key: told this once; a program sends it as `Authorization: Bearer KEY`."""

    key: str


def person_model(person: Person) -> PersonModel:
    """Somebody as they are told."""
    return PersonModel(
        name=person.name,
        shown=person.shown,
        has_password=person.has_password,
        issuer=person.issuer,
        keeper=person.keeper,
        makes_collections=person.makes_collections,
        left_at=person.left_at,
        made_at=person.made_at,
    )


def invitation_model(invitation: Invitation) -> InvitationModel:
    """An invitation as it is told."""
    return InvitationModel(
        id=invitation.id,
        shown=invitation.shown,
        role=invitation.role,  # pyright: ignore[reportArgumentType]
        by_person=invitation.by_person,
        made_at=invitation.made_at,
        ends_at=invitation.ends_at,
    )
