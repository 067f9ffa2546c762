"""Addresses of the page that tests go to."""

import json
from urllib.parse import quote


def weighing(*weights: float | str) -> str:
    """A draft that gives the readings these weights, as an address carries it."""
    readings = {str(place): {"weight": weight} for place, weight in enumerate(weights)}
    changed = json.dumps({"readings": readings}, separators=(",", ":"))
    return f"d={quote(changed)}"
