"""How endpoints answer: written where they worked, by the kinds that they say."""

from threading import get_ident

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from pydantic import BaseModel, field_serializer
from starlette.responses import Response

from pale_harbor.api.routes import guarded_router


class Told(BaseModel):
    text: str
    number: float | None = None

    @field_serializer("text")
    def noting(self, text: str) -> str:
        """The text, and the thread that writes it."""
        return f"{text} {get_ident()}"


@pytest.mark.parametrize("status", [None, 201])
def test_an_answer_is_written_by_the_thread_that_made_it(status: int | None):
    router = guarded_router()
    threads: list[int] = []

    # Both by names that need no right.
    @router.get("/told", name="alive", status_code=status)
    def told() -> Told:
        threads.append(get_ident())
        return Told(text="written by", number=float("nan"))

    @router.get("/plain", name="health")
    def plain() -> Response:
        return Response("as it is", 202)

    app = FastAPI()
    app.include_router(router)
    app.state.searches_only = False
    client = TestClient(app)
    answer = client.get("/told")
    assert answer.status_code == (status or 200)
    assert answer.headers["content-type"] == "application/json"
    # What is no number is null in JSON.
    assert answer.json() == {"text": f"written by {threads[0]}", "number": None}
    assert threads[0] != get_ident()
    assert client.get("/plain").text == "as it is"
    assert client.get("/plain").status_code == 202
    assert app.openapi()["paths"]["/told"]["get"]["responses"][str(status or 200)]["content"] == {
        "application/json": {"schema": {"$ref": "#/components/schemas/Told"}}
    }
