"""Commands of the command line that only look, carried out where everything is open already."""

from collections.abc import Callable
from typing import Annotated

from fastapi import Request
from pydantic import BaseModel, Field

from pale_harbor.api.routes import guarded_router


class CommandRequest(BaseModel):
    """A command as it was typed, without the program's name."""

    arguments: Annotated[list[Annotated[str, Field(max_length=20_000)]], Field(min_length=1, max_length=500)]


class CommandSaid(BaseModel):
    """What the command printed. answered: false where its own process has to carry it out."""

    answered: bool
    output: str = ""
    complaint: str = ""
    code: int = 0


Commands = Callable[[list[str]], CommandSaid]

router = guarded_router()


@router.post("/command", include_in_schema=False)
def command(asked: CommandRequest, request: Request) -> CommandSaid:
    """A command's output, where it is one that changes nothing."""
    commands: Commands | None = request.app.state.commands
    return CommandSaid(answered=False) if commands is None else commands(asked.arguments)
