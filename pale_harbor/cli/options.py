"""What several commands ask for."""

from typing import Annotated

import typer

SetArgument = Annotated[str, typer.Argument(metavar="SET")]
SetOption = Annotated[str, typer.Option("--set", help="The judged set.")]
