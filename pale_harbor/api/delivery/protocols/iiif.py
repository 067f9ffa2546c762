"""IIIF by key: collections, manifests, the text of pages, parts of pictures, and Content Search."""

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, Final
from urllib.parse import quote, unquote, urlencode

from starlette.requests import Request
from starlette.responses import RedirectResponse, Response

from pale_harbor.api.delivery.asked import ListAsked, read_as
from pale_harbor.api.delivery.by_key import ByKey, Refused, token_of
from pale_harbor.api.delivery.shown import as_json
from pale_harbor.api.problems import Problem
from pale_harbor.api.ranking.models import DEEPEST_ROW
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.iiif.addresses import Addresses
from pale_harbor.formats.iiif.content_search import (
    PASSED_OVER,
    HitsTold,
    HitTold,
    TermTold,
    search_1,
    search_2,
    terms_1,
    terms_2,
)
from pale_harbor.formats.iiif.image import image_information, part_asked
from pale_harbor.formats.iiif.presentation import (
    CanvasTold,
    LineTold,
    collection,
    collection_of_parts,
    manifest,
    part_of_collection,
    text_of_page,
)
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.paged import FoundPages, VisitorPage, lines_of, same_on_all, thing_title

_THINGS_AT_ONCE: Final = 1_000
# Pages whose hits one answer tells.
_PAGES_AT_ONCE: Final = 50
_MOST_TERMS: Final = 20
_WORD: Final = re.compile(r"\w+")
_SEARCHES: Final[dict[int, Callable[[HitsTold], dict[str, Any]]]] = {1: search_1, 2: search_2}
_TERMS: Final[dict[int, Callable[[str, Sequence[TermTold], Sequence[str]], dict[str, Any]]]] = {1: terms_1, 2: terms_2}
_PRESENTATION: Final = "http://iiif.io/api/presentation/3/context.json"
_IMAGE: Final = "http://iiif.io/api/image/3/context.json"
_OF_SEARCH: Final = {1: "http://iiif.io/api/search/1/context.json", 2: "http://iiif.io/api/search/2/context.json"}


