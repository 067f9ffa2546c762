"""The search endpoint of a collection as an OpenAPI document (3.1), with the fields that a key may name."""

from typing import Any, Final

from pydantic import BaseModel

from pale_harbor import __version__
from pale_harbor.api.delivery.asked import CompletionsAsked, EventTold, ListAsked, PageAsked
from pale_harbor.api.delivery.shown import CSV, JSON, JSON_LINES
from pale_harbor.api.problems import MEDIA_TYPE, Problem
from pale_harbor.store.collections.collections import CollectionField
from pale_harbor.work.delivery.known import Known

_PROBLEMS: Final = {
    "401": "No key for this collection",
    "403": "A page of this site may not ask with this key",
    "404": "There is no such thing",
    "422": "Something in the request is wrong",
    "429": "Asked too often: see Retry-After",
    "500": "Something went wrong on the server's side",
    "503": "Not available now: see Retry-After",
}
_OF_BODIES: Final = {"413": "The request is too large, or does not say how large it is"}
_TEXT: Final = {"type": "string"}
_COUNT: Final = {"type": "integer", "minimum": 0}
_STRETCHES: Final = {
    "type": "array",
    "items": {"type": "array", "prefixItems": [_COUNT, _COUNT], "minItems": 2, "maxItems": 2},
    "description": "Start and end of each mark, in UTF-16 units",
}
_IN_PATH: Final = {"name": "record", "in": "path", "required": True, "schema": {"type": "string", "minLength": 1}}
_BOX: Final = {
    "type": "array",
    "items": {"type": "number"},
    "minItems": 4,
    "maxItems": 4,
    "description": "x, y, width and height on the page",
}


def document_for(known: Known, server: str) -> dict[str, Any]:
    """What can be asked with a key. server: the address that it is asked at, up to the first slash of its path."""
    below = f"/v1/{known.key.collection}"
    names = list(known.audience.shown)
    schemas = {
        "List": _list_schema(known),
        "Meant": _meant_schema(),
        "Fields": _fields_schema(known),
        "About": _about_schema(),
        "Hit": _hit_schema(),
        "Page": _page_schema(),
        **_models(),
    }
    return {
        "openapi": "3.1.0",
        "info": {
            "title": f"Search in {known.key.collection}",
            "version": "1",
            "description": f"Answers by key. Made by Pale Harbor {__version__}.",
        },
        "servers": [{"url": server.rstrip("/")}],
        "security": [{"key": []}, {"keyInAddress": []}],
        "paths": {
            f"{below}/search": _lists("search", "A page of the list for a query", names),
            f"{below}/typed": _lists("typed", "The same while the query is being typed", names),
            f"{below}/completions": {
                "get": _operation(
                    "completions",
                    "Whole suggestions for what is being typed",
                    _object(
                        completions={
                            "type": "array",
                            "items": _object(text=_TEXT, weight={"type": "number"}),
                        },
                        gathering={"type": "boolean"},
                    ),
                    [_required("typed"), *_some("language", "top")],
                )
            },
            f"{below}/correction": {
                "get": _operation(
                    "correction",
                    "What a query may have meant",
                    _object(correction={"anyOf": [{"$ref": "#/components/schemas/Meant"}, {"type": "null"}]}),
                    [_required("query"), *_some("language")],
                )
            },
            f"{below}/records/{{record}}": {
                "get": _operation(
                    "record",
                    "One record",
                    _object(key=_TEXT, fields={"$ref": "#/components/schemas/Fields"}),
                    [_IN_PATH],
                )
            },
            f"{below}/pages/{{record}}": {
                "get": _operation(
                    "page",
                    "A page that a machine read, with what a query matched on it",
                    {"$ref": "#/components/schemas/Page"},
                    [
                        {
                            "name": "record",
                            "in": "path",
                            "required": True,
                            "schema": {"type": "string", "minLength": 1},
                        },
                        *_some("query", "language", "typed", of=PageAsked),
                    ],
                )
            },
            f"{below}/about": {
                "get": _operation("about", "How a page shows what it finds", {"$ref": "#/components/schemas/About"}, [])
            },
            f"{below}/events": {"post": _event()},
        },
        "components": {
            "schemas": schemas,
            "securitySchemes": {
                "key": {"type": "http", "scheme": "bearer"},
                "keyInAddress": {"type": "apiKey", "in": "query", "name": "key"},
            },
        },
    }


