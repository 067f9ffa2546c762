"""`person`: who may come in."""

import sys
from getpass import getpass
from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.cli.open_workbench import database
from pale_harbor.cli.output import AsJson, print_columns, print_json

if TYPE_CHECKING:
    from pale_harbor.store.people.people import Person

app = typer.Typer(help="People who sign in. As long as there is nobody, nobody does.", no_args_is_help=True)

PersonArgument = Annotated[str, typer.Argument(help="The name by which somebody signs in.")]


@app.callback()
def person() -> None:
    """People who sign in. As long as there is nobody, nobody does."""


@app.command()
def add(
    name: PersonArgument,
    shown: Annotated[str | None, typer.Option(help="The name that others see.")] = None,
    keeper: Annotated[bool, typer.Option("--keeper", help="Keeps the installation; the first one has to.")] = False,
    elsewhere: Annotated[
        bool,
        typer.Option("--elsewhere", help="Without a password: the provider of the settings knows them by this name."),
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Makes a person; the password is asked for, or read from standard input."""
    from pale_harbor.work.people.people import make_person

    password = None if elsewhere else _password()
    with database() as pool:
        made = make_person(pool, name, shown or name, password, keeper=keeper)
    _print([made], as_json)


@app.command("list")
def list_people(as_json: AsJson = False) -> None:
    """Lists everybody."""
    from pale_harbor.work.people.people import everybody

    with database() as pool:
        _print(everybody(pool), as_json)


@app.command()
def change(
    name: PersonArgument,
    keeper: Annotated[bool | None, typer.Option(help="Whether they keep the installation.")] = None,
    makes_collections: Annotated[bool | None, typer.Option(help="Whether they may make collections.")] = None,
    comes_in: Annotated[bool | None, typer.Option(help="Whether they may come in.")] = None,
    as_json: AsJson = False,
) -> None:
    """Says what somebody may do here, and whether they may come in."""
    from pale_harbor.work.people.people import change_person

    with database() as pool:
        changed = change_person(
            pool,
            name,
            keeper=keeper,
            makes_collections=makes_collections,
            left=None if comes_in is None else not comes_in,
        )
    _print([changed], as_json)


@app.command()
def password(name: PersonArgument) -> None:
    """Gives somebody a new password, and signs them out everywhere."""
    from pale_harbor.work.people.people import set_password

    new = _password()
    with database() as pool:
        set_password(pool, name, new)
    print("changed")


@app.command()
def forget(name: PersonArgument) -> None:
    """Forgets somebody for good; what they did stays, as done by somebody who left."""
    from pale_harbor.work.people.people import forget_person

    with database() as pool:
        forget_person(pool, name)
    print("forgotten")


@app.command()
def invite(shown: Annotated[str, typer.Argument(help="Who, as others see the name.")]) -> None:
    """Invites somebody to keep the installation, and prints what the link ends with, this once."""
    from pale_harbor.work.people.members import invite as invited

    with database() as pool:
        print(f"/invited/{invited(pool, shown, None, None, keeper=True)}")


def _password() -> str:
    if sys.stdin.isatty():
        return getpass("Password: ")
    return sys.stdin.readline().rstrip("\n")


def _print(people: "list[Person]", as_json: bool) -> None:
    rows = [
        {
            "name": one.name,
            "shown": one.shown,
            "keeper": one.keeper,
            "makes_collections": one.makes_collections,
            "left_at": None if one.left_at is None else one.left_at.isoformat(timespec="seconds"),
        }
        for one in people
    ]
    if as_json:
        print_json(rows)
    else:
        lines = [[*list(row.values())[:-1], row["left_at"] or ""] for row in rows]
        print_columns([["name", "shown", "keeper", "makes collections", "left"], *lines])
