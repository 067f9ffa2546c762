"""Tasks that tests have done in processes of their own."""

import os
import signal
import time
from multiprocessing.synchronize import Semaphore
from pathlib import Path
from typing import Any

from psycopg import Connection

from pale_harbor.core.text import Place
from pale_harbor.core.text.errors import SlowPattern
from pale_harbor.errors import BadInput, Cancelled
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.database import open_pool
from pale_harbor.work.imports import importing
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.running.processes import Errand


def process_number(_connection: Connection[Any], _errand: Errand) -> int:
    return os.getpid()


def processors_there(_connection: Connection[Any], _errand: Errand) -> frozenset[int]:
    return frozenset(os.sched_getaffinity(0))


def counted(connection: Connection[Any], errand: Errand, most: int) -> int:
    """Asks the database for numbers one by one, and tells of each."""
    total = 0
    for number in range(1, most + 1):
        row = connection.execute("select %s::int", [number]).fetchone()
        total += row[0] if row else 0
        errand.came_to(number)
    return total


def refused(_connection: Connection[Any], _errand: Errand) -> None:
    raise BadInput("Not like this.", [("here", "a mistake")])


def too_slow(_connection: Connection[Any], _errand: Errand) -> None:
    raise SlowPattern(Place(1, 9, 4), "a+", "aaaa", 0.5)


def killed(_connection: Connection[Any], _errand: Errand) -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def endless(_connection: Connection[Any], errand: Errand, began: Path, ended: Path) -> None:
    """Goes on until nobody wants it."""
    began.touch()
    while errand.wanted():
        time.sleep(0.01)
    ended.touch()
    raise Cancelled("Nobody waits for this any more.")


def refused_or_endless(connection: Connection[Any], errand: Errand, files: tuple[Path, Path] | None) -> None:
    """Refuses where it is given nothing."""
    if files is None:
        refused(connection, errand)
    else:
        endless(connection, errand, *files)


def load_slowly(address: str, path: Path, ready: Semaphore) -> None:
    """Loads a file in many small batches, or goes on with that; `ready` once it begins."""
    importing._BATCH_ROWS = 100  # pyright: ignore
    with open_pool(address) as pool:
        ready.release()
        importing.import_now(pool, "coast", FileSource(Source(path)), ImportPlan(key="id"))


def niceness(_connection: Connection[Any], _errand: Errand) -> int:
    """By how much this process stands back where the processor is short."""
    return os.nice(0)
