"""Entry point: `./paleharbor COMMAND` comes here once everything it needs is installed."""

import logging
import sys

import typer

from pale_harbor import __version__
from pale_harbor.cli import (
    chains,
    collections,
    comparing,
    diary,
    expecting,
    judged,
    judging,
    loading,
    rankers,
    records,
    scoring,
    searching,
    serving,
    spaces,
    word_lists,
)
from pale_harbor.errors import HarborError
from pale_harbor.logs import set_up_logs

app = typer.Typer(
    help="Pale Harbor: a workbench for search relevance, where no change is made blind.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
app.add_typer(chains.app, name="chain")
app.add_typer(word_lists.app, name="words")
app.add_typer(rankers.app, name="ranker")
expecting.add_to(judged.app)
app.add_typer(judged.app, name="judged")
app.add_typer(judging.app, name="task")
app.add_typer(comparing.app, name="outside")
app.add_typer(spaces.app, name="space")
serving.add_to(app)
loading.add_to(app)
searching.add_to(app)
app.add_typer(records.app, name="record")
app.add_typer(collections.app, name="collection")
scoring.add_to(app)
comparing.add_to(app)
diary.add_to(app)
spaces.add_to(app)


@app.command()
def version() -> None:
    """Prints the version."""
    print(__version__)


def main() -> None:
    """Runs a command; what went wrong is told in words, on standard error, with exit code 1."""
    set_up_logs(logging.WARNING if "serve" not in sys.argv[1:2] else logging.INFO)
    try:
        app(prog_name="paleharbor")
    except BrokenPipeError:
        sys.stderr.close()
    except Exception as error:
        if not _is_for_people(error):
            raise
        print(f"paleharbor: {error}", file=sys.stderr)
        sys.exit(1)


def _is_for_people(error: Exception) -> bool:
    """Errors of ours say in words what is wrong; any other is a mistake of the program's."""
    return isinstance(error, HarborError) or type(error).__module__.startswith("pale_harbor.core")


if __name__ == "__main__":
    main()
