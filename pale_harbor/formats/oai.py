"""OAI-PMH 2.0, as it is answered ("The Open Archives Initiative Protocol for Metadata Harvesting", version 2.0)."""

from base64 import urlsafe_b64decode, urlsafe_b64encode
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Final
from xml.etree.ElementTree import Element, SubElement, register_namespace, tostring

import orjson
from pydantic import BaseModel, ConfigDict, ValidationError

from pale_harbor.errors import BadInput
from pale_harbor.formats.xml_letters import as_xml_letters

PREFIX: Final = "oai_dc"
OAI: Final = "http://www.openarchives.org/OAI/2.0/"
_OAI_DC: Final = "http://www.openarchives.org/OAI/2.0/oai_dc/"
_OAI_DC_SCHEMA: Final = "http://www.openarchives.org/OAI/2.0/oai_dc.xsd"
_DC: Final = "http://purl.org/dc/elements/1.1/"
_XSI: Final = "http://www.w3.org/2001/XMLSchema-instance"
_SECOND: Final = "%Y-%m-%dT%H:%M:%SZ"
_DAY: Final = "%Y-%m-%d"
_LONGEST_TOKEN: Final = 2_000
for _prefix, _uri in (("oai", OAI), ("oai_dc", _OAI_DC), ("dc", _DC), ("xsi", _XSI)):
    register_namespace(_prefix, _uri)

# What each verb has to be told, and may be told.
VERBS: Final[Mapping[str, tuple[frozenset[str], frozenset[str]]]] = {
    "Identify": (frozenset(), frozenset()),
    "ListMetadataFormats": (frozenset(), frozenset({"identifier"})),
    "ListSets": (frozenset(), frozenset({"resumptionToken"})),
    "ListIdentifiers": (frozenset({"metadataPrefix"}), frozenset({"from", "until", "set"})),
    "ListRecords": (frozenset({"metadataPrefix"}), frozenset({"from", "until", "set"})),
    "GetRecord": (frozenset({"identifier", "metadataPrefix"}), frozenset()),
}
LISTS: Final = ("ListIdentifiers", "ListRecords")


class OaiFault(BadInput):
    """What a harvester is told where it cannot be answered. code: one of the protocol's."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


@dataclass(frozen=True, slots=True)
class OaiRecord:
    """A record. identifier: of the whole world; said: what it says in Dublin Core, None where it is gone."""

    identifier: str
    at: datetime
    said: Sequence[tuple[str, str]] | None


@dataclass(frozen=True, slots=True)
class Resumption:
    """Where a list goes on. token: "" where it does not; cursor: how many were told before this part."""

    token: str
    cursor: int


class Place(BaseModel):
    """Where a harvester is in a list: what a resumption token says. since, before: as moments; up_to: the revision that
    the list is of; revision, key: of the last record that was told; told: how many were."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    verb: str
    since: datetime | None
    before: datetime | None
    up_to: int
    revision: int
    key: str
    told: int

    @property
    def token(self) -> str:
        """As a harvester gets it, who may make nothing of it."""
        return urlsafe_b64encode(orjson.dumps(self.model_dump(mode="json"))).decode()


def place_of_token(token: str, verb: str) -> Place:
    """Where a token leads. Raises OaiFault."""
    try:
        place = Place.model_validate(orjson.loads(urlsafe_b64decode(token[:_LONGEST_TOKEN].encode())))
    except (ValueError, ValidationError) as error:
        raise OaiFault("badResumptionToken", "This token was not given out here.") from error
    if place.verb != verb or not all(0 <= one < 2**62 for one in (place.up_to, place.revision, place.told)):
        raise OaiFault("badResumptionToken", "This token was given out for another list.")
    return place


def check_arguments(said: Sequence[tuple[str, str]]) -> tuple[str, dict[str, str]]:
    """The verb and its arguments. Raises OaiFault with the protocol's own words for what is wrong."""
    verbs = [value for name, value in said if name == "verb"]
    if len(verbs) != 1 or verbs[0] not in VERBS:
        raise OaiFault("badVerb", f"One verb is said, of {', '.join(VERBS)}.")
    needed, optional = VERBS[verbs[0]]
    names = [name for name, _ in said if name != "verb"]
    twice = sorted({name for name in names if names.count(name) > 1})
    if twice:
        raise OaiFault("badArgument", f'"{twice[0][:100]}" is said twice.')
    if verbs[0] in LISTS and names == ["resumptionToken"]:
        return verbs[0], dict(one for one in said if one[0] != "verb")
    strange = [name for name in names if name not in needed | optional]
    if strange:
        raise OaiFault("badArgument", f'{verbs[0]} has no argument "{strange[0][:100]}" (beside the others).')
    missing = sorted(needed - set(names))
    if missing:
        raise OaiFault("badArgument", f"{verbs[0]} needs {' and '.join(missing)}.")
    return verbs[0], dict(one for one in said if one[0] != "verb")