class Iiif:
    """What viewers ask."""

    def __init__(self, by: ByKey) -> None:
        self._by, self._delivery = by, by.delivery

    async def collection(self, request: Request) -> Response:
        """All things, or the parts of the list where there are many."""

        def work(known: Known) -> Response:
            addresses, title = _addresses(request, known), known.key.collection
            things, found = self._delivery.paged.things(known, _THINGS_AT_ONCE, 0)
            if found > _THINGS_AT_ONCE:
                return _told(collection_of_parts(addresses, title, -(-found // _THINGS_AT_ONCE)), _PRESENTATION)
            return _told(collection(addresses, title, [(one.name, one.title) for one in things]), _PRESENTATION)

        return await self._answered(request, work)

    async def part(self, request: Request) -> Response:
        """One of these parts."""

        def work(known: Known) -> Response:
            part: int = request.path_params["part"]
            if part < 1:
                raise NotFound("The first part is 1.")
            things, _ = self._delivery.paged.things(known, _THINGS_AT_ONCE, (part - 1) * _THINGS_AT_ONCE)
            named = [(one.name, one.title) for one in things]
            told = part_of_collection(_addresses(request, known), known.key.collection, part, named)
            return _told(told, _PRESENTATION)

        return await self._answered(request, work)

    async def manifest(self, request: Request) -> Response:
        """A thing with its pages."""

        def work(known: Known) -> Response:
            thing: str = request.path_params["thing"]
            pages = self._delivery.paged.pages_of(known, thing)
            roles = [field.name for field in known.fields if field.role is not None]
            told = {name: _text(value) for name, value in same_on_all(pages, roles).items()}
            canvases = [_canvas(page) for page in pages]
            addresses = _addresses(request, known)
            return _told(manifest(addresses, thing, thing_title(pages), told, canvases), _PRESENTATION)

        return await self._answered(request, work)

    async def text(self, request: Request) -> Response:
        """What was read on a page, line by line."""

        def work(known: Known) -> Response:
            key: str = request.path_params["record"]
            page, places = self._delivery.paged.page(known, key)
            lines = [
                LineTold(letters, (box.x, box.y, box.width, box.height)) for letters, box in lines_of(page.text, places)
            ]
            return _told(text_of_page(_addresses(request, known), key, lines), _PRESENTATION)

        return await self._answered(request, work)

    async def image(self, request: Request) -> Response:
        """A part of a picture, or what there is to know of it."""
        raw = request.scope.get("raw_path", b"").decode("ascii", "replace").partition("?")[0]
        path = raw.partition("/iiif/images/")[2] or quote(request.path_params["path"])

        def work(known: Known) -> Response:
            own = _addresses(request, known)
            said = part_asked(path)
            if said is None:
                # The address of a picture itself leads to what there is to know of it.
                name = unquote(path)
                self._delivery.picture(known, name)
                return RedirectResponse(f"{own.image(name)}/info.json", 303)
            name, part = said
            if part is None:
                width, height = self._delivery.picture_size(known, name)
                return _told(image_information(own.image(name), width, height), _IMAGE)
            made = self._delivery.picture_part(known, name, part)
            profile = '<http://iiif.io/api/image/3/level1.json>;rel="profile"'
            headers = {"Cache-Control": "private, max-age=3600", "Link": profile}
            return Response(made.content, headers=headers, media_type=made.media_type)

        return await self._answered(request, work)

    async def search(self, request: Request) -> Response:
        """What was found, as annotations."""

        def work(known: Known) -> Response:
            version = _version(request)
            thing: str | None = request.path_params.get("thing")
            asked = _query(request)
            addresses = _addresses(request, known)
            skip, first = (_count(request, name) for name in ("skip", "first"))
            # A viewer cannot be told that another query was taken for it.
            wanted = replace(asked.wanted(is_typed=False), as_said=True)
            found = self._delivery.pages_found(known, wanted, thing, _PAGES_AT_ONCE, skip)
            own = addresses.search(version, thing)
            hits = [
                HitTold(addresses.canvas(one.page.key), one.page.width, one.page.height, hit)
                for one in found.pages
                for hit in one.hits
            ]
            told = HitsTold(
                address=f"{own}?{request.url.query}",
                whole=f"{own}?{urlencode({'q': asked.query})}",
                next_part=None,
                first=first,
                ignored=[name for name in PASSED_OVER if name in request.query_params],
                hits=hits,
            )
            if skip + _PAGES_AT_ONCE < found.found:
                after = {"q": asked.query, "skip": skip + _PAGES_AT_ONCE, "first": first + told.annotations}
                told = replace(told, next_part=f"{own}?{urlencode(after)}")
            return _told(_SEARCHES[version](told), _OF_SEARCH[version])

        return await self._answered(request, work)

    async def autocomplete(self, request: Request) -> Response:
        """Words that stand there and begin so."""

        def work(known: Known) -> Response:
            version = _version(request)
            thing: str | None = request.path_params.get("thing")
            typed = _query(request).query.split()[-1].strip("*")
            addresses = _addresses(request, known)
            # Whatever the ranker makes of a query that is being typed: words that begin so.
            asked = replace(ListAsked(query=f"{typed}*").wanted(is_typed=True), as_said=True)
            found = self._delivery.pages_found(known, asked, thing, _PAGES_AT_ONCE, 0)
            own = addresses.search(version, thing)
            terms = [
                TermTold(word, count, f"{own}?{urlencode({'q': word}, quote_via=quote)}")
                for word, count in _beginning(found, typed)
            ]
            ignored = [name for name in PASSED_OVER if name in request.query_params]
            address = f"{addresses.autocomplete(version, thing)}?{request.url.query}"
            return _told(_TERMS[version](address, terms, ignored), _OF_SEARCH[version])

        return await self._answered(request, work)

    async def _answered(self, request: Request, work: Callable[[Known], Response]) -> Response:
        async def answered(known: Known, headers: dict[str, str]) -> Response:
            try:
                answer = await self._by.in_thread(lambda: work(known))
            except BadInput as error:
                # The status that these standards name.
                raise Refused(Problem(title="Cannot be answered", status=400, detail=str(error))) from error
            for name, value in headers.items():
                answer.headers.setdefault(name, value)
            return answer

        return await self._by.answer(request, answered)


def _addresses(request: Request, known: Known) -> Addresses:
    """Of this collection, with the key that was shown in them: whoever follows them need show nothing more."""
    token = quote(token_of(request) or "", safe="")
    collection_name = quote(known.key.collection, safe="")
    return Addresses(f"{str(request.base_url).rstrip('/')}/v1/{collection_name}/keys/{token}/iiif")


def _told(told: dict[str, Any], profile: str) -> Response:
    return Response(as_json(told), media_type=f'application/ld+json;profile="{profile}"')


def _canvas(page: VisitorPage) -> CanvasTold:
    has_dots = page.picture_type not in (None, "image/svg+xml")
    return CanvasTold(
        key=page.key,
        label=page.label,
        width=page.width,
        height=page.height,
        picture=page.picture if has_dots else None,
        picture_type=page.picture_type,
        has_text=page.reference is not None,
    )


def _text(value: Any) -> str:
    return "; ".join(str(one) for one in value) if isinstance(value, list) else str(value)


def _version(request: Request) -> int:
    version: int = request.path_params["version"]
    if version not in _SEARCHES:
        raise NotFound("Content Search is answered here by versions 1 and 2.")
    return version


def _query(request: Request) -> ListAsked:
    said = request.query_params.get("q", "")
    if not said.strip():
        raise BadInput('What is looked for is said by "q".')
    return read_as(ListAsked, {"query": said})


def _count(request: Request, name: str) -> int:
    said = request.query_params.get(name, "0")
    if not (said.isascii() and said.isdecimal() and len(said) < 7) or (name == "skip" and int(said) > DEEPEST_ROW):
        raise BadInput(f'"{name}" is a whole number; so deep a list does not go.')
    return int(said)


def _beginning(found: FoundPages, typed: str) -> list[tuple[str, int]]:
    """The words that were found and begin so, the most frequent first."""
    beginning = typed.casefold()
    counts: Counter[str] = Counter()
    for one in found.pages:
        for hit in one.hits:
            # What matched is the beginning alone.
            for word in _WORD.finditer(one.page.text, hit.start):
                if word.start() >= hit.end:
                    break
                if beginning and word[0].casefold().startswith(beginning):
                    counts[word[0].casefold()] += 1
    return sorted(counts.items(), key=lambda one: (-one[1], one[0]))[:_MOST_TERMS]
