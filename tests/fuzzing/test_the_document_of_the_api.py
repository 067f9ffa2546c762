"""Requests made up from the API's own document, as each role: no answer is an unforeseen error, none is undocumented,
and nobody gets past their rights.

`ENDURED_REQUESTS=85` in the environment makes up so many for each endpoint and person, a hundred thousand in all;
`ENDURED_SEED=1` makes up others than before.
"""

import os
import subprocess
import sys
from collections.abc import Generator
from pathlib import Path

import pytest

from tests.api.people import EVERYBODY
from tests.command_host import CommandHost
from tests.conftest import ROOT, Command, demo_copy
from tests.endurance.harbor import scaled
from tests.endurance.settling import settled

HERE = Path(__file__).parent
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"
USUAL = 2


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    with demo_copy(host, demo_folder) as call:
        yield call


@pytest.fixture(scope="module")
def address(command: Command) -> str:
    up = command("up")
    assert up.returncode == 0, up.stderr
    return up.stdout.strip()


def ask(address: str, seed: int, who: str = "", key: str | None = None) -> None:
    """Asks whatever comes to mind. who: by a person's name in `EVERYBODY`; key: theirs."""
    named = [] if key is None else ["--header", f"Authorization: Bearer {key}"]
    asked = subprocess.run(
        [
            *(str(Path(sys.executable).parent / "st"), "--config-file", str(HERE / "schemathesis.toml"), "run"),
            *(f"{address}/api/openapi.json", "--phases", "fuzzing", *named),
            *("--checks", f"{CHECKS},nobody_gets_past_their_rights"),
            # What is told as it happens never ends.
            *("--exclude-path", "/api/events", "--request-timeout", "60", "--wait-for-schema", "120"),
            *("--max-examples", str(scaled(USUAL, "ENDURED_REQUESTS"))),
            *("--seed", str(seed + 100 * scaled(0, "ENDURED_SEED")), "--continue-on-failure", "--no-color"),
        ],
        capture_output=True,
        text=True,
        check=False,
        cwd=ROOT,
        env=os.environ
        | {"SCHEMATHESIS_HOOKS": "tests.fuzzing.within_rights", "FUZZED_AS": who, "PYTHONPATH": str(ROOT)},
    )
    assert asked.returncode == 0, asked.stdout[-6_000:] + asked.stderr[-2_000:]
    assert "passed" in asked.stdout
    # How many there were, for whoever wants to see what is printed.
    print(who, [line.strip() for line in asked.stdout.splitlines() if "generated" in line])


def test_as_long_as_nobody_is_known(address: str):
    ask(address, seed=1)


def test_as_everybody(address: str):
    roles = {name: None if name == "stranger" else name for name in set(EVERYBODY) - {"nobody", "keeper"}}
    keys: dict[str, str | None] = {"nobody": None, **settled(address, roles)}
    # Who may least first: later ones may undo what the others are.
    for seed, who in enumerate(sorted(EVERYBODY, key=lambda one: len(EVERYBODY[one])), start=2):
        ask(address, seed, who, keys[who])
