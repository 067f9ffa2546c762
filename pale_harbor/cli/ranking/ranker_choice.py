"""Which ranker a command means."""

from typing import TYPE_CHECKING, Annotated

import typer

from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.workbench import RankerChoice

RankerName = Annotated[str | None, typer.Option("--ranker", help="A kept ranker: NAME or NAME:VERSION.")]


def ranker_choice(written: str | None) -> "RankerChoice":
    """NAME, NAME:VERSION, or None for the default ranker."""
    from pale_harbor.work.workbench import RankerChoice

    if written is None:
        return RankerChoice()
    name, _, version = written.partition(":")
    if version and not (version.isdecimal() and len(version) < 10):
        raise BadInput(f'"{written}": after the colon stands a version, which is a number.')
    return RankerChoice(name, int(version) if version else None)
