"""Changes single lines of the code and tells which changes no test notices.

PYTHONPATH=. .venv/bin/python tools/mutate.py --count 100 --seed 7 [--room core]

Works on a copy of the tree. A mutant that lives is a decision without an example: give it one, or say why it cannot
be told apart.
"""

import ast
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue
from threading import Lock
from typing import Annotated, Final

import typer

ROOT: Final = Path(__file__).resolve().parent.parent
ROOMS: Final = ("core", "work", "formats", "store", "api")

# What fails without any change says nothing of one: test files that were seen to pass.
_PASSING: Final = set[str]()
_PASSING_LOCK: Final = Lock()
_LONGEST: Final = 3_600

_COMPARISONS: Final = {
    ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==",
    ast.In: "not in", ast.NotIn: "in", ast.Is: "is not", ast.IsNot: "is",
}  # fmt: skip
_OPERATORS: Final = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*", ast.FloorDiv: "*", ast.Pow: "*"}


@dataclass(frozen=True, slots=True)
class Mutant:
    """One line changed. start, end: of what is replaced, in the bytes of the line."""

    file: Path
    line: int
    start: int
    end: int
    instead: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}"


def main(
    count: Annotated[int, typer.Option(min=1, help="How many lines are changed.")] = 100,
    seed: Annotated[int, typer.Option(help="Which ones, by chance.")] = 1,
    room: Annotated[list[str] | None, typer.Option(help="Of these rooms; of all without it.")] = None,
    workers: Annotated[int, typer.Option(min=1, help="How many at a time.")] = 2,
    first: Annotated[int, typer.Option(min=1, help="The number of the first one that is tried, to go on.")] = 1,
    # Longer than the slowest of the rooms' tests beside other work.
    seconds: Annotated[int, typer.Option(min=1, help="What takes longer hangs, and so is noticed.")] = 1_500,
    files: Annotated[
        int | None, typer.Option(min=1, help="Ask only so many test files, those that speak most of the changed file.")
    ] = None,
) -> None:
    """Tries changes of single lines against the tests that are about their rooms."""
    code = [file for name in room or ROOMS for file in sorted((ROOT / "pale_harbor" / name).rglob("*.py"))]
    every = [mutant for file in code for mutant in mutants_of(file.relative_to(ROOT))]
    chosen = random.Random(seed).sample(every, min(count, len(every)))[first - 1 :]  # noqa: S311
    trees: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory(prefix="paleharbor-mutants-") as folder:
        Path(folder).chmod(0o755)
        for number in range(workers):
            tree = Path(folder) / str(number)
            shutil.copytree(ROOT, tree, ignore=_not_needed)
            trees.put(tree)

        def told(mutant: Mutant) -> bool:
            tree = trees.get()
            try:
                return is_killed(mutant, tree, seconds, files)
            finally:
                trees.put(tree)

        with ThreadPoolExecutor(workers) as pool:
            killed = 0
            for number, (mutant, noticed) in enumerate(zip(chosen, pool.map(told, chosen), strict=True), first):
                killed += noticed
                said = "noticed" if noticed else f"lives: {shown(mutant)}"
                print(f"{number:>4} {killed / (number - first + 1):>4.0%}  {mutant}  {said}", flush=True)
    print(f"{killed} of {len(chosen)} noticed")


def _not_needed(folder: str, names: list[str]) -> set[str]:
    """What a tree works without. Only the project's own data folder is left behind, not that of the tests."""
    own = {"data", ".git", ".venv"} if Path(folder) == ROOT else set[str]()
    return (own | {"node_modules", "dist"}) & set(names)


def mutants_of(file: Path) -> Iterator[Mutant]:
    """Every change that is tried of a file: comparisons, operators, numbers, and/or, not, yes and no."""
    text = (ROOT / file).read_text("utf-8")
    lines = text.split("\n")
    tree = ast.parse(text)
    # Whether a class has slots or may be changed decides nothing.
    flags = {
        part
        for node in ast.walk(tree)
        if isinstance(node, ast.ClassDef)
        for decorator in node.decorator_list
        for part in ast.walk(decorator)
    }
    for node in ast.walk(tree):
        if node in flags:
            continue
        match node:
            case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in _COMPARISONS:
                yield from _between(file, lines, left, right, _COMPARISONS[type(op)])
            case ast.BinOp(left=left, op=op, right=right) if type(op) in _OPERATORS:
                yield from _between(file, lines, left, right, _OPERATORS[type(op)])
            case ast.BoolOp(op=op, values=[left, right]):
                yield from _between(file, lines, left, right, "or" if isinstance(op, ast.And) else "and")
            case ast.Constant(value=bool(value)):
                yield from _whole(file, node, str(not value))
            case ast.Constant(value=int(value)):
                yield from _whole(file, node, str(value + 1))
            case ast.UnaryOp(op=ast.Not(), operand=operand):
                yield from _whole(file, node, ast.unparse(operand))
            case _:
                pass


