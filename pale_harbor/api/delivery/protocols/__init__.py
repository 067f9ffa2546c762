"""The open protocols of libraries and museums, below the search endpoint and by its keys; see docs/protocols.md.

Whoever asks by such a protocol can often send no header and no parameter of its own: the key may stand in the path.
"""

from collections.abc import Awaitable, Callable
from typing import Final

from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from pale_harbor.api.delivery.by_key import ByKey, NamedRoute
from pale_harbor.api.delivery.protocols.iiif import Iiif
from pale_harbor.api.delivery.protocols.oai import harvested
from pale_harbor.api.delivery.protocols.sru import searched

_BEFORE: Final = ("/v1/{collection}", "/v1/{collection}/keys/{key}")
_READING: Final = ["GET", "HEAD", "OPTIONS"]


def protocol_routes(by: ByKey) -> list[Route]:
    """Where each of them is asked."""
    iiif = Iiif(by)
    routes: list[tuple[str, str, Callable[..., object], list[str]]] = [
        ("/iiif/collection", "world_iiif_collection", iiif.collection, _READING),
        ("/iiif/collection/{part:int}", "world_iiif_part", iiif.part, _READING),
        ("/iiif/things/{thing:path}/manifest", "world_iiif_manifest", iiif.manifest, _READING),
        ("/iiif/things/{thing:path}/search/{version:int}", "world_iiif_search_in", iiif.search, _READING),
        ("/iiif/things/{thing:path}/autocomplete/{version:int}", "world_iiif_words_in", iiif.autocomplete, _READING),
        ("/iiif/search/{version:int}", "world_iiif_search", iiif.search, _READING),
        ("/iiif/autocomplete/{version:int}", "world_iiif_words", iiif.autocomplete, _READING),
        ("/iiif/pages/{record:path}/text", "world_iiif_text", iiif.text, _READING),
        ("/iiif/images/{path:path}", "world_iiif_image", iiif.image, _READING),
        ("/sru", "world_sru", _of(by, searched), [*_READING, "POST"]),
        ("/oai", "world_oai", _of(by, harvested), [*_READING, "POST"]),
    ]
    return [
        NamedRoute(f"{before}{path}", asked, methods=methods, name=name)
        for before in _BEFORE
        for path, name, asked, methods in routes
    ]


def _of(by: ByKey, work: Callable[[ByKey, Request], Awaitable[Response]]) -> Callable[[Request], Awaitable[Response]]:
    async def asked(request: Request) -> Response:
        return await work(by, request)

    return asked