def span_of(since: str | None, until: str | None) -> tuple[datetime | None, datetime | None]:
    """The moment from which on, and before which. Both are told by the day or by the second alike, `until` itself
    included. Raises OaiFault.

    >>> [str(one) for one in span_of("2026-03-01", "2026-03-01")]
    ['2026-03-01 00:00:00+00:00', '2026-03-02 00:00:00+00:00']
    """
    first, last = (None if said is None else _moment(said) for said in (since, until))
    if since is not None and until is not None and len(since) != len(until):
        raise OaiFault("badArgument", '"from" and "until" are told alike, by the day or by the second.')
    if first is not None and last is not None and first > last:
        raise OaiFault("badArgument", '"from" stands after "until".')
    if last is not None and until is not None:
        with suppress(OverflowError):
            return first, last + (timedelta(days=1) if len(until) == 10 else timedelta(seconds=1))
        # The last day there is: nothing stands behind it.
        return first, None
    return first, last


def _moment(said: str) -> datetime:
    for form in (_DAY, _SECOND):
        try:
            found = datetime.strptime(said, form).replace(tzinfo=UTC)
        except ValueError:
            continue
        if found.strftime(form) == said:
            return found
    raise OaiFault("badArgument", f'"{said[:60]}" is no moment: 2026-03-01 is, and 2026-03-01T09:30:00Z.')


class OaiAnswer:
    """An answer being written. at: when; base: where the repository is asked; said: what was asked, told again unless
    it could not be understood."""

    def __init__(self, at: datetime, base: str, said: Mapping[str, str]) -> None:
        self._root = Element(f"{{{OAI}}}OAI-PMH", {f"{{{_XSI}}}schemaLocation": f"{OAI} {OAI}OAI-PMH.xsd"})
        SubElement(self._root, f"{{{OAI}}}responseDate").text = moment_text(at)
        request = SubElement(
            self._root, f"{{{OAI}}}request", {name: as_xml_letters(value) for name, value in said.items()}
        )
        request.text = base

    def fault(self, fault: OaiFault) -> bytes:
        """That it cannot be answered."""
        SubElement(self._root, f"{{{OAI}}}error", code=fault.code).text = as_xml_letters(fault.message)
        return self._written()

    def identify(self, name: str, base: str, email: str, earliest: datetime) -> bytes:
        """What kind of repository it is."""
        own = self._verb("Identify")
        for tag, value in (
            ("repositoryName", name),
            ("baseURL", base),
            ("protocolVersion", "2.0"),
            ("adminEmail", email),
            ("earliestDatestamp", moment_text(earliest)),
            ("deletedRecord", "persistent"),
            ("granularity", "YYYY-MM-DDThh:mm:ssZ"),
        ):
            SubElement(own, f"{{{OAI}}}{tag}").text = as_xml_letters(value)
        return self._written()

    def formats(self) -> bytes:
        """In which forms records are told."""
        own = SubElement(self._verb("ListMetadataFormats"), f"{{{OAI}}}metadataFormat")
        for tag, value in (("metadataPrefix", PREFIX), ("schema", _OAI_DC_SCHEMA), ("metadataNamespace", _OAI_DC)):
            SubElement(own, f"{{{OAI}}}{tag}").text = value
        return self._written()

    def records(self, verb: str, records: Sequence[OaiRecord], resumption: Resumption | None) -> bytes:
        """Records, or their headers alone. resumption: None where all of the list is told at once."""
        own = self._verb(verb)
        for one in records:
            if verb == "ListIdentifiers":
                _header(own, one)
                continue
            record = SubElement(own, f"{{{OAI}}}record")
            _header(record, one)
            if one.said is not None:
                metadata = SubElement(record, f"{{{OAI}}}metadata")
                location = {f"{{{_XSI}}}schemaLocation": f"{_OAI_DC} {_OAI_DC_SCHEMA}"}
                said = SubElement(metadata, f"{{{_OAI_DC}}}dc", location)
                for element, value in one.said:
                    SubElement(said, f"{{{_DC}}}{element}").text = as_xml_letters(value)
        if resumption is not None:
            token = SubElement(own, f"{{{OAI}}}resumptionToken", cursor=str(resumption.cursor))
            token.text = resumption.token
        return self._written()

    def _verb(self, verb: str) -> Element:
        return SubElement(self._root, f"{{{OAI}}}{verb}")

    def _written(self) -> bytes:
        return tostring(self._root, encoding="utf-8", xml_declaration=True, default_namespace=None)


def moment_text(at: datetime) -> str:
    """A moment by the second, as the protocol writes it."""
    return at.astimezone(UTC).strftime(_SECOND)


def _header(parent: Element, one: OaiRecord) -> None:
    header = SubElement(parent, f"{{{OAI}}}header", {"status": "deleted"} if one.said is None else {})
    SubElement(header, f"{{{OAI}}}identifier").text = one.identifier
    SubElement(header, f"{{{OAI}}}datestamp").text = moment_text(one.at)
