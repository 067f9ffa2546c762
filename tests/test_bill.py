"""What Pale Harbor runs with is told as it is: packages, versions, licences."""

import json
from pathlib import Path

from tools.write_bill import BILL, LICENCES, bill_text, licences_text, parts

WRITE = "run: PYTHONPATH=. python tools/write_bill.py"


def test_the_committed_bill_and_licences_are_those_of_the_lock_files():
    assert BILL.read_text("utf-8") == bill_text(), WRITE
    assert LICENCES.read_text("utf-8") == licences_text(), WRITE


def test_every_part_says_its_licence_and_none_asks_that_all_be_given_away():
    own = parts()
    assert {part.kind for part in own} == {"pypi", "npm"}
    for part in own:
        assert part.licence != "see the package", part
        assert "AGPL" not in part.licence, part
        assert not part.licence.startswith("GPL"), part
    # What the program itself imports stands in it, what only tests need does not.
    names = {part.name for part in own}
    assert {"psycopg", "fastapi", "numba", "react", "react-router"} <= names
    assert not {"pytest", "playwright", "ruff", "vitest", "eslint"} & names


def test_it_is_cyclonedx_without_a_moment_of_its_own():
    told = json.loads(BILL.read_text("utf-8"))
    assert (told["bomFormat"], told["specVersion"]) == ("CycloneDX", "1.6")
    assert "serialNumber" not in told
    assert "timestamp" not in told["metadata"]
    assert told["metadata"]["component"]["name"] == "pale-harbor"
    assert len(told["components"]) == len(parts())
    assert (Path(BILL).parent / "SECURITY.md").exists()
