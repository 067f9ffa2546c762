"""People come to a server that is in use by nobody yet, each with a key for their programs."""

from collections.abc import Mapping
from typing import Any

import httpx

from tests.api.people import PASSWORD


def settled(address: str, roles: Mapping[str, str | None], collection: str = "saltmere") -> dict[str, str]:
    """Has people there: the key of each. roles: of each in the collection, None for whoever is no member of it; the
    "keeper" keeps the installation and need not be named."""
    with httpx.Client(base_url=address, timeout=60) as client:

        def well(answer: httpx.Response) -> Any:
            assert answer.status_code in (200, 204), answer.text
            return answer.json() if answer.content else None

        def key_of(name: str) -> str:
            client.cookies.clear()
            well(client.post("/api/sign-in", json={"name": name, "password": PASSWORD}))
            return str(well(client.post("/api/me/keys", json={"label": "for a program"}))["key"])

        well(client.post("/api/people", json={"name": "keeper", "shown": "K", "password": PASSWORD, "keeper": True}))
        keys = {"keeper": key_of("keeper")}
        for name, role in roles.items():
            well(client.post("/api/people", json={"name": name, "shown": name, "password": PASSWORD}))
            if role is not None:
                well(client.put(f"/api/collections/{collection}/members/{name}", json={"role": role}))
        return keys | {name: key_of(name) for name in roles}
