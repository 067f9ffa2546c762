"""Indexes as files: a folder of `.npy` arrays, written whole or not at all, mapped when read."""

import os
import re
import shutil
import tempfile
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.index import ReadingIndex, Vocabulary
from pale_harbor.core.vectors import Groups, VectorTable
from pale_harbor.formats.mapped_arrays import mapped_array

# What an index's folder is called: the address of what it was built from.
_ADDRESS = re.compile(r"[0-9a-f]{32}")

Arrays = dict[str, NDArray[Any]]

_ARRAYS = (
    "posting_firsts",
    "record_ids",
    "frequencies",
    "posting_lengths",
    "occurrence_firsts",
    "positions",
    "starts",
    "ends",
    "spans",
    "lengths",
)
_TABLE_ARRAYS = ("owners", "vectors", "places", "faulty", "faults")
_GROUP_ARRAYS = ("middles", "firsts", "rows", "codes", "lows", "steps", "learned_from", "unit")


def write_index(folder: Path, index: ReadingIndex, *, lasting: bool = True) -> None:
    """Writes an index; the folder appears complete or not at all. lasting: whether it is to outlive a power cut."""
    arrays = {name: getattr(index, name) for name in _ARRAYS}
    _write(folder, arrays | vocabulary_arrays(index.vocabulary), lasting=lasting)


def read_index(folder: Path) -> ReadingIndex | None:
    """The index in a folder, mapped; None where it is missing or damaged."""
    arrays = _read(folder, (*_ARRAYS, "letters", "firsts"))
    if arrays is None:
        return None
    vocabulary = Vocabulary(arrays.pop("letters"), arrays.pop("firsts"))
    return ReadingIndex(vocabulary, **arrays)


def let_go_of_indexes(root: Path, budget_bytes: int) -> int:
    """Removes the least recently used indexes below a collections' folder until the others fit; returns how many.

    Whoever has one open keeps it: its pages stay until the last one closes it. It can always be built again.
    """
    found: list[tuple[float, int, Path]] = []
    for folder in root.glob("*/*/*"):
        if _ADDRESS.fullmatch(folder.name):
            with suppress(OSError):
                own = sum(file.stat().st_size for file in folder.iterdir())
                found.append((folder.stat().st_mtime, own, folder))
    found.sort()
    held = sum(own for _, own, _ in found)
    removed = 0
    # The newest stays, however large: it was just asked for.
    for _, own, folder in found[:-1]:
        if held <= budget_bytes:
            break
        shutil.rmtree(folder, ignore_errors=True)
        held -= own
        removed += 1
    return removed


def write_vocabulary(folder: Path, vocabulary: Vocabulary) -> None:
    """Writes a vocabulary on its own; the folder appears complete or not at all."""
    _write(folder, vocabulary_arrays(vocabulary))


def read_vocabulary(folder: Path) -> Vocabulary | None:
    """The vocabulary in a folder, mapped; None where it is missing or damaged."""
    arrays = _read(folder, ("letters", "firsts"))
    return None if arrays is None else Vocabulary(arrays["letters"], arrays["firsts"])


def write_table(folder: Path, table: VectorTable) -> None:
    """Writes a table of vectors; the folder appears complete or not at all."""
    _write(folder, {name: getattr(table, name) for name in _TABLE_ARRAYS})


def read_table(folder: Path, record_count: int) -> VectorTable | None:
    """The vectors in a folder, mapped; None where they are missing or damaged."""
    arrays = _read(folder, _TABLE_ARRAYS)
    return None if arrays is None else VectorTable(record_count=record_count, **arrays)


def write_groups(folder: Path, groups: Groups) -> None:
    """Writes the groups of vectors; the folder appears complete or not at all."""
    _write(folder, {name: getattr(groups, name) for name in _GROUP_ARRAYS})


def read_groups(folder: Path) -> Groups | None:
    """The groups in a folder, mapped; None where they are missing or damaged."""
    arrays = _read(folder, _GROUP_ARRAYS)
    return None if arrays is None else Groups(**arrays)


def vocabulary_arrays(vocabulary: Vocabulary) -> Arrays:
    """The arrays of a vocabulary by the names they are kept under."""
    return {"letters": vocabulary.letters, "firsts": vocabulary.firsts}


def _write(folder: Path, arrays: Mapping[str, NDArray[Any]], *, lasting: bool = True) -> None:
    folder.parent.mkdir(parents=True, exist_ok=True)
    unfinished = Path(tempfile.mkdtemp(prefix="unfinished-", dir=folder.parent))
    try:
        for name, array in arrays.items():
            with (unfinished / f"{name}.npy").open("wb") as file:
                np.save(file, array, allow_pickle=False)
                if lasting:
                    file.flush()
                    os.fsync(file.fileno())
        # A damaged folder of this name would stand in the way of the rename.
        shutil.rmtree(folder, ignore_errors=True)
        try:
            unfinished.rename(folder)
        except OSError:
            # Another process was quicker: what it wrote is of the same content.
            if not folder.exists():
                raise
    finally:
        shutil.rmtree(unfinished, ignore_errors=True)


def _read(folder: Path, names: tuple[str, ...]) -> Arrays | None:
    try:
        return {name: mapped_array(folder / f"{name}.npy") for name in names}
    except (OSError, ValueError, EOFError):
        return None
