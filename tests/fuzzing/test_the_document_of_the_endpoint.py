"""Requests made up from the search endpoint's own document, with a visitor's key: no answer is an unforeseen error,
none is undocumented, and none holds a field that the key may not show.
"""

import json
import os
import subprocess
import sys
from collections.abc import Generator
from pathlib import Path

import pytest

from tests.command_host import CommandHost
from tests.conftest import ROOT, Command, demo_copy
from tests.endurance.harbor import scaled

HERE = Path(__file__).parent
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"
USUAL = 15
SHOWN = ("title", "description", "maker", "year")
MOST_A_MINUTE = 1_000_000


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    with demo_copy(host, demo_folder) as call:
        yield call


def test_no_request_to_the_endpoint_surprises(command: Command):
    up = command("up")
    assert up.returncode == 0, up.stderr
    terms = {"shown": SHOWN, "per_minute": MOST_A_MINUTE, "per_minute_each": MOST_A_MINUTE}
    made = command("key", "visitor", "saltmere", "made up", "--terms", "-", "--json", text=json.dumps(terms))
    assert made.returncode == 0, made.stderr
    key = json.loads(made.stdout)["key"]
    asked = subprocess.run(
        [
            *(str(Path(sys.executable).parent / "st"), "run", f"{up.stdout.strip()}/v1/saltmere/openapi.json"),
            *("--phases", "fuzzing", "--header", f"Authorization: Bearer {key}"),
            *("--checks", f"{CHECKS},only_what_may_be_shown", "--request-timeout", "60", "--wait-for-schema", "120"),
            *("--max-examples", str(scaled(USUAL, "ENDURED_REQUESTS"))),
            *("--seed", str(1 + 100 * scaled(0, "ENDURED_SEED")), "--continue-on-failure", "--no-color"),
        ],
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
        env=os.environ
        | {
            "SCHEMATHESIS_HOOKS": "tests.fuzzing.only_what_is_shown",
            "FUZZED_SHOWN": " ".join(SHOWN),
            "PYTHONPATH": str(ROOT),
        },
    )
    assert asked.returncode == 0, asked.stdout[-6_000:] + asked.stderr[-2_000:]
    assert "passed" in asked.stdout
    print([line.strip() for line in asked.stdout.splitlines() if "generated" in line])
