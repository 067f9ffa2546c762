"""What a learned space needs to fold texts in, as bytes: arrays in NumPy's own format."""

from io import BytesIO
from typing import Any

import numpy as np
import orjson

from pale_harbor.core.vectors import LearnedSpace


def learned_as_bytes(space: LearnedSpace) -> bytes:
    """The terms, their weights and their directions; the vectors of the records are not kept."""
    content = BytesIO()
    terms = np.frombuffer(orjson.dumps(list(space.numbers)), np.uint8)
    np.savez_compressed(content, terms=terms, idf=space.idf, directions=space.directions)
    return content.getvalue()


def learned_of_bytes(content: bytes) -> LearnedSpace:
    """The space again, without its records' vectors."""
    with np.load(BytesIO(content), allow_pickle=False) as arrays:
        terms: list[Any] = orjson.loads(arrays["terms"].tobytes())
        idf, directions = arrays["idf"], arrays["directions"]
    numbers = {str(term): number for number, term in enumerate(terms)}
    return LearnedSpace(numbers, idf, directions, np.zeros((0, directions.shape[1]), np.float32))
