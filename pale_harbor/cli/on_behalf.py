"""For whom a command is given, whether they may, and what is noted of it."""

import os
from collections.abc import Generator, Mapping
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, Final

# Typer brings its parser along, and says in no other way which command it has read.
from typer._click.globals import get_current_context

from pale_harbor.cli.asking_the_server import PERSON

if TYPE_CHECKING:
    from pale_harbor.store.database import Pool

# What a command changes is told by these.
_COLLECTION: Final = "collection"
_ABOUT: Final = ("name", "judged_set", "number", "judge", "role", "shown", "source", "file", "key", "keys")


@contextmanager
def on_behalf(pool: "Pool") -> "Generator[None]":
    """What is done within is done for whoever gives the command, and noted where it changes something.

    Raises NotAllowed, NotFound.
    """
    from pale_harbor.cli.rights import is_noted, right_of

    context = get_current_context(silent=True)
    named = os.environ.get(PERSON)
    if context is None:
        yield
        return
    command = " ".join(context.command_path.split()[1:])
    collection = context.params.get(_COLLECTION)
    collection = collection if isinstance(collection, str) else None
    if named is None:
        yield
    else:
        from pale_harbor.work.people.asking import asked_by, need
        from pale_harbor.work.people.rights import Right
        from pale_harbor.work.people.visiting import guest_named

        with asked_by(guest_named(pool, named)):
            need(Right(right_of(command)), collection)
            yield
            if is_noted(command):
                _note(pool, command, collection, context.params)
        return
    if is_noted(command):
        _note(pool, command, collection, context.params)


def _note(pool: "Pool", command: str, collection: str | None, given: Mapping[str, Any]) -> None:
    from pale_harbor.work.people.changes import note_change

    about = " ".join(str(value) for name in _ABOUT if (value := given.get(name)) not in (None, [], ()))
    note_change(pool, collection, f"By command: {command}", about)
