"""Arrays mapped from files: what was written, read-only, and no descriptor kept for any."""

import gc
from pathlib import Path
from typing import Any

import numpy as np
import psutil
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as shapes
from numpy.typing import NDArray

from pale_harbor.formats.mapped_arrays import mapped_array

KINDS = st.sampled_from([np.int32, np.int64, np.uint8, np.float32, np.float64, np.bool_])


def kept(path: Path, array: NDArray[Any]) -> Path:
    np.save(path, array, allow_pickle=False)
    return path


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(array=KINDS.flatmap(lambda kind: shapes.arrays(kind, shapes.array_shapes(max_dims=3, min_side=0))))
def test_an_array_comes_back_as_it_was(tmp_path: Path, array: NDArray[Any]):
    found = mapped_array(kept(tmp_path / "array.npy", array))
    assert (found.dtype, found.shape) == (array.dtype, array.shape)
    np.testing.assert_array_equal(found, array)
    assert not found.flags.writeable


def test_no_descriptor_is_kept_and_memory_is_given_back(tmp_path: Path):
    path = kept(tmp_path / "array.npy", np.arange(100_000))
    process = psutil.Process()

    # Of this file alone: what else the process opens or gives back meanwhile is nothing of ours.
    def maps() -> int:
        return sum(one.path == str(path) for one in process.memory_maps(grouped=False))

    arrays = [mapped_array(path) for _ in range(50)]
    assert [one for one in process.open_files() if one.path == str(path)] == []
    assert maps() == 50
    last = arrays[-1][10:20]
    arrays.clear()
    gc.collect()
    # A part keeps what it is a part of.
    assert last.tolist() == list(range(10, 20))
    assert maps() == 1


def test_what_was_mapped_outlives_its_file(tmp_path: Path):
    path = kept(tmp_path / "array.npy", np.arange(10))
    found = mapped_array(path)
    path.unlink()
    assert found.tolist() == list(range(10))


def test_columns_first_are_read(tmp_path: Path):
    array = np.asfortranarray(np.arange(6).reshape(2, 3))
    np.testing.assert_array_equal(mapped_array(kept(tmp_path / "array.npy", array)), array)


@pytest.mark.parametrize("cut", [1, 8, 200])
def test_a_file_that_was_cut_short_is_refused(tmp_path: Path, cut: int):
    path = kept(tmp_path / "array.npy", np.arange(20))
    path.write_bytes(path.read_bytes()[:-cut])
    with pytest.raises((ValueError, EOFError)):
        mapped_array(path)


def test_what_is_no_array_is_refused(tmp_path: Path):
    path = tmp_path / "array.npy"
    path.write_bytes(b"no array")
    with pytest.raises((ValueError, EOFError)):
        mapped_array(path)
    with pytest.raises(OSError, match="No such file"):
        mapped_array(tmp_path / "none.npy")
