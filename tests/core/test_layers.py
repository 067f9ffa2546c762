"""The folders are the architecture: what may know what."""

import ast
import re
import sys
from collections.abc import Iterable, Mapping
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
    outside = {"anyascii", "optuna", "numpy", "scipy", "numba", "regex"}
    forbidden = {"os", "io", "pathlib", "socket", "time", "datetime", "subprocess", "sqlite3", "urllib", "logging"}
    for module in modules_imported_by(file):
        first = module.split(".")[0]
        assert first not in forbidden, module
        if first == "pale_harbor":
            assert module.startswith("pale_harbor.core") or module == "pale_harbor.errors", module
        else:
            assert first in sys.stdlib_module_names | outside, module


@pytest.mark.parametrize("layer", ["formats", "store", "work", "api"])
def test_a_layer_knows_nothing_above_it(layer: str):
    above = [f"pale_harbor.{name}" for name in LAYERS[LAYERS.index(layer) + 1 :]]
    for file in (ROOT / "pale_harbor" / layer).rglob("*.py"):
        for module in modules_imported_by(file):
            assert not module.startswith(tuple(above)), f"{file} imports {module}"


def code_of(*folders: str) -> list[tuple[Path, str]]:
    return [(file, file.read_text("utf-8")) for name in folders for file in (ROOT / "pale_harbor" / name).rglob("*.py")]


def test_threads_are_made_in_the_engine_room_alone():
    makes = re.compile(r"\b(?:Thread|ThreadPoolExecutor|ProcessPoolExecutor)\(")
    elsewhere = [str(file) for file, text in code_of("") if makes.search(text) and "work/running" not in str(file)]
    assert elsewhere == []


def test_kernels_are_compiled_in_one_place_with_the_types_they_are_written_with():
    assert [str(file) for file, text in code_of("") if "njit" in text and file.name != "kernels.py"] == []


def test_sql_is_written_in_the_store_alone():
    above = code_of("work", "api", "cli", "formats", "core")
    assert [str(file) for file, text in above if re.search(r"connection\.execute\(|cursor\.execute\(", text)] == []


def test_no_two_modules_import_each_other_not_even_for_types():
    names = {
        file: ".".join(file.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
        for file, _ in code_of("")
    }
    known = set(names.values())
    imports: dict[str, set[str]] = {}
    for file, name in names.items():
        own = imports.setdefault(name, set())
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            if isinstance(node, ast.ImportFrom):
                # `from package import module` asks for the module, and for nothing of the package's.
                own |= {f"{node.module}.{one.name}" for one in node.names} & known or {node.module or ""}
    both = [
        (one, other) for one, own in imports.items() for other in own if one < other and one in imports.get(other, ())
    ]
    assert both == []


def page_imports() -> dict[Path, set[Path]]:
    sources = (ROOT / "frontend/src", ROOT / "frontend/visitor")
    files = {file for source in sources for file in source.rglob("*.ts*") if ".test." not in file.name}
    imports: dict[Path, set[Path]] = {}
    for file in files:
        named = re.findall(r"""from ['"](\.[^'"]+)['"]""", file.read_text("utf-8"))
        places = [(file.parent / name).resolve() for name in named]
        imports[file] = {place.with_name(place.name + end) for place in places for end in (".ts", ".tsx")} & files
    return imports


def circles(imports: Mapping[Path, Iterable[Path]]) -> list[str]:
    """Every way round that leads back to where it began."""
    found: list[str] = []
    done: set[Path] = set()

    def walk(one: Path, way: list[Path]) -> None:
        if one in way:
            found.append(" → ".join(str(part) for part in [*way[way.index(one) :], one]))
        elif one not in done:
            for other in imports.get(one, ()):
                walk(other, [*way, one])
            done.add(one)

    for one in imports:
        walk(one, [])
    return found


def test_no_files_of_the_page_import_each_other_in_a_circle():
    assert circles(page_imports()) == []


def test_no_folders_of_the_page_import_each_other_in_a_circle():
    folders: dict[Path, set[Path]] = {}
    for file, imported in page_imports().items():
        # The app and its entry stand above all folders.
        if file.parent.name != "src":
            folders.setdefault(file.parent, set()).update(one.parent for one in imported if one.parent != file.parent)
    assert circles(folders) == []


def named(error: ast.expr | None) -> str:
    """What an error is called, raised or caught; nothing where it is raised again."""
    match error:
        case ast.Call(func=made):
            return named(made)
        case ast.Name(id=name) | ast.Attribute(attr=name):
            return name if name[0].isupper() else ""
        case _:
            return ""


def unsaid_errors(text: str) -> list[str]:
    """Public functions of a module that raise an error of which their words say nothing."""
    tree = ast.parse(text)
    classes = [node for node in tree.body if isinstance(node, ast.ClassDef)]
    unsaid: list[str] = []
    for function in [*tree.body, *(node for one in classes for node in one.body)]:
        if not isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef) or function.name.startswith("_"):
            continue
        words = ast.get_docstring(function)
        caught = {named(one.type) for one in ast.walk(function) if isinstance(one, ast.ExceptHandler)}
        raised = {named(one.exc) for one in ast.walk(function) if isinstance(one, ast.Raise)} - caught - {""}
        # What only carries out what a protocol says has no words of its own.
        if words is not None and any(one not in words for one in raised):
            unsaid.append(function.name)
    return unsaid


def test_whoever_raises_an_error_says_so():
    below = code_of("core", "formats", "store", "work")
    assert [(str(file), unsaid) for file, text in below if (unsaid := unsaid_errors(text))] == []
    silent = 'def f():\n    """Words."""\n    raise BadInput("x")\n'
    assert unsaid_errors(silent) == ["f"]
    assert unsaid_errors(silent.replace("Words.", "Words. Raises BadInput.")) == []


def test_no_file_is_too_long_to_hold_in_the_head():
    files = [
        *(ROOT / "pale_harbor").rglob("*.py"),
        *(ROOT / "frontend/src").rglob("*.ts*"),
        *(ROOT / "frontend/visitor").rglob("*.ts"),
        *(ROOT / "tests").rglob("*.py"),
    ]
    long = [
        str(file)
        for file in files
        if ".gen." not in file.name and len(file.read_text("utf-8").splitlines()) > MOST_LINES
    ]
    assert long == []
