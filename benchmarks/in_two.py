"""How much sooner two processes build an index or tell consequences, beside one, in one run."""

import gc
import tempfile
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from multiprocessing import get_context
from pathlib import Path
from time import perf_counter
from typing import Final

from benchmarks.synthetic import synthetic
from pale_harbor.core.consequences import Gathered, Gatherer
from pale_harbor.core.index import appended_index, build_index
from pale_harbor.core.text import chain_of
from pale_harbor.formats.index_files import read_index, write_index
from pale_harbor.work.chains.whole_reading import read_parts, write_part
from pale_harbor.work.warm_up import compile_kernels

Figures = dict[str, float | int | str]
_RECORDS_AT_ONCE: Final = 12_000


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


def _index_in_one(pool: ProcessPoolExecutor, record_count: int, folder: Path) -> None:
    pool.submit(_build, record_count, 0, record_count, folder / "one").result()


def _index_in_two(pool: ProcessPoolExecutor, record_count: int, folder: Path) -> None:
    half, parts = record_count // 2, [folder / "first", folder / "second"]
    list(pool.map(_build, [record_count] * 2, [0, half], [half, record_count], parts))
    pool.submit(_append, parts, folder / "two").result()


def _gathered(record_count: int, first: int, last: int) -> Gatherer:
    gatherer = Gatherer(chain_of("words > lower > stem(en)"))
    for start in range(first, last, _RECORDS_AT_ONCE):
        texts = _texts(record_count)[start : min(start + _RECORDS_AT_ONCE, last)]
        gatherer.add([(str(start + number), [text]) for number, text in enumerate(texts)])
    return gatherer


def _tell(record_count: int) -> Gathered:
    return _gathered(record_count, 0, record_count).finished(record_count)


def _write_part(record_count: int, first: int, last: int, file: Path) -> None:
    write_part(_gathered(record_count, first, last), file)


def _consequences_in_one(pool: ProcessPoolExecutor, record_count: int, _folder: Path) -> None:
    pool.submit(_tell, record_count).result()


def _consequences_in_two(pool: ProcessPoolExecutor, record_count: int, folder: Path) -> None:
    half, files = record_count // 2, [folder / "earlier", folder / "later"]
    list(pool.map(_write_part, [record_count] * 2, [0, half], [half, record_count], files))
    pool.submit(read_parts, files).result()


_WORK: Final = {"index": (_index_in_one, _index_in_two), "consequences": (_consequences_in_one, _consequences_in_two)}


def two_process_figures(record_count: int, turns: int = 5) -> list[Figures]:
    """Seconds until an index is written and consequences are told, by one process and by two, in turns; the best."""
    with ProcessPoolExecutor(2, get_context("forkserver"), gc.disable) as pool, tempfile.TemporaryDirectory() as name:
        # Both have the texts and the kernels before the first turn.
        list(pool.map(_ready, [record_count] * 8))

        def seconds(work: Callable[[ProcessPoolExecutor, int, Path], None]) -> float:
            started = perf_counter()
            work(pool, record_count, Path(name))
            return perf_counter() - started

        figures: list[Figures] = []
        for what, sides in _WORK.items():
            taken = [[seconds(work) for work in sides] for _ in range(turns)]
            single, double = (min(side) for side in zip(*taken, strict=True))
            figures.append(
                {
                    "what": what,
                    "records": record_count,
                    "one_process_s": round(single, 2),
                    "two_processes_s": round(double, 2),
                    "times_as_fast": round(single / double, 2),
                }
            )
    return figures
