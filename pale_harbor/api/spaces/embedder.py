"""The stand-in for an embedding service: the packaged word vectors behind the protocol of docs/vectors.md.

It can be told to be slow, to refuse, to limit rates, to break off, to answer a wrong dimension or another model: what
the real ones do on their bad days.
"""

import asyncio
import time
from dataclasses import dataclass
from typing import Annotated, Literal

from anyio import to_thread
from fastapi import FastAPI
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from pale_harbor.api.problems import MEDIA_TYPE
from pale_harbor.formats.static_vectors import packaged_vectors


@dataclass(slots=True, kw_only=True)
class Moods:
    """How it behaves. delay: seconds before an answer; refuse_after: so many texts, then it refuses all further
    requests; per_second: at most so many requests; dimensions: of its answers, whatever it says of itself;
    forget: every so many-th text gets zeros; model: another name of itself."""

    delay: float = 0.0
    refuse_after: int | None = None
    per_second: float | None = None
    dimensions: int | None = None
    forget: int | None = None
    model: str | None = None
    price: float | None = None
    texts: int = 0
    last: float = 0.0


class TextsRequest(BaseModel):
    texts: Annotated[list[Annotated[str, Field(max_length=200_000)]], Field(max_length=1_000)]
    about: Literal["records", "queries"] = "records"


class VectorsAnswer(BaseModel):
    model: str
    vectors: list[list[float]]


class PriceModel(BaseModel):
    per_thousand_words: float
    currency: str


class ModelAnswer(BaseModel):
    model: str
    dimensions: int
    most_texts: int
    price: PriceModel | None


def make_embedder(moods: Moods | None = None) -> FastAPI:
    """The stand-in's application."""
    own = moods or Moods()
    app = FastAPI(title="An embedding service to try", docs_url=None, redoc_url=None)

    def name() -> str:
        return own.model or packaged_vectors().model

    @app.get("/model")
    def model() -> ModelAnswer:  # pyright: ignore[reportUnusedFunction]
        price = None if own.price is None else PriceModel(per_thousand_words=own.price, currency="EUR")
        return ModelAnswer(model=name(), dimensions=packaged_vectors().dimensions, most_texts=1_000, price=price)

    @app.post("/texts", response_model=VectorsAnswer)
    async def vectors(request: TextsRequest) -> JSONResponse:  # pyright: ignore[reportUnusedFunction]
        if own.delay:
            await asyncio.sleep(own.delay)
        now = time.monotonic()
        if own.per_second is not None and now - own.last < 1 / own.per_second:
            return _problem(429, "Too many requests; slow down.", {"Retry-After": "1"})
        own.last = now
        if own.refuse_after is not None and own.texts + len(request.texts) > own.refuse_after:
            return _problem(403, "The budget is used up.")
        made = await to_thread.run_sync(packaged_vectors().vectors_of, request.texts)
        rows: list[list[float]] = []
        for row in made.tolist():
            own.texts += 1
            forgotten = own.forget is not None and own.texts % own.forget == 0
            rows.append([0.0 if forgotten else value for value in row[: own.dimensions]])
        return JSONResponse(VectorsAnswer(model=name(), vectors=rows).model_dump())

    return app


def _problem(status: int, detail: str, headers: dict[str, str] | None = None) -> JSONResponse:
    return JSONResponse({"title": "Refused", "status": status, "detail": detail}, status, headers, MEDIA_TYPE)
