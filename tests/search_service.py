"""A stand-in for somebody else's search: answers over real HTTP what a test tells it to."""

import threading
from collections.abc import Callable, Generator
from contextlib import contextmanager, suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

# Status, headers, body; from command, path, headers, body.
Answer = tuple[int, dict[str, str], bytes]
Answering = Callable[[str, str, dict[str, str], bytes], Answer]


@contextmanager
def search_service(answering: Answering) -> Generator[str]:
    """A search of somebody else's on a port of its own; gives its address."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            length = int(self.headers.get("Content-Length") or 0)
            status, headers, body = answering(self.command, self.path, dict(self.headers), self.rfile.read(length))
            self.send_response(status)
            for name, value in headers.items():
                self.send_header(name, value)
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            # Whoever asked may have given up by then.
            with suppress(BrokenPipeError):
                self.wfile.write(body)

        do_POST = do_GET  # noqa: N815 - the name is the library's

        def log_message(self, *_: Any) -> None:  # pyright: ignore[reportIncompatibleMethodOverride]
            """Says nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    thread.join(10)
