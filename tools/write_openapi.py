"""Writes frontend/openapi.json, from which the page's types are generated.

python tools/write_openapi.py && npm --prefix frontend run types
"""

import json
from pathlib import Path

from pale_harbor.api.app import make_app

TARGET = Path(__file__).parent.parent / "frontend" / "openapi.json"


def openapi_text() -> str:
    """The API's OpenAPI document as it is committed."""
    return json.dumps(make_app().openapi(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    TARGET.write_text(openapi_text(), "utf-8")
