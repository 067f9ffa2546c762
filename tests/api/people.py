"""An installation with people: a keeper, and one member for each role of a collection, each with a browser."""

from collections.abc import Callable, Generator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from fastapi import FastAPI
from fastapi.testclient import TestClient

from pale_harbor.api.app import make_app
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import open_pool
from pale_harbor.work.people.people import make_person
from pale_harbor.work.people.rights import RIGHTS_OF, ROLES, Right
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

ADDRESS = "http://127.0.0.1:7340"
PASSWORD = "a lamp for every ship"
LOCAL_KEY = "the key that lies at this machine"

# Of the roles, and of the rights that are about a collection, this is all that may be.
_MAY = {role: {Right.ANYBODY, Right.SIGNED_IN, *RIGHTS_OF[role]} for role in ROLES}
EVERYBODY: dict[str, set[Right]] = {
    **_MAY,
    "engineer": _MAY["engineer"] | {Right.BRING},
    "owner": _MAY["owner"] | {Right.BRING},
    "nobody": {Right.ANYBODY},
    "stranger": {Right.ANYBODY, Right.SIGNED_IN},
    "keeper": set(Right),
}


@dataclass(frozen=True)
class Town:
    """browsers: by who sits at them; "nobody" signed in nowhere, "stranger" is a member of nothing."""

    app: FastAPI
    bench: Workbench
    browsers: dict[str, TestClient]

    def browser(self) -> TestClient:
        """Another one, in which nobody is signed in."""
        return TestClient(self.app, base_url=ADDRESS, raise_server_exceptions=False)

    def signed_in(self, name: str, password: str = PASSWORD) -> TestClient:
        """A browser in which somebody signs in."""
        browser = self.browser()
        answer = browser.post("/api/sign-in", json={"name": name, "password": password})
        assert answer.status_code == 204, answer.text
        return browser


# Ferries and their timetables: neither a title nor a museum.
ROWS = [
    {"id": f"f{number}", "route": route, "remarks": remarks}
    for number, (route, remarks) in enumerate(
        [
            ("Tidewick to Hallow", "every hour, dogs on a lead"),
            ("Hallow to Kestrel Ness", "by day only, no carts"),
            ("Tidewick to the Swash", "when the tide allows"),
        ]
    )
]
QUERIES = "1\ttidewick\n2\tdogs\n3\tcarts\n4\ttide\n5\thallow\n"
GRADES = "1 0 f0 3\n1 0 f2 2\n2 0 f0 3\n3 0 f1 3\n4 0 f2 3\n5 0 f1 2\n"


@contextmanager
def town(cluster: Cluster, empty_database: Callable[[], str], folder: Path) -> Generator[Town]:
    """Where the keeper "nora" lives, members of "ferries" named by their roles, and a "stranger"; and "nobody" asks."""
    with open_pool(cluster.address(empty_database())) as pool:
        bench = Workbench(pool, folder / "indexes")
        load_rows(pool, folder, ROWS, "ferries")
        app = make_app(bench, Path("/nonexistent"), local_key=LOCAL_KEY)
        with TestClient(app, base_url=ADDRESS) as here:
            # As long as nobody is known, everybody may.
            files = {"queries": QUERIES, "judgments": GRADES}
            assert here.put("/api/collections/ferries/judged/riders/files", json=files).status_code == 200
            ranker = {"document": {"readings": [{"field": "route", "chain": "words > lower"}]}}
            assert here.put("/api/collections/ferries/rankers/plain", json=ranker).status_code == 200
            yield _settled(app, bench, "ferries")


def _settled(app: FastAPI, bench: Workbench, collection: str) -> Town:
    town = Town(app, bench, {})
    make_person(bench.pool, "nora", "Nora Vane", PASSWORD, keeper=True)
    town.browsers["keeper"] = keeper = town.signed_in("nora")
    for role in (*ROLES, "stranger"):
        asked = {"name": role, "shown": f"The {role}", "password": PASSWORD}
        assert keeper.post("/api/people", json=asked).status_code == 200
        if role != "stranger":
            path = f"/api/collections/{collection}/members/{role}"
            assert keeper.put(path, json={"role": role}).status_code == 200
        town.browsers[role] = town.signed_in(role)
    town.browsers["nobody"] = town.browser()
    return town