def _models() -> dict[str, Any]:
    """The models of requests and problems, each with what it is made of."""
    found: dict[str, Any] = {}
    for model in (ListAsked, CompletionsAsked, EventTold, Problem):
        schema = model.model_json_schema(ref_template="#/components/schemas/{model}")
        found |= schema.pop("$defs", {}) | {model.__name__: schema}
    return found


def _object(**properties: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "required": list(properties)}


def _meant_schema() -> dict[str, Any]:
    return _object(query=_TEXT, finds=_COUNT, taken={"type": "boolean"})


def _fields_schema(known: Known) -> dict[str, Any]:
    """What a record may hold: fields that a record has nothing for are left out of it."""
    seen = [field for field in known.fields if field.name in known.audience.shown]
    return {"type": "object", "properties": {field.name: _value(field) for field in seen}}


def _value(field: CollectionField) -> dict[str, Any]:
    # A field holds what its records brought: a number among texts is a number.
    told = f"A field of the kind {field.kind}"
    return {"description": told if not field.several else f"{told}; one value or several"}


def _list_schema(known: Known) -> dict[str, Any]:
    passage = _object(field=_TEXT, start=_COUNT, end=_COUNT, text=_TEXT, marks=_STRETCHES)
    result = _object(
        rank=_COUNT,
        key=_TEXT,
        fields={"$ref": "#/components/schemas/Fields"},
        marks={"type": "object", "additionalProperties": _STRETCHES},
        passages={"type": "array", "items": passage},
        others=_COUNT,
    )
    # Where they were asked for, of rows that are pages.
    result["properties"]["hits"] = {"type": "array", "items": {"$ref": "#/components/schemas/Hit"}}
    values = {"type": "array", "items": _object(value=_TEXT, count=_COUNT)}
    return _object(
        query_id={"type": "string", "format": "uuid"},
        ranker=_object(name=_TEXT, version={"type": "integer", "minimum": 1}),
        found=_COUNT,
        rows=_COUNT,
        results={"type": "array", "items": result},
        facets={
            "type": "object",
            "propertyNames": {"enum": list(known.audience.shown)},
            "additionalProperties": values,
        },
        did_you_mean={"anyOf": [{"$ref": "#/components/schemas/Meant"}, {"type": "null"}]},
        notes={"type": "array", "items": _TEXT},
        nearly={"anyOf": [_nearly_schema(), {"type": "null"}]},
        left_out={"type": "array", "items": _TEXT, "description": "What there was no time for"},
        elapsed_ms={"type": "number"},
    )


def _about_schema() -> dict[str, Any]:
    """How a page shows what it finds."""
    names = {"type": "array", "items": _TEXT}
    field = _object(field=_TEXT, length={"enum": ["line", "short", "whole"]})
    named = {"type": ["string", "null"]}
    return _object(
        title=named,
        picture=named,
        fields={"type": "array", "items": field},
        facets=names,
        sorts=names,
        pages={"type": "boolean"},
    )


def _hit_schema() -> dict[str, Any]:
    """Something that a query matched on a page."""
    return _object(
        start=_COUNT,
        end=_COUNT,
        boxes={"type": "array", "items": _BOX},
        before=_TEXT,
        letters=_TEXT,
        after=_TEXT,
    )


