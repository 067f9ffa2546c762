"""The workbench for a command: the database started if need be, everything closed at the end."""

from collections.abc import Generator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pale_harbor.work.workbench import Workbench


@contextmanager
def workbench() -> "Generator[Workbench]":
    """A workbench on the project's own database."""
    from pale_harbor.settings import settings
    from pale_harbor.work.serving import ready_pool
    from pale_harbor.work.workbench import Workbench

    here = settings()
    with ready_pool(here) as pool:
        yield Workbench(pool, here.indexes)
