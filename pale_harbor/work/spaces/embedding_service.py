"""Asks a service for vectors over HTTP; see docs/vectors.md for what is said.

A request that may succeed later is tried again, after a while that doubles each time, or as long as the service
says. Whatever it answers is looked at before it is believed.
"""

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final, Literal
from urllib.parse import urlsplit

import httpx
import numpy as np
import orjson
from numpy.typing import NDArray

from pale_harbor.core.vectors import Fault, faults_of
from pale_harbor.errors import Unavailable
from pale_harbor.formats.space_document import ServiceSource
from pale_harbor.work.running.asking import Asking, NotAnswered, with_retries

LARGEST_ANSWER: Final = 256_000_000
_FIRST_WAIT: Final = 0.5


class ServiceFailed(Unavailable):
    """The service did not give what was asked for. later: whether it may, if it is asked again."""

    def __init__(self, message: str, *, later: bool = False, wait: float | None = None) -> None:
        super().__init__(message)
        self.later = later
        self.wait = wait


@dataclass(frozen=True, slots=True, kw_only=True)
class ServiceModel:
    """What a service says of itself. price: for a thousand words, in a currency; None where it says nothing."""

    model: str
    dimensions: int
    most_texts: int | None
    price: float | None
    currency: str


class EmbeddingService:
    """A service at an address. wait: sleeps, and may raise to end it all; transport: for tests."""

    def __init__(
        self,
        source: ServiceSource,
        wait: Callable[[float], None],
        transport: httpx.BaseTransport | None = None,
    ) -> None:
        self.source = source
        self._wait = wait
        secrets = {} if source.token_variable is None else {"Authorization": f"Bearer {_token(source)}"}
        self._asking = Asking(source.seconds, {}, secrets, transport=transport)

    def __enter__(self) -> "EmbeddingService":
        return self

    def __exit__(self, *_: object) -> None:
        self._asking.close()

    def model(self) -> ServiceModel:
        """What the service is. Raises ServiceFailed."""
        said = self._tried("GET", "/model", None)
        price = said.get("price")
        per_thousand = price.get("per_thousand_words") if isinstance(price, dict) else None
        name, dimensions, most = said.get("model"), said.get("dimensions"), said.get("most_texts")
        if not isinstance(name, str) or not name or not isinstance(dimensions, int) or not 0 < dimensions <= 65_536:
            raise ServiceFailed(f'{self._where("/model")} must say its "model" and its "dimensions".')
        return ServiceModel(
            model=name[:200],
            dimensions=dimensions,
            most_texts=most if isinstance(most, int) and most > 0 else None,
            price=float(per_thousand) if isinstance(per_thousand, int | float) else None,
            currency=str(price.get("currency", ""))[:10] if isinstance(price, dict) else "",
        )

    def vectors(
        self, texts: Sequence[str], about: Literal["records", "queries"], model: str, dimensions: int
    ) -> list[NDArray[np.float32] | Fault]:
        """A vector for each text, or what is wrong with it. Raises ServiceFailed, also where the model changed.

        Each (dimensions,).
        """
        said = self._tried("POST", "/texts", {"texts": list(texts), "about": about})
        if said.get("model") != model:
            raise ServiceFailed(
                f'{self._where("")} now answers with the model "{str(said.get("model"))[:100]}", but the space is made '
                f'with "{model}". Vectors of two models are never mixed: empty the space and fill it anew, or let the '
                "service use the old model again."
            )
        vectors = said.get("vectors")
        if not isinstance(vectors, list) or len(vectors) != len(texts):
            got = f"{len(vectors)} vectors" if isinstance(vectors, list) else "no list of vectors"
            raise ServiceFailed(f"{self._where('/texts')} was asked for {len(texts)} vectors and gave {got}.")
        faults = faults_of(vectors, dimensions)
        if vectors and all(fault is Fault.WRONG_DIMENSION for fault in faults):
            raise ServiceFailed(
                f"{self._where('/texts')} gives vectors of {_length(vectors[0])} numbers, but the model has "
                f"{dimensions}. None of them was kept."
            )
        return [
            np.asarray(vector, np.float32) if fault is None else fault
            for vector, fault in zip(vectors, faults, strict=True)
        ]

    def _tried(self, method: str, path: str, content: Any) -> dict[str, Any]:
        tries = self.source.tries
        try:
            return with_retries(lambda: self._once(method, path, content), tries, self._wait, _FIRST_WAIT)
        except ServiceFailed as error:
            if error.later and tries > 1:
                raise ServiceFailed(f"{error} It was asked {tries} times.") from error
            raise

    def _once(self, method: str, path: str, content: Any) -> dict[str, Any]:
        where = self._where(path)
        body = None if content is None else orjson.dumps(content)
        try:
            said = orjson.loads(self._asking.answer(method, where, body, LARGEST_ANSWER))
        except NotAnswered as error:
            raise ServiceFailed(_words(where, error), later=error.later, wait=error.wait) from error
        except orjson.JSONDecodeError as error:
            raise ServiceFailed(f"{where} answers with something that is no JSON.") from error
        if not isinstance(said, dict):
            raise ServiceFailed(f"{where} must answer with a JSON object.")
        return said

    def _where(self, path: str) -> str:
        return self.source.address.rstrip("/") + path


def _words(where: str, error: NotAnswered) -> str:
    match error.how:
        case "late":
            # As the client says it: within so many seconds.
            return f"{where} did not answer {str(error).removeprefix('no answer ')}."
        case "too long":
            return f"{where} answers with {error}. Ask for less."
        case "refused":
            status, _, reason = str(error).partition(" ")
            return f"{where} refuses with {status}: {_detail(error.content, reason)}."
        case "closed":
            return f"{where} is not asked: {error}."
        case _:
            return f"{where} cannot be reached: {error}."


def _token(source: ServiceSource) -> str:
    """What is sent as the bearer token, if it is meant for the host that is asked.

    It would go wherever a space says otherwise. Raises ServiceFailed.
    """
    variable = source.token_variable or ""
    host_variable = f"{variable}_HOST"
    token, meant_for = os.environ.get(variable), os.environ.get(host_variable)
    host = urlsplit(source.address).netloc
    if not token:
        raise ServiceFailed(
            f"The variable {variable} is not set where the server runs, so the service at {source.address} cannot be "
            "asked. Set it, and start the server again."
        )
    if meant_for != host:
        raise ServiceFailed(
            f"The token in {variable} is {f'meant for {meant_for}' if meant_for else 'meant for no host yet'}, so it "
            f"is not sent to {host}. Whoever keeps the server says in {host_variable} which host it is for."
        )
    return token


def _detail(content: bytes, reason: str) -> str:
    """What a problem document says, or the reason that HTTP has for the number."""
    try:
        said = orjson.loads(content)
        detail = said.get("detail") or said.get("title") if isinstance(said, dict) else None
    except ValueError:
        detail = None
    return str(detail or reason or "no reason given")[:300].rstrip(".")


def _length(vector: Any) -> str:
    return str(len(vector)) if isinstance(vector, list) else "no"