def _between(file: Path, lines: list[str], left: ast.expr, right: ast.expr, instead: str) -> Iterator[Mutant]:
    line, start = left.end_lineno, left.end_col_offset
    if line == right.lineno and line is not None and start is not None:
        between = lines[line - 1].encode()[start : right.col_offset].decode()
        # Brackets around an operand belong to it.
        head = len(between) - len(between.lstrip(" )"))
        tail = len(between) - len(between.rstrip(" ("))
        yield Mutant(file, line, start + head, right.col_offset - tail, instead)


def _whole(file: Path, node: ast.expr, instead: str) -> Iterator[Mutant]:
    if node.end_lineno == node.lineno and node.end_col_offset is not None:
        yield Mutant(file, node.lineno, node.col_offset, node.end_col_offset, instead)


def changed(mutant: Mutant, text: str) -> str:
    """The file's text with the change in it."""
    lines = text.split("\n")
    line = lines[mutant.line - 1].encode()
    lines[mutant.line - 1] = (line[: mutant.start] + mutant.instead.encode() + line[mutant.end :]).decode()
    return "\n".join(lines)


def shown(mutant: Mutant) -> str:
    """The line as it became."""
    return changed(mutant, (ROOT / mutant.file).read_text("utf-8")).split("\n")[mutant.line - 1].strip()


def tests_for(mutant: Mutant) -> list[str]:
    """The tests about a file's room, of its layer and of those that stand on it; first those that speak of the file."""
    match mutant.file.parts[1]:
        case "core":
            folders = ["core", "formats"]
        case "formats":
            folders = ["formats", "work"]
        case "store":
            folders = ["store", "work"]
        case "work":
            folders = ["work", "store"]
        case _:
            folders = ["api"]
    files = [file for folder in folders for file in sorted((ROOT / "tests" / folder).glob("test_*.py"))]
    told = ast.parse((ROOT / mutant.file).read_text("utf-8")).body
    names = {node.name for node in told if isinstance(node, ast.FunctionDef | ast.ClassDef)}
    words = ({mutant.file.stem, mutant.file.parent.name} | names) - {"routes", "models", "__init__", *ROOMS}
    whole = re.compile(rf"\b({'|'.join(map(re.escape, sorted(words)))})\b")

    def speaks_of_it(file: Path) -> tuple[int, int]:
        found = whole.findall(file.read_text("utf-8"))
        return len(set(found)), len(found)

    return [str(file.relative_to(ROOT)) for file in sorted(files, key=speaks_of_it, reverse=True)]


def is_killed(mutant: Mutant, tree: Path, seconds: int, files: int | None = None) -> bool:
    """Whether a test fails of a tree with the change in it, or takes longer than so many seconds."""
    tests = tests_for(mutant)[:files]
    with _PASSING_LOCK:
        new = [test for test in tests if test not in _PASSING]
        if new and not _pass(new, tree, _LONGEST):
            raise SystemExit(f"These tests fail without any change: {', '.join(new)}")
        _PASSING.update(new)
    file = tree / mutant.file
    before = file.read_text("utf-8")
    file.write_text(changed(mutant, before), "utf-8")
    try:
        return not _pass(tests, tree, seconds)
    finally:
        file.write_text(before, "utf-8")


def _pass(tests: list[str], tree: Path, seconds: int) -> bool:
    try:
        ended = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests],
            cwd=tree,
            env={"PATH": "/usr/bin:/bin:/usr/sbin:/sbin", "PYTHONPATH": str(tree), "HYPOTHESIS_PROFILE": "quick"},
            capture_output=True,
            timeout=seconds,
            check=False,
        )
    except subprocess.TimeoutExpired:
        return False
    return ended.returncode == 0


if __name__ == "__main__":
    typer.run(main)
