"""How much sooner two processes build an index, beside one, in one run."""

import tempfile
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from multiprocessing import get_context
from pathlib import Path
from time import perf_counter

from benchmarks.synthetic import synthetic
from pale_harbor.core.index import appended_index, build_index
from pale_harbor.core.text import chain_of
from pale_harbor.formats.index_files import read_index, write_index
from pale_harbor.work.warm_up import compile_kernels

Figures = dict[str, float | int | str]


@cache
def _texts(record_count: int) -> list[str]:
    return synthetic(record_count).records


def _ready(record_count: int) -> None:
    compile_kernels()
    _texts(record_count)


def _build(record_count: int, first: int, last: int, folder: Path) -> None:
    texts = _texts(record_count)[first:last]
    index = build_index(([text] for text in texts), chain_of("words > lower"))
    write_index(folder, index, lasting=len(texts) == record_count)


def _append(parts: list[Path], folder: Path) -> None:
    first, second = map(read_index, parts)
    if first is None or second is None:
        raise OSError("A part of the index cannot be read.")
    write_index(folder, appended_index(first, second))


def two_process_figures(record_count: int, turns: int = 5) -> Figures:
    """Seconds until an index is written, by one process and by two, in turns; the better of each."""
    half = record_count // 2
    with ProcessPoolExecutor(2, mp_context=get_context("forkserver")) as pool, tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        # Both have the texts and the kernels before the first turn.
        list(pool.map(_ready, [record_count] * 8))

        def one() -> None:
            pool.submit(_build, record_count, 0, record_count, folder / "one").result()

        def two() -> None:
            parts = [folder / "first", folder / "second"]
            list(pool.map(_build, [record_count] * 2, [0, half], [half, record_count], parts))
            pool.submit(_append, parts, folder / "two").result()

        def seconds(work: Callable[[], None]) -> float:
            started = perf_counter()
            work()
            return perf_counter() - started

        taken = [(seconds(one), seconds(two)) for _ in range(turns)]
    single, double = (min(side) for side in zip(*taken, strict=True))
    return {
        "records": record_count,
        "one_process_s": round(single, 2),
        "two_processes_s": round(double, 2),
        "times_as_fast": round(single / double, 2),
    }
