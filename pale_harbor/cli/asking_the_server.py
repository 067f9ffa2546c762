"""Commands that only look are asked of the running server: it has everything open, and gives the same answer.

Nothing is imported here that takes time; where no server runs, or one of another version, the command does its
own work.
"""

import json
import os
from contextlib import suppress
from dataclasses import dataclass
from http.client import HTTPConnection, HTTPException
from typing import Final
from urllib.parse import urlsplit

from pale_harbor import __version__

# Commands that change nothing and name no file.
ASKED: Final = frozenset(
    [
        *(("search",), ("measure",), ("runs",), ("compare",), ("diary",), ("sides",)),
        *(("chain", "list"), ("words", "list"), ("words", "get")),
        *(("ranker", "get"), ("ranker", "list"), ("ranker", "diff")),
        *(("judged", "list"), ("judged", "standing"), ("judged", "expected"), ("task", "list"), ("outside", "list")),
        *(("space", "list"), ("space", "nearest"), ("record", "get"), ("collection", "list")),
    ]
)
# Who gives a command, where somebody says so.
PERSON: Final = "PALEHARBOR_PERSON"
_SECONDS_TO_CONNECT: Final = 2.0


@dataclass(frozen=True, slots=True)
class CommandAnswer:
    """What a command printed, what it complained of, and its exit code."""

    output: bytes
    complaint: str
    code: int


def may_be_asked(arguments: list[str]) -> bool:
    """Whether the server may be asked: a command that only looks, and no help."""
    return "--help" not in arguments and (tuple(arguments[:1]) in ASKED or tuple(arguments[:2]) in ASKED)


def asked_of_server(arguments: list[str]) -> CommandAnswer | None:
    """The running server's answer; None where none runs, where it is another version, or where it may not be asked."""
    # Whoever says who they are is asked about by the command itself.
    if not may_be_asked(arguments) or PERSON in os.environ:
        return None
    from pale_harbor.settings import settings

    try:
        here = settings()
        known = json.loads(here.server.read_bytes())
        if known.get("version") != __version__:
            return None
        address = urlsplit(known["address"])
        key = here.local_key.read_text().strip()
    except (OSError, ValueError, KeyError):
        return None
    connection = HTTPConnection(address.hostname or "", address.port, timeout=_SECONDS_TO_CONNECT)
    with suppress(OSError, HTTPException, ValueError, KeyError):
        connection.connect()
        # Measuring may take its time; whether anybody listens is known by now.
        connection.sock.settimeout(None)
        body = json.dumps({"arguments": arguments}).encode()
        connection.request(
            "POST", "/api/command", body, {"Content-Type": "application/json", "Authorization": f"Bearer {key}"}
        )
        response = connection.getresponse()
        said = json.loads(response.read())
        if response.status == 200 and said["answered"]:
            return CommandAnswer(said["output"].encode(), said["complaint"], said["code"])
    return None
