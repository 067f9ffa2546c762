"""Commands carried out in the running server, on its open workbench, each with an output of its own."""

import io
import sys
from contextvars import ContextVar
from typing import Any, TextIO, cast

from pale_harbor.api.command import CommandSaid
from pale_harbor.cli.asking_the_server import may_be_asked
from pale_harbor.cli.open_workbench import HERE
from pale_harbor.cli.rooms import run
from pale_harbor.work.workbench import Workbench

_USAGE_ERROR = 2


class _OfThisCommand:
    """Standard output or error: of the command that this thread carries out, else the process's own."""

    def __init__(self, own: TextIO, name: str) -> None:
        self.own = own
        self.chosen: ContextVar[TextIO | None] = ContextVar(name, default=None)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.chosen.get() or self.own, name)


class CommandsInServer:
    """Carries out commands that only look. One per process: it stands in for its standard output."""

    def __init__(self, workbench: Workbench) -> None:
        self.workbench = workbench
        self.output = _OfThisCommand(sys.stdout, "output")
        self.complaints = _OfThisCommand(sys.stderr, "complaints")
        sys.stdout, sys.stderr = cast(TextIO, self.output), cast(TextIO, self.complaints)

    def __call__(self, arguments: list[str]) -> CommandSaid:
        """What a command says; not answered where it may not be asked, or is worded wrongly: its process tells that."""
        if not may_be_asked(arguments):
            return CommandSaid(answered=False)
        printed = io.BytesIO()
        output = io.TextIOWrapper(printed, encoding="utf-8", newline="")
        complaints = io.StringIO()
        here = HERE.set(self.workbench)
        out, err = self.output.chosen.set(output), self.complaints.chosen.set(complaints)
        try:
            code = run(arguments)
        finally:
            HERE.reset(here)
            self.output.chosen.reset(out)
            self.complaints.chosen.reset(err)
        if code == _USAGE_ERROR:
            return CommandSaid(answered=False)
        output.flush()
        printed.seek(0)
        said = printed.read().decode("utf-8")
        return CommandSaid(answered=True, output=said, complaint=complaints.getvalue(), code=code)
