"""Whole numbers that no database holds: refused with a sentence, wherever a request may have one."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

TOO_LARGE = (2**31, 2**63, 2**70, -(2**70))


def places(client: TestClient) -> list[tuple[str, str, str, str]]:
    """Every whole number in an address: method, path, name and where it stands."""
    document = client.get("/api/openapi.json").json()
    return [
        (method, path, one["name"], one["in"])
        for path, methods in document["paths"].items()
        for method, operation in methods.items()
        for one in operation.get("parameters", ())
        if "integer" in kinds(one["schema"])
    ]


def kinds(schema: dict[str, Any]) -> set[Any]:
    return {one.get("type") for one in (schema, *schema.get("anyOf", ()))}


def test_no_number_in_an_address_is_too_large_for_a_sentence(client: TestClient):
    found = places(client)
    assert len(found) > 30
    failed: list[object] = []
    for method, path, name, where in found:
        for number in TOO_LARGE:
            known = {"collection": "saltmere", "name": "saltmere", name: number}
            address = path
            for key, value in known.items():
                address = address.replace(f"{{{key}}}", str(value))
            address = address.replace("{", "").replace("}", "")
            params = {name: number} if where == "query" else {}
            answer = client.request(method, address, params=params, json={} if method in ("post", "put") else None)
            if answer.status_code >= 500:
                failed.append((method, address, name, number))
    assert failed == []


@pytest.mark.parametrize("number", [2**64, -(2**63) - 1, 10**400])
def test_a_record_may_not_hold_a_number_that_is_none(client: TestClient, number: int):
    before = client.get("/api/collections/saltmere/records", params={"words": "sm0001"}).json()
    answer = client.post("/api/collections/saltmere/records", json={"records": [{"id": "sm0001", "title": number}]})
    assert answer.status_code == 422
    assert "title" in answer.text
    assert client.get("/api/collections/saltmere/records", params={"words": "sm0001"}).json() == before


@pytest.mark.parametrize("number", [2**64 - 1, -(2**63)])
def test_a_record_may_hold_whole_numbers_of_64_bits(client: TestClient, number: int):
    record = {"id": "numbered", "title": "Tally", "tally": number}
    assert client.post("/api/collections/saltmere/records", json={"records": [record]}).status_code == 200
    kept = client.get("/api/collections/saltmere/export").text
    assert f'"tally":{number}' in kept
    client.post("/api/collections/saltmere/records/delete", json={"keys": ["numbered"]})


def test_a_number_without_an_end_is_none(client: TestClient):
    content = '{"records": [{"id": "endless", "title": [1, 1e999]}]}'
    answer = client.post(
        "/api/collections/saltmere/records", content=content, headers={"content-type": "application/json"}
    )
    assert answer.status_code == 422
    assert "too large" in answer.text
