"""The folders are the architecture: what may know what."""

import ast
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
CORE = ROOT / "pale_harbor/core"
LAYERS = ["core", "formats", "store", "work", "api", "cli"]
MOST_LINES = 1_000


def modules_imported_by(file: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{file}: imports are written out in full"
            names.add(node.module or "")
    return names


@pytest.mark.parametrize("file", sorted(CORE.rglob("*.py")), ids=lambda file: str(file.relative_to(CORE)))
def test_core_knows_only_itself_and_arrays(file: Path):
    outside = {"numpy", "scipy", "numba", "regex"}
    forbidden = {"os", "io", "pathlib", "socket", "time", "datetime", "subprocess", "sqlite3", "urllib", "logging"}
    for module in modules_imported_by(file):
        first = module.split(".")[0]
        assert first not in forbidden, module
        if first == "pale_harbor":
            assert module.startswith("pale_harbor.core"), module
        else:
            assert first in sys.stdlib_module_names | outside, module


@pytest.mark.parametrize("layer", ["formats", "store", "work", "api"])
def test_a_layer_knows_nothing_above_it(layer: str):
    above = [f"pale_harbor.{name}" for name in LAYERS[LAYERS.index(layer) + 1 :]]
    for file in (ROOT / "pale_harbor" / layer).rglob("*.py"):
        for module in modules_imported_by(file):
            assert not module.startswith(tuple(above)), f"{file} imports {module}"


def test_no_file_is_too_long_to_hold_in_the_head():
    files = [
        *(ROOT / "pale_harbor").rglob("*.py"),
        *(ROOT / "frontend/src").rglob("*.ts*"),
        *(ROOT / "tests").rglob("*.py"),
    ]
    long = [
        str(file)
        for file in files
        if ".gen." not in file.name and len(file.read_text("utf-8").splitlines()) > MOST_LINES
    ]
    assert long == []
