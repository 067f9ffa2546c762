"""A server on a port of its own, for clients that are not ours and know nothing of tests."""

import socket
import threading
import time
from collections.abc import Generator
from contextlib import contextmanager
from pathlib import Path

import uvicorn

from pale_harbor.api.app import make_app
from pale_harbor.work.workbench import Workbench


@contextmanager
def served(bench: Workbench) -> Generator[str]:
    """Serves a workbench over HTTP; gives the address."""
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    address = f"http://127.0.0.1:{listener.getsockname()[1]}"
    server = uvicorn.Server(uvicorn.Config(make_app(bench, Path("/nonexistent")), log_config=None))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    deadline = time.monotonic() + 60
    while not server.started:
        assert time.monotonic() < deadline, "the server does not begin"
        time.sleep(0.02)
    yield address
    server.should_exit = True
    thread.join(30)
