"""Imports whose database dies alone are taken up by the same server when it is back, and come to their end."""

import json

import httpx

from tests.endurance.ferries import UNFINISHED
from tests.endurance.harbor import Harbor, harbor, until

_IMPORTS, _ROWS = 6, 6_000


def begun(client: httpx.Client, name: str) -> int:
    """An import into a collection of its own; the number of its job."""
    rows = "".join(json.dumps({"nr": f"{name}-{row}", "berth": f"Quay {row % 40}"}) + "\n" for row in range(_ROWS))
    upload = client.post("/api/uploads", params={"name": f"{name}.jsonl"}, content=rows).json()["upload"]
    body = {"source": {"upload": upload}, "plan": {"key": "nr"}}
    answer = client.post(f"/api/collections/{name}/imports", json=body)
    assert answer.status_code == 200, answer.text
    return int(answer.json()["id"])


def states(client: httpx.Client, jobs: list[int]) -> list[str]:
    return [str(client.get(f"/api/imports/{job}").json()["state"]) for job in jobs]


def test_six_imports_go_on_when_it_is_back():
    with harbor() as here, httpx.Client(base_url=here.address, timeout=60) as client:
        jobs = [begun(client, f"pier{number}") for number in range(_IMPORTS)]
        until(lambda: "running" in states(client, jobs), 60, lambda: "None is running.")
        here.kill_database()
        refused = client.get("/api/collections")
        assert refused.status_code == 503
        assert "The database does not answer" in refused.json()["detail"]
        assert client.get("/api/alive").status_code == 200
        here.cluster.start()
        here.wait_until_ready()
        _all_are_through(here, client, jobs)


def _all_are_through(here: Harbor, client: httpx.Client, jobs: list[int]) -> None:
    def are_through() -> bool:
        return not set(states(client, jobs)) & set(UNFINISHED)

    until(are_through, 120, lambda: f"Stuck: {states(client, jobs)}\n{here.log[-3_000:]}")
    assert states(client, jobs) == ["done"] * len(jobs)
    counted = {one["name"]: one["records"] for one in client.get("/api/collections").json()}
    assert counted == {f"pier{number}": _ROWS for number in range(_IMPORTS)}
