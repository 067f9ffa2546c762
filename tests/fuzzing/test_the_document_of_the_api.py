"""Requests made up from the API's own document: no answer is an unforeseen error, and none is undocumented."""

import subprocess
import sys
from pathlib import Path

import pytest

from tests.command_host import CommandHost
from tests.conftest import demo_copy

HERE = Path(__file__).parent
CHECKS = "not_a_server_error,status_code_conformance,content_type_conformance,response_schema_conformance"


@pytest.mark.parametrize("seed", [1, 2])
def test_every_answer_is_one_that_the_document_tells_of(host: CommandHost, demo_folder: Path, seed: int):
    with demo_copy(host, demo_folder) as command:
        up = command("up")
        assert up.returncode == 0, up.stderr
        asked = subprocess.run(
            [
                *(str(Path(sys.executable).parent / "st"), "--config-file", str(HERE / "schemathesis.toml"), "run"),
                *(f"{up.stdout.strip()}/api/openapi.json", "--checks", CHECKS, "--phases", "fuzzing"),
                # What is told as it happens never ends.
                *("--exclude-path", "/api/events", "--request-timeout", "60"),
                *("--max-examples", "6", "--seed", str(seed), "--continue-on-failure", "--no-color"),
            ],
            capture_output=True,
            text=True,
            check=False,
            timeout=900,
        )
    assert asked.returncode == 0, asked.stdout[-6_000:]
    assert "passed" in asked.stdout
