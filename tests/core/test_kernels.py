"""Machine code that is kept: an update of any kernel reaches all that call it, in a process begun anew."""

import os
import stat
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from pale_harbor import machine_code
from pale_harbor.machine_code import clear_unused
from tests.conftest import ROOT

# A kernel, what it calls in another file, and a number that stands in a third.
CALLING = """
from pale_harbor.core.kernels import kernel
from harbor_scales import counted
from harbor_numbers import MOST
@kernel
def weighed(count: int) -> float:
    return min(counted(count), MOST)
"""
CALLED = """
from pale_harbor.core.kernels import {kind}
@{kind}
def counted(count: int) -> float:
    return {formula}
"""


def write(folder: Path, name: str, text: str) -> None:
    """As an update writes it: nothing but the text tells it from the one before."""
    path = folder / f"{name}.py"
    path.write_text(text)
    os.utime(path, (1_000_000_000, 1_000_000_000))


def weighed(folder: Path, count: int) -> float:
    """What a process begun anew comes to; its machine code lies in the folder `code`."""
    script = f"import harbor_weights; print(harbor_weights.weighed({count}))"
    environment = os.environ | {
        "PYTHONPATH": f"{ROOT}:{folder}",
        "PYTHONDONTWRITEBYTECODE": "1",
        "NUMBA_CACHE_DIR": str(folder / "code"),
    }
    told = subprocess.run(
        [sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=True, cwd=folder
    )
    return float(told.stdout)


def code_in(folder: Path) -> dict[Path, int]:
    return {file: file.stat().st_mtime_ns for file in (folder / "code").rglob("*.nb?")}


@pytest.mark.parametrize("kind", ["kernel", "inlined"])
def test_a_kernel_is_compiled_anew_where_what_it_calls_or_knows_changed(tmp_path: Path, kind: str):
    write(tmp_path, "harbor_weights", CALLING)
    write(tmp_path, "harbor_scales", CALLED.format(kind=kind, formula="count * 2.0"))
    write(tmp_path, "harbor_numbers", "MOST = 9.0\n")
    assert weighed(tmp_path, 3) == 6
    made = code_in(tmp_path)
    assert weighed(tmp_path, 3) == 6
    # What did not change is found again.
    assert code_in(tmp_path) == made != {}
    write(tmp_path, "harbor_scales", CALLED.format(kind=kind, formula="count * 4.0"))
    assert weighed(tmp_path, 3) == 9
    write(tmp_path, "harbor_numbers", "MOST = 8.0\n")
    assert weighed(tmp_path, 3) == 8
    write(tmp_path, "harbor_numbers", "MOST = 99.0\n")
    assert weighed(tmp_path, 3) == 12


def test_code_of_another_state_is_kept_for_a_week(tmp_path: Path):
    week = 7 * 24 * 3_600
    ages = {"scales-used": week + 600, "scales-young": week - 600, "scales-old": week + 600, "weights-old": week + 600}
    for name, age in ages.items():
        (tmp_path / name).mkdir()
        os.utime(tmp_path / name, (time.time() - age, time.time() - age))
    for _ in range(2):
        # Who uses it says so by that.
        clear_unused([str(tmp_path / "scales-used"), str(tmp_path / "scales-gone")])
    assert {one.name for one in tmp_path.iterdir()} == {"scales-used", "scales-young", "weights-old"}
    assert (tmp_path / "scales-used").stat().st_mtime > time.time() - 600


def test_code_goes_beside_the_program_or_home_or_where_somebody_says(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    (tmp_path / "a file").write_text("")
    monkeypatch.setattr(machine_code, "_BESIDE", tmp_path / "a file" / "kernels")
    monkeypatch.setattr(machine_code, "_AT_HOME", tmp_path / "home" / "kernels")
    monkeypatch.delenv("NUMBA_CACHE_DIR")
    machine_code.choose_folder()
    assert os.environ["NUMBA_CACHE_DIR"] == str(tmp_path / "home" / "kernels")
    monkeypatch.setattr(machine_code, "_BESIDE", tmp_path / "program" / "kernels")
    machine_code.choose_folder()
    assert os.environ["NUMBA_CACHE_DIR"] == str(tmp_path / "home" / "kernels")
    monkeypatch.delenv("NUMBA_CACHE_DIR")
    machine_code.choose_folder()
    assert os.environ["NUMBA_CACHE_DIR"] == str(tmp_path / "program" / "kernels")


@pytest.mark.parametrize("home", ["a file/kernels", "~nobody-of-this-name/kernels"])
def test_where_nothing_may_be_written_code_goes_where_nobody_else_can_put_any(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, home: str
):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    monkeypatch.setattr(tempfile, "tempdir", None)
    (tmp_path / "a file").write_text("")
    monkeypatch.setattr(machine_code, "_BESIDE", tmp_path / "a file" / "kernels")
    monkeypatch.setattr(machine_code, "_AT_HOME", Path(home))
    monkeypatch.delenv("NUMBA_CACHE_DIR")
    machine_code.choose_folder()
    chosen = Path(os.environ["NUMBA_CACHE_DIR"])
    assert chosen.parent == tmp_path
    assert stat.S_IMODE(chosen.stat().st_mode) == 0o700
