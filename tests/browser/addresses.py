"""Addresses of the page that tests go to."""

import json
from urllib.parse import quote


def weighing(*weights: float | str) -> str:
    """A draft that gives the readings these weights, as an address carries it."""
    return drafting(readings={str(place): {"weight": weight} for place, weight in enumerate(weights)})


def drafting(**parts: object) -> str:
    """A draft with these parts of its own, as an address carries it."""
    return f"d={quote(json.dumps(parts, separators=(',', ':')))}"
