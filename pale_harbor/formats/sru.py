"""SRU: how catalogues ask over HTTP, and how they are answered (OASIS, "searchRetrieve: Part 3. APD Binding for SRU
2.0", "Part 6. Scan", "Part 7. Explain"; versions 1.1 and 1.2 of the Library of Congress for those who ask so)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final
from xml.etree.ElementTree import Element, SubElement, register_namespace, tostring

from pale_harbor.formats.xml_letters import as_xml_letters

DC_SCHEMA: Final = "info:srw/schema/1/dc-v1.1"
# As whoever asks may name it.
DC_NAMES: Final = ("dc", DC_SCHEMA)
ESCAPINGS: Final = ("xml", "string")
_DC: Final = "http://purl.org/dc/elements/1.1/"
_SRW_DC: Final = "info:srw/schema/1/dc-schema"
_ZEEREX: Final = "http://explain.z3950.org/dtd/2.0/"
_DIAGNOSTIC: Final = "info:srw/diagnostic/1/"
_PRECISION: Final = "info:srw/vocabulary/resultCountPrecision/1/exact"
for _prefix, _uri in (
    ("dc", _DC),
    ("srw_dc", _SRW_DC),
    ("zr", _ZEEREX),
    ("sruResponse", "http://docs.oasis-open.org/ns/search-ws/sruResponse"),
    ("diag", "http://docs.oasis-open.org/ns/search-ws/diagnostic"),
    ("scan", "http://docs.oasis-open.org/ns/search-ws/scan"),
    ("srw", "http://www.loc.gov/zing/srw/"),
    ("diagnostic", "http://www.loc.gov/zing/srw/diagnostic/"),
):
    register_namespace(_prefix, _uri)


@dataclass(frozen=True, slots=True)
class Dialect:
    """What differs between versions. version: told in answers, None where they tell none."""

    version: str | None
    response: str
    scan: str
    explain: str
    diagnostic: str
    packing: str


_SRW: Final = "http://www.loc.gov/zing/srw/"
_SEARCH_WS: Final = "http://docs.oasis-open.org/ns/search-ws/"
DIALECTS: Final[Mapping[str, Dialect]] = {
    "2.0": Dialect(
        None,
        f"{_SEARCH_WS}sruResponse",
        f"{_SEARCH_WS}scan",
        f"{_SEARCH_WS}sruResponse",
        f"{_SEARCH_WS}diagnostic",
        "recordXMLEscaping",
    ),
    **{
        version: Dialect(version, _SRW, _SRW, _SRW, f"{_SRW}diagnostic/", "recordPacking") for version in ("1.1", "1.2")
    },
}


@dataclass(frozen=True, slots=True)
class Diagnostic:
    """What went wrong: the number of a diagnostic, what it is about, and in words."""

    number: int
    about: str
    message: str


@dataclass(frozen=True, slots=True)
class RecordTold:
    """A record: its key, its place in the list from 1, and what it says in Dublin Core."""

    key: str
    position: int
    said: Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListTold:
    """A part of a list. next_position: of the first record after it, None where it is the last; echoed: what was
    asked."""

    found: int
    records: Sequence[RecordTold]
    next_position: int | None
    echoed: Sequence[tuple[str, str]]
    escaping: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ServerTold:
    """What can be asked. indexes: names with their sets, each with its title; relations,
    modifiers: of the query language."""

    host: str
    port: int
    database: str
    title: str
    description: str
    indexes: Sequence[tuple[str, str, str]]
    relations: Sequence[str]
    modifiers: Sequence[str]
    most: int
    usual: int


def search_response(dialect: Dialect, told: ListTold | None, diagnostics: Sequence[Diagnostic]) -> bytes:
    """A part of a list, or none where it could not be made."""
    ns = f"{{{dialect.response}}}"
    root = _root(dialect, dialect.response, "searchRetrieveResponse")
    SubElement(root, f"{ns}numberOfRecords").text = str(0 if told is None else told.found)
    if told is not None and told.records:
        records = SubElement(root, f"{ns}records")
        for one in told.records:
            _record(records, ns, dialect, one, told.escaping)
    if told is not None and told.next_position is not None:
        SubElement(root, f"{ns}nextRecordPosition").text = str(told.next_position)
    if told is not None:
        echoed = SubElement(root, f"{ns}echoedSearchRetrieveRequest")
        for name, value in told.echoed:
            SubElement(echoed, f"{ns}{name}").text = as_xml_letters(value)
    _add_diagnostics(root, ns, dialect, diagnostics)
    if dialect.version is None and told is not None:
        SubElement(root, f"{ns}resultCountPrecision").text = _PRECISION
    return _written(root)


def scan_response(dialect: Dialect, terms: Sequence[tuple[str, int]], diagnostics: Sequence[Diagnostic]) -> bytes:
    """Terms of an index in their order, each with how many records hold it."""
    ns = f"{{{dialect.scan}}}"
    root = _root(dialect, dialect.scan, "scanResponse")
    if terms:
        listed = SubElement(root, f"{ns}terms")
        for word, count in terms:
            own = SubElement(listed, f"{ns}term")
            SubElement(own, f"{ns}value").text = as_xml_letters(word)
            SubElement(own, f"{ns}numberOfRecords").text = str(count)
    _add_diagnostics(root, ns, dialect, diagnostics)
    return _written(root)


def explain_response(dialect: Dialect, told: ServerTold, diagnostics: Sequence[Diagnostic]) -> bytes:
    """What can be asked, as ZeeRex says it."""
    ns = f"{{{dialect.explain}}}"
    root = _root(dialect, dialect.explain, "explainResponse")
    record = SubElement(root, f"{ns}record")
    SubElement(record, f"{ns}recordSchema").text = _ZEEREX
    SubElement(record, f"{ns}{dialect.packing}").text = "xml"
    data = SubElement(record, f"{ns}recordData")
    data.append(_explained(dialect, told))
    _add_diagnostics(root, ns, dialect, diagnostics)
    return _written(root)


def _explained(dialect: Dialect, told: ServerTold) -> Element:
    zr = f"{{{_ZEEREX}}}"
    explain = Element(f"{zr}explain")
    server = SubElement(explain, f"{zr}serverInfo", protocol="SRU", version=dialect.version or "2.0")
    SubElement(server, f"{zr}host").text = told.host
    SubElement(server, f"{zr}port").text = str(told.port)
    SubElement(server, f"{zr}database").text = told.database
    about = SubElement(explain, f"{zr}databaseInfo")
    SubElement(about, f"{zr}title", primary="true").text = as_xml_letters(told.title)
    SubElement(about, f"{zr}description").text = as_xml_letters(told.description)
    indexes = SubElement(explain, f"{zr}indexInfo")
    SubElement(indexes, f"{zr}set", name="cql", identifier="info:srw/context-set/1/cql-v1.2")
    SubElement(indexes, f"{zr}set", name="dc", identifier="info:srw/context-set/1/dc-v1.1")
    SubElement(indexes, f"{zr}set", name="fields", identifier="urn:pale-harbor:fields")
    for name, of_set, title in told.indexes:
        # What the search reads on the whole has no terms in an order.
        is_field = "false" if of_set == "cql" else "true"
        index = SubElement(indexes, f"{zr}index", search="true", scan=is_field, sort=is_field)
        SubElement(index, f"{zr}title").text = as_xml_letters(title)
        mapped = SubElement(index, f"{zr}map")
        SubElement(mapped, f"{zr}name", set=of_set).text = as_xml_letters(name)
    schemas = SubElement(explain, f"{zr}schemaInfo")
    schema = SubElement(schemas, f"{zr}schema", name="dc", identifier=DC_SCHEMA)
    SubElement(schema, f"{zr}title").text = "Dublin Core"
    settings = SubElement(explain, f"{zr}configInfo")
    SubElement(settings, f"{zr}default", type="numberOfRecords").text = str(told.usual)
    SubElement(settings, f"{zr}setting", type="maximumRecords").text = str(told.most)
    for kind, names in (("relation", told.relations), ("relationModifier", told.modifiers)):
        for name in names:
            SubElement(settings, f"{zr}supports", type=kind).text = name
    return explain


def _root(dialect: Dialect, uri: str, name: str) -> Element:
    root = Element(f"{{{uri}}}{name}")
    if dialect.version is not None:
        SubElement(root, f"{{{uri}}}version").text = dialect.version
    return root


def _record(records: Element, ns: str, dialect: Dialect, one: RecordTold, escaping: str) -> None:
    record = SubElement(records, f"{ns}record")
    SubElement(record, f"{ns}recordSchema").text = DC_SCHEMA
    SubElement(record, f"{ns}{dialect.packing}").text = escaping
    data = SubElement(record, f"{ns}recordData")
    said = Element(f"{{{_SRW_DC}}}dc")
    for element, value in one.said:
        SubElement(said, f"{{{_DC}}}{element}").text = as_xml_letters(value)
    if escaping == "xml":
        data.append(said)
    else:
        data.text = tostring(said, encoding="unicode")
    SubElement(record, f"{ns}recordIdentifier").text = as_xml_letters(one.key)
    SubElement(record, f"{ns}recordPosition").text = str(one.position)


def _add_diagnostics(root: Element, ns: str, dialect: Dialect, diagnostics: Sequence[Diagnostic]) -> None:
    if not diagnostics:
        return
    listed = SubElement(root, f"{ns}diagnostics")
    own = f"{{{dialect.diagnostic}}}"
    for one in diagnostics:
        told = SubElement(listed, f"{own}diagnostic")
        SubElement(told, f"{own}uri").text = f"{_DIAGNOSTIC}{one.number}"
        SubElement(told, f"{own}details").text = as_xml_letters(one.about)
        SubElement(told, f"{own}message").text = as_xml_letters(one.message)


def _written(root: Element) -> bytes:
    return tostring(root, encoding="utf-8", xml_declaration=True)
