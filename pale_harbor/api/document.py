"""The document of the API (OpenAPI 3.1): with every error that an endpoint may answer with, as a problem document."""

from typing import Any, Final

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi

from pale_harbor.api.problems import MEDIA_TYPE, Problem

_EVERYWHERE: Final = {
    "400": "The request cannot be done, or asks a name that the server is not called by",
    "401": "It needs a sign-in first",
    "403": "Whoever asks has no right to it, or a page of another site asks for a change",
    "404": "There is no such thing",
    "409": "Somebody else changed it meanwhile",
    "422": "Something in the request is wrong",
    "429": "It was tried too often",
    "500": "Something went wrong on the server's side",
    "503": "Not available now",
}
_OF_BODIES: Final = {"413": "The request is too large, or does not say how large it is"}
_METHODS: Final = ("get", "put", "post", "patch", "delete")


def document_of(app: FastAPI) -> dict[str, Any]:
    """The document, made once."""
    if app.openapi_schema is None:
        whole = get_openapi(title=app.title, version=app.version, routes=app.routes)
        schemas = whole.setdefault("components", {}).setdefault("schemas", {})
        # What the framework answers with is never sent: its errors are problems here.
        for name in ("HTTPValidationError", "ValidationError"):
            schemas.pop(name, None)
        schema = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        schemas |= schema.pop("$defs") | {"Problem": schema}
        for methods in whole["paths"].values():
            for method in _METHODS:
                if method in methods:
                    _with_problems(methods[method])
        app.openapi_schema = whole
    return app.openapi_schema


def _with_problems(operation: dict[str, Any]) -> None:
    told = dict(_EVERYWHERE)
    if "requestBody" in operation:
        told |= _OF_BODIES
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    operation["responses"] |= {
        status: {"description": description, "content": content} for status, description in sorted(told.items())
    }
