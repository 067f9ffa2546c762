"""`member`: who may do what with a collection."""

from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import database
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.work.people.rights import Role

app = typer.Typer(help="Members of a collection, by their roles.", no_args_is_help=True)

RoleArgument = Annotated[Role, typer.Argument(help="judge, reader, engineer or owner.")]


@app.callback()
def member() -> None:
    """Members of a collection, by their roles."""


@app.command("list")
def list_members(collection: str, as_json: AsJson = False) -> None:
    """Lists a collection's members, and who is invited."""
    from pale_harbor.work.people.members import members_told

    with database() as pool:
        told = members_told(pool, collection)
    rows = [{"name": one.name, "shown": one.shown, "role": one.role, "invited": False} for one in told.members]
    rows += [{"name": "", "shown": one.shown, "role": one.role or "", "invited": True} for one in told.invited]
    if as_json:
        print_json(rows)
    else:
        print_columns([["name", "shown", "role", "invited"], *[list(row.values()) for row in rows]])


@app.command("set")
def set_role(collection: str, name: str, role: RoleArgument) -> None:
    """Makes somebody a member, or gives them another role."""
    from pale_harbor.work.people.members import set_member

    with database() as pool:
        set_member(pool, collection, name, role)
    print(f"{name} is {role} of {collection}")


@app.command()
def drop(collection: str, name: str) -> None:
    """Somebody is no member any more."""
    from pale_harbor.work.people.members import drop_member

    with database() as pool:
        drop_member(pool, collection, name)
    print("gone")


@app.command()
def invite(
    collection: str,
    role: RoleArgument,
    shown: Annotated[str, typer.Argument(help="Who, as others see the name.")],
    days: Annotated[float, typer.Option(min=0.001, max=3_650, help="For how long the link holds.")] = 7.0,
) -> None:
    """Invites somebody, and prints what the link ends with, this once."""
    from pale_harbor.work.people.members import invite as invited

    with database() as pool:
        print(f"/invited/{invited(pool, shown, collection, role, days=days)}")
