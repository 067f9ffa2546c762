"""The commands by name, each with the module that has it: a command loads its own room, and help loads them all."""

import sys
from importlib import import_module
from typing import Final

import typer

from pale_harbor import __version__
from pale_harbor.errors import HarborError

# In the order of the help. A room adds its commands, or has an `app` of commands below one name.
_COMMANDS_OF: Final[dict[str, tuple[str, ...]]] = {
    "serving": ("up", "down", "serve"),
    "backups.backups": ("backup", "restore", "upgrade"),
    "imports.loading": ("load", "export"),
    "ranking.searching": ("search",),
    "ranking.completing": ("complete",),
    "ranking.correcting": ("correct",),
    "ranking.passages": ("passages",),
    "measuring.scoring": ("measure", "missed", "run", "runs", "score"),
    "measuring.comparing": ("compare",),
    "measuring.guard": ("check",),
    "measuring.quality": ("quality",),
    "measuring.letters": ("letters",),
    "tuning.tuning": ("tune", "ledger", "growth", "remedies", "simulate"),
    "measuring.diary": ("diary", "decide"),
    "spaces.spaces": ("sides", "embedder"),
    "people.changes": ("changes",),
    "delivery.visitors": ("visitors",),
}
_APPS: Final[dict[str, str]] = {
    "chain": "chains.chains",
    "words": "chains.word_lists",
    "ranker": "ranking.rankers",
    "judged": "judging.judged",
    "past": "ranking.past",
    "task": "judging.tasks",
    "outside": "measuring.outside",
    "space": "spaces.spaces",
    "record": "records.records",
    "connection": "following.connections",
    "follow": "following.following",
    "collection": "collections.collections",
    "person": "people.people",
    "member": "people.members",
    "publish": "delivery.publishing",
    "key": "delivery.keys",
}
_ROOM_OF: Final = {command: room for room, commands in _COMMANDS_OF.items() for command in commands}


def app_for(command: str | None) -> typer.Typer:
    """The command line with this command; with every command where it is None or unknown."""
    app = typer.Typer(
        help="Pale Harbor: a workbench for search relevance, where no change is made blind.",
        no_args_is_help=True,
        add_completion=False,
        pretty_exceptions_enable=False,
        rich_markup_mode=None,
    )
    # With a callback a command keeps its name even where it is the only one.
    app.callback()(_any_command)
    app.command()(version)
    if command in _ROOM_OF:
        _room(_ROOM_OF[command]).add_to(app)
    elif command in _APPS:
        app.add_typer(_room(_APPS[command]).app, name=command)
    elif command != "version":
        for room in _COMMANDS_OF:
            _room(room).add_to(app)
        for name, room in _APPS.items():
            app.add_typer(_room(room).app, name=name)
    return app


def command_of(arguments: list[str]) -> str | None:
    """The name of the command, None where there is none."""
    return next((one for one in arguments if not one.startswith("-")), None)


def run(arguments: list[str]) -> int:
    """Runs a command in this process and gives its exit code; what went wrong is told on standard error."""
    try:
        app_for(command_of(arguments))(args=arguments, prog_name="paleharbor")
    except BrokenPipeError:
        sys.stderr.close()
    except SystemExit as ended:
        return ended.code if isinstance(ended.code, int) else 1
    except Exception as error:
        # Only where something went wrong: most commands are there sooner without it.
        from pale_harbor.work.running.room import is_for_want_of_room, no_room_told

        if is_for_want_of_room(error):
            print(f"paleharbor: {no_room_told(error)}", file=sys.stderr)
            return 1
        if not _is_for_people(error):
            raise
        print(f"paleharbor: {error}", file=sys.stderr)
        return 1
    return 0


def _any_command() -> None:
    # Without words of its own, so that the help shows the program's.
    pass


def version() -> None:
    """Prints the version."""
    print(__version__)


def _room(name: str):
    return import_module(f"pale_harbor.cli.{name}")


def _is_for_people(error: Exception) -> bool:
    """Errors of ours say in words what is wrong; any other is a mistake of the program's."""
    return isinstance(error, HarborError) or type(error).__module__.startswith("pale_harbor.core")
