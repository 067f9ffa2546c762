"""Every example of a docstring is true."""

import doctest
from importlib import import_module
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
WITH_EXAMPLES = sorted(
    ".".join(file.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
    for file in (ROOT / "pale_harbor").rglob("*.py")
    if ">>>" in file.read_text("utf-8")
)


@pytest.mark.parametrize("name", WITH_EXAMPLES)
def test_the_examples_of_a_module_are_true(name: str):
    module = import_module(name)
    names = {"np": import_module("numpy")}
    found = doctest.testmod(module, extraglobs=names, optionflags=doctest.NORMALIZE_WHITESPACE)
    assert found.attempted > 0
    assert found.failed == 0, f"{found.failed} of {found.attempted} examples of {name} are not true"
