"""Jobs of a server that tests wait for."""

from threading import Event
from typing import Any

from fastapi.testclient import TestClient

from pale_harbor.work.running.telling import Notice

UNFINISHED = ("waiting", "running")


def ended(client: TestClient, path: str) -> dict[str, Any]:
    """What stands at a path once its job ended: asked for whenever the server tells of one."""
    heard = Event()

    def hear(_notice: Notice) -> None:
        heard.set()

    app: Any = client.app
    stop = app.state.server.telling.add(hear)
    try:
        for _ in range(600):
            answer = client.get(path)
            assert answer.status_code == 200, answer.text
            if answer.json()["state"] not in UNFINISHED:
                return answer.json()
            heard.wait(0.5)
            heard.clear()
        raise AssertionError(f"{path} does not end")
    finally:
        stop()