def _page_schema() -> dict[str, Any]:
    """A page with where its words stand."""
    number, named = {"type": "number"}, {"type": ["string", "null"]}
    sure = {"type": ["number", "null"]}
    word = {
        "type": "array",
        "prefixItems": [_COUNT, _COUNT, number, number, number, number, _COUNT, sure],
        "items": False,
    }
    beside = _object(key=_TEXT, label=_TEXT, picture=named, hits=_COUNT)
    return _object(
        key=_TEXT,
        title=_TEXT,
        thing=named,
        label=_TEXT,
        text=_TEXT,
        picture=named,
        width=number,
        height=number,
        words={"type": "array", "items": word},
        hits={"type": "array", "items": {"$ref": "#/components/schemas/Hit"}},
        beside={"type": "array", "items": beside},
    )


def _nearly_schema() -> dict[str, Any]:
    """What nearly fits a query that finds nothing."""
    return _object(
        query=_TEXT, dropped={"type": "array", "items": _TEXT}, without_filters={"type": "boolean"}, found=_COUNT
    )


def _lists(name: str, says: str, fields: list[str]) -> dict[str, Any]:
    told = {"$ref": "#/components/schemas/List"}
    either = fields + [f"-{name}" for name in fields]
    asked = [
        *_some("query", "language", "top", "skip", "as_said", "hits", "session", "time_ms"),
        _several("filter", "FIELD:VALUE; values of one field: any of them", _TEXT),
        _several("range", "FIELD:LOW..HIGH; either may be missing", _TEXT),
        _several("facet", "FIELD, or FIELD:WIDTH of numbers in stretches", _TEXT),
        _several("sort", "A field instead of relevance, with - for the greatest first", {"enum": either}),
        {
            "name": "passages",
            "in": "query",
            "description": "The best passage of each row, so many letters long",
            "schema": {"type": "integer", "minimum": 40, "maximum": 10_000},
        },
    ]
    get = _operation(name, says, told, asked)
    post = _operation(f"{name}_by_body", says, told, [], body="ListAsked")
    for one in (get, post):
        content = one["responses"]["200"]["content"]
        content |= {CSV: {"schema": _TEXT}, JSON_LINES: {"schema": _TEXT}}
        one["responses"]["406"] = _problem("Wanted in a form that there is none of")
    return {"get": get, "post": post}


def _event() -> dict[str, Any]:
    told = _operation("event", "What somebody did with a row of a list: kept once it is answered", {}, [], "EventTold")
    told["responses"]["204"] = {"description": "Kept, or known already"}
    del told["responses"]["200"]
    return told


def _some(*names: str, of: type[BaseModel] = ListAsked) -> list[dict[str, Any]]:
    """Parameters of an address as a model has them."""
    known: dict[str, Any] = of.model_json_schema()["properties"]
    return [{"name": name, "in": "query", "schema": known[name]} for name in names]


def _required(name: str) -> dict[str, Any]:
    return {"name": name, "in": "query", "required": True, "schema": _TEXT}


def _several(name: str, says: str, schema: dict[str, Any]) -> dict[str, Any]:
    return {
        "name": name,
        "in": "query",
        "description": says,
        "explode": True,
        "schema": {"type": "array", "items": schema},
    }


def _problem(says: str) -> dict[str, Any]:
    return {"description": says, "content": {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}}


def _operation(
    name: str, says: str, told: dict[str, Any], asked: list[dict[str, Any]], body: str | None = None
) -> dict[str, Any]:
    responses = {"200": {"description": "OK", "content": {JSON: {"schema": told}}}}
    responses |= {status: _problem(means) for status, means in (_PROBLEMS | (_OF_BODIES if body else {})).items()}
    operation: dict[str, Any] = {"operationId": name, "summary": says, "parameters": asked, "responses": responses}
    if body is not None:
        schema = {"schema": {"$ref": f"#/components/schemas/{body}"}}
        operation["requestBody"] = {"required": True, "content": {JSON: schema}}
    return operation
