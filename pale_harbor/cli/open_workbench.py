"""The workbench or the database for a command: started if need be, everything closed at the end."""

from collections.abc import Generator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TYPE_CHECKING

from pale_harbor.cli.on_behalf import on_behalf

if TYPE_CHECKING:
    from pale_harbor.store.database import Pool
    from pale_harbor.work.workbench import Workbench

# The running server's own, for a command that it carries out.
HERE: "ContextVar[Workbench | None]" = ContextVar("workbench", default=None)


@contextmanager
def workbench() -> "Generator[Workbench]":
    """A workbench on the project's own database."""
    here = HERE.get()
    if here is not None:
        yield here
        return
    from pale_harbor.settings import settings
    from pale_harbor.work.serving import ready_pool
    from pale_harbor.work.workbench import Workbench, memory_of, sealing_of

    places = settings()
    with ready_pool(places) as pool, on_behalf(pool):
        yield Workbench(pool, places.indexes, memory_of(places), sealing=sealing_of(places))


@contextmanager
def database() -> "Generator[Pool]":
    """The project's own database alone, for commands that only look at what is kept: it is there far sooner."""
    here = HERE.get()
    if here is not None:
        yield here.pool
        return
    from pale_harbor.settings import settings
    from pale_harbor.work.serving import ready_pool

    with ready_pool(settings()) as pool, on_behalf(pool):
        yield pool
