"""OAI-PMH by key: harvesters get records in Dublin Core, what changed since a moment, and what went."""

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Final
from urllib.parse import parse_qsl, quote, unquote

from starlette.requests import Request
from starlette.responses import Response

from pale_harbor.api.delivery.by_key import ByKey, body_of, token_of
from pale_harbor.formats.dublin_core import dublin_core_of, values_in_dublin_core
from pale_harbor.formats.oai import (
    PREFIX,
    OaiAnswer,
    OaiFault,
    OaiRecord,
    Place,
    Resumption,
    check_arguments,
    place_of_token,
    span_of,
)
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.harvested import HarvestedRecord
from pale_harbor.work.delivery.known import Known

_MEDIA_TYPE: Final = "text/xml"


async def harvested(by: ByKey, request: Request) -> Response:
    """What a harvester asks."""

    async def work(known: Known, headers: dict[str, str]) -> Response:
        said = [one for one in request.query_params.multi_items() if one[0] != "key"]
        if request.method == "POST":
            body = (await body_of(request)).decode("utf-8", "replace")
            said += parse_qsl(body, keep_blank_values=True, max_num_fields=100)
        asking = _Asking(by.delivery, known, request)
        content = await by.in_thread(lambda: asking.answer([(name, value.replace("\x00", "")) for name, value in said]))
        return Response(content, headers=headers, media_type=_MEDIA_TYPE)

    return await by.answer(request, work)


class _Asking:
    """One request."""

    def __init__(self, delivery: Delivery, known: Known, request: Request) -> None:
        self._delivery, self._known = delivery, known
        token, collection = quote(token_of(request) or "", safe=""), quote(known.key.collection, safe="")
        self._base = f"{str(request.base_url).rstrip('/')}/v1/{collection}/keys/{token}/oai"
        self._host = request.url.hostname or "localhost"
        shown = [one for one in known.fields if one.name in known.audience.shown]
        self._elements = dublin_core_of([(one.name, one.role) for one in shown])

    def answer(self, said: list[tuple[str, str]]) -> bytes:
        now = datetime.now(tz=UTC)
        try:
            verb, told = check_arguments(said)
        except OaiFault as fault:
            return OaiAnswer(now, self._base, {}).fault(fault)
        writing = OaiAnswer(now, self._base, {"verb": verb, **told})
        try:
            return self._answered(writing, verb, told)
        except OaiFault as fault:
            return writing.fault(fault)

    def _answered(self, writing: OaiAnswer, verb: str, told: Mapping[str, str]) -> bytes:
        if told.get("metadataPrefix", PREFIX) != PREFIX:
            raise OaiFault("cannotDisseminateFormat", f"Records are told as {PREFIX}.")
        if "set" in told or verb == "ListSets":
            raise OaiFault("noSetHierarchy", "The records here are not in sets.")
        match verb:
            case "Identify":
                begun = self._delivery.harvesting.begun(self._known) or datetime.now(tz=UTC)
                return writing.identify(self._known.key.collection, self._base, self._email(), begun)
            case "ListMetadataFormats":
                if "identifier" in told:
                    self._record(told["identifier"])
                return writing.formats()
            case "GetRecord":
                return writing.records(verb, [self._written(self._record(told["identifier"]))], None)
            case _:
                return self._list(writing, verb, told)

    def _list(self, writing: OaiAnswer, verb: str, told: Mapping[str, str]) -> bytes:
        if "resumptionToken" in told:
            place = place_of_token(told["resumptionToken"], verb)
            since, before = place.since, place.before
            part = self._delivery.harvesting.part(
                self._known, since, before, (place.revision, place.key.replace("\x00", "")), place.up_to
            )
            before_this = place.told
        else:
            since, before = span_of(told.get("from"), told.get("until"))
            part = self._delivery.harvesting.part(self._known, since, before, (0, ""), None)
            before_this = 0
        if not part.records and part.is_last and before_this == 0:
            raise OaiFault("noRecordsMatch", "Nothing that may be seen changed then.")
        resumption = None
        if not part.is_last:
            place = Place(
                verb=verb,
                since=since,
                before=before,
                up_to=part.up_to,
                revision=part.after[0],
                key=part.after[1],
                told=before_this + len(part.records),
            )
            resumption = Resumption(place.token, before_this)
        elif before_this:
            resumption = Resumption("", before_this)
        return writing.records(verb, [self._written(one) for one in part.records], resumption)

    def _record(self, identifier: str) -> HarvestedRecord:
        key = self._key(identifier)
        found = None if key is None else self._delivery.harvesting.record(self._known, key)
        if found is None:
            raise OaiFault("idDoesNotExist", "There is no record of this identifier here.")
        return found

    def _written(self, one: HarvestedRecord) -> OaiRecord:
        said = None if one.values is None else values_in_dublin_core(one.values, self._elements)
        return OaiRecord(f"{self._before()}{quote(one.key, safe='')}", one.at, said)

    def _key(self, identifier: str) -> str | None:
        before = self._before()
        return unquote(identifier[len(before) :]).replace("\x00", "") if identifier.startswith(before) else None

    def _before(self) -> str:
        """What all identifiers begin with: they stay wherever the server is."""
        return f"oai:{self._known.key.collection}:"

    def _email(self) -> str:
        """Of whoever keeps the host (RFC 2142): the protocol wants one, and nobody's own is told."""
        return f"postmaster@{self._host if '.' in self._host else f'{self._host}.localdomain'}"
