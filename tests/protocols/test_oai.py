"""OAI-PMH: what harvesters get, by a client that is not ours; and what is harvested, from a server that is not ours."""

from collections.abc import Generator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import parse_qs, parse_qsl, urlsplit

import httpx
import orjson
import pytest
from defusedxml.ElementTree import fromstring
from oaipmh.common import Header, Identify, Metadata
from oaipmh.error import NoRecordsMatchError
from oaipmh.metadata import MetadataRegistry
from oaipmh.server import BatchingServer, oai_dc_writer
from sickle import Sickle
from sickle.oaiexceptions import (
    BadArgument,
    BadResumptionToken,
    CannotDisseminateFormat,
    IdDoesNotExist,
    NoRecordsMatch,
    NoSetHierarchy,
)

from pale_harbor.errors import BadInput
from pale_harbor.formats.oai_read import RepositoryFault, harvested_answer
from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.records.records import all_records, record_with_key
from pale_harbor.work.imports.harvesting import repository_source
from pale_harbor.work.imports.importing import ImportReport, import_now
from pale_harbor.work.imports.sources import preview
from pale_harbor.work.records.changes import put_records, remove_records
from tests.protocols.conftest import Quay
from tests.search_service import Answer, search_service

OAI = "{http://www.openarchives.org/OAI/2.0/}"
NEVER = "2000-01-01"


def harvester(address: str) -> Any:
    """A client that is not ours, which says little of what its methods take."""
    return Sickle(address)


def keys(records: Any) -> list[str]:
    return [one.header.identifier for one in records]


def change(quay: Quay, key: str, values: dict[str, Any]) -> None:
    """A record says something else from now on."""
    with quay.bench.pool.connection() as connection:
        before = record_with_key(connection, collection_named(connection, "quay"), key).field_values
    put_records(quay.bench.pool, "quay", [before | values])


def test_a_client_reads_all_records_in_the_order_of_their_changes(quay: Quay):
    client = harvester(quay.at("/oai"))
    told = client.Identify()
    assert (told.repositoryName, told.protocolVersion, told.deletedRecord) == ("quay", "2.0", "persistent")
    assert told.granularity == "YYYY-MM-DDThh:mm:ssZ"
    assert [one.metadataPrefix for one in client.ListMetadataFormats()] == ["oai_dc"]
    records = list(client.ListRecords(metadataPrefix="oai_dc"))
    assert keys(records) == ["oai:quay:letters%2Fa%20b.xml", *(f"oai:quay:log%2F{page}.xml" for page in (1, 10, 2))]
    assert records[0].metadata["creator"] == ["Ruth"]
    assert records[0].metadata["title"] == ["Letters home, page 1"]
    assert "places" not in str(records[0].metadata)
    assert keys(client.ListRecords(metadataPrefix="oai_dc")) == [
        one.identifier for one in client.ListIdentifiers(metadataPrefix="oai_dc")
    ]
    one = client.GetRecord(identifier="oai:quay:log%2F2.xml", metadataPrefix="oai_dc")
    assert one.metadata["date"] == ["1846"]


def test_what_changed_and_what_went_is_told_from_a_moment_on(quay: Quay):
    client = harvester(quay.at("/oai"))
    # As if all of it had been read in a day ago.
    with quay.bench.pool.connection() as connection:
        connection.execute("update record_revisions set at = at - interval '1 day'")
    now = datetime.now(tz=UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    with pytest.raises(NoRecordsMatch):
        list(client.ListRecords(**{"metadataPrefix": "oai_dc", "from": now}))
    change(quay, "log/2.xml", {"maker": "Orla Fenn", "year": 1847})
    remove_records(quay.bench.pool, "quay", ["log/10.xml"])
    changed = list(client.ListRecords(**{"metadataPrefix": "oai_dc", "from": now}))
    assert [(one.header.identifier, one.header.deleted) for one in changed] == [
        ("oai:quay:log%2F2.xml", False),
        ("oai:quay:log%2F10.xml", True),
    ]
    assert changed[0].metadata["date"] == ["1847"]
    gone = client.GetRecord(identifier="oai:quay:log%2F10.xml", metadataPrefix="oai_dc")
    assert gone.header.deleted
    yesterday = (datetime.now(tz=UTC) - timedelta(days=1)).strftime("%Y-%m-%d")
    before = keys(client.ListRecords(metadataPrefix="oai_dc", until=yesterday))
    assert before == ["oai:quay:letters%2Fa%20b.xml", "oai:quay:log%2F1.xml"]


def test_long_lists_come_in_parts_that_lead_on(quay: Quay, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.work.delivery.harvested._AT_ONCE", 3)
    address = quay.at("/oai")
    client = harvester(address)
    assert len(set(keys(client.ListRecords(metadataPrefix="oai_dc")))) == 4
    answer = fromstring(httpx.get(f"{address}?verb=ListIdentifiers&metadataPrefix=oai_dc").content)
    token = answer.find(f".//{OAI}resumptionToken")
    assert token is not None
    assert token.get("cursor") == "0"
    # What changes meanwhile is told with the next list, and nothing that was there is passed over.
    change(quay, "log/1.xml", {"maker": "somebody else"})
    rest = fromstring(
        httpx.get(address, params={"verb": "ListIdentifiers", "resumptionToken": token.text or ""}).content
    )
    assert [one.text for one in rest.iter(f"{OAI}identifier")] == ["oai:quay:log%2F2.xml"]
    (last,) = rest.iter(f"{OAI}resumptionToken")
    assert (last.text, last.get("cursor")) == (None, "3")
    # A token is good for the list that it was given out with.
    for wrong in ("nonsense", "!!!", ""):
        with pytest.raises(BadResumptionToken):
            list(client.ListRecords(resumptionToken=wrong))
    with pytest.raises(BadResumptionToken):
        list(client.ListRecords(resumptionToken=token.text))


def test_what_cannot_be_answered_is_told_by_the_codes_of_the_protocol(quay: Quay):
    address = quay.at("/oai")
    client = harvester(address)
    with pytest.raises(CannotDisseminateFormat):
        client.ListRecords(metadataPrefix="mods")
    with pytest.raises(NoSetHierarchy):
        client.ListRecords(metadataPrefix="oai_dc", set="letters")
    with pytest.raises(NoSetHierarchy):
        client.ListSets()
    for unknown in ("oai:quay:nothing", "oai:other:log%2F1.xml", "log/1.xml"):
        with pytest.raises(IdDoesNotExist):
            client.GetRecord(identifier=unknown, metadataPrefix="oai_dc")
    with pytest.raises(BadArgument):
        client.ListRecords()
    for wrong in ("1846", "2026-02-30", "2026-01-01T10:00Z", "yesterday"):
        with pytest.raises(BadArgument):
            client.ListRecords(**{"metadataPrefix": "oai_dc", "from": wrong})
    with pytest.raises(BadArgument):
        client.ListRecords(**{"metadataPrefix": "oai_dc", "from": "2026-01-02", "until": "2026-01-01"})
    with pytest.raises(BadArgument):
        client.ListRecords(**{"metadataPrefix": "oai_dc", "from": "2026-01-01", "until": "2026-01-02T00:00:00Z"})
    # The last day there is has no day after it.
    assert len(list(client.ListRecords(metadataPrefix="oai_dc", until="9999-12-31"))) == 4
    for query, code in (
        ("verb=Everything", "badVerb"),
        ("", "badVerb"),
        ("verb=Identify&verb=Identify", "badVerb"),
        ("verb=Identify&wish=1", "badArgument"),
        ("verb=ListRecords&metadataPrefix=oai_dc&metadataPrefix=oai_dc", "badArgument"),
    ):
        root = fromstring(httpx.get(f"{address}?{query}").content)
        assert [one.get("code") for one in root.iter(f"{OAI}error")] == [code], query
        request = root.find(f"{OAI}request")
        assert request is not None
        # What could not be understood is not told again.
        assert request.attrib == {}


def test_records_that_a_key_may_no_more_see_are_gone_for_it(quay: Quay):
    ruths = {"filters": [{"field": "maker", "one_of": ["Ruth"]}], "shown": ["title"]}
    client = harvester(quay.at("/oai", ruths))
    assert keys(client.ListRecords(metadataPrefix="oai_dc")) == ["oai:quay:letters%2Fa%20b.xml"]
    assert set(client.GetRecord(identifier="oai:quay:letters%2Fa%20b.xml", metadataPrefix="oai_dc").metadata) == {
        "title"
    }
    with pytest.raises(IdDoesNotExist):
        client.GetRecord(identifier="oai:quay:log%2F1.xml", metadataPrefix="oai_dc")
    # One that was never to be seen is not told of when it goes, one that was is.
    remove_records(quay.bench.pool, "quay", ["log/1.xml"])
    change(quay, "letters/a b.xml", {"maker": "Hester"})
    told = list(client.ListRecords(metadataPrefix="oai_dc"))
    assert [(one.header.identifier, one.header.deleted) for one in told] == [("oai:quay:letters%2Fa%20b.xml", True)]


class Archive:
    """A repository of somebody else's, for the package that serves it. held: by identifier, when it was changed and
    what it says, None where it is gone."""

    def __init__(self) -> None:
        self.held: dict[str, tuple[datetime, dict[str, list[str]] | None]] = {}
        self.granularity = "YYYY-MM-DDThh:mm:ssZ"
        self.asked: list[dict[str, str]] = []

    def put(self, identifier: str, at: str, said: dict[str, list[str]] | None) -> None:
        self.held[identifier] = (datetime.fromisoformat(at), said)

    def identify(self) -> Any:
        first = min((at for at, _ in self.held.values()), default=datetime(2020, 1, 1))  # noqa: DTZ001
        return Identify(
            "Archive",
            "http://archive.example/oai",
            "2.0",
            ["a@archive.example"],
            first,
            "transient",
            self.granularity,
            [],
        )

    def listRecords(  # noqa: N802 - the names are the package's
        self,
        metadataPrefix: str,  # noqa: N803
        set: str | None = None,
        from_: datetime | None = None,
        until: datetime | None = None,
        cursor: int = 0,
        batch_size: int = 10,
    ) -> list[Any]:
        chosen = [
            (identifier, at, said)
            for identifier, (at, said) in sorted(self.held.items())
            if (from_ is None or at >= from_) and (until is None or at <= until)
        ]
        if not chosen:
            raise NoRecordsMatchError("nothing changed")
        return [
            (Header(None, identifier, at, [], said is None), None if said is None else Metadata(None, said), None)
            for identifier, at, said in chosen[cursor : cursor + batch_size]
        ]

    def answer(self, command: str, path: str, headers: dict[str, str], body: bytes) -> Answer:
        said = dict(parse_qsl(urlsplit(path).query))
        self.asked.append(said)
        registry = MetadataRegistry()
        registry.registerWriter("oai_dc", oai_dc_writer)
        server = BatchingServer(self, metadata_registry=registry, resumption_batch_size=2)
        return 200, {"Content-Type": "text/xml"}, server.handleRequest(said)


@pytest.fixture
def archive(monkeypatch: pytest.MonkeyPatch) -> Archive:
    # The package is older than this Python, which has the function elsewhere.
    monkeypatch.setattr("oaipmh.server.cgi.parse_qs", parse_qs, raising=False)
    made = Archive()
    made.put("oai:archive:1", "2026-01-01T00:00:00", {"title": ["A lamp"], "creator": ["Orla", "Ruth"]})
    made.put("oai:archive:2", "2026-01-02T00:00:00", {"title": ["A bell"]})
    made.put("oai:archive:3", "2026-01-03T00:00:00", {"title": ["A chart"], "subject": ["coast"]})
    return made


@contextmanager
def serving(archive: Archive) -> Generator[str]:
    with search_service(archive.answer) as address:
        yield f"{address}/oai"


def harvest(pool: Pool, address: str, *, anew: bool = False) -> ImportReport:
    source = repository_source(pool, "kept", address, None, None, anew=anew)
    return import_now(pool, "kept", source, ImportPlan(), decides=lambda _: True)


def titles(pool: Pool) -> dict[str, Any]:
    with pool.connection() as connection:
        own = collection_named(connection, "kept").id
        return {one.key: one.field_values.get("title") for one in all_records(connection, own)}


def test_a_repository_is_read_part_by_part_and_then_only_what_changed(pool: Pool, archive: Archive):
    with serving(archive) as address:
        first = harvest(pool, address)
        assert (first.added, first.rejected) == (3, 0)
        assert titles(pool) == {
            "oai:archive:1": "A lamp", "oai:archive:2": "A bell", "oai:archive:3": "A chart"
        }  # fmt: skip
        assert any("resumptionToken" in one for one in archive.asked)
        # Somewhat later one is changed, one goes, one comes.
        later = (datetime.now(tz=UTC) + timedelta(hours=1)).replace(tzinfo=None, microsecond=0).isoformat()
        archive.put("oai:archive:1", later, {"title": ["A large lamp"]})
        archive.put("oai:archive:2", later, None)
        archive.put("oai:archive:4", later, {"title": ["A rope"]})
        archive.asked.clear()
        second = harvest(pool, address)
        assert (second.read, second.added, second.updated, second.deleted) == (3, 1, 1, 1)
        assert titles(pool) == {
            "oai:archive:1": "A large lamp", "oai:archive:3": "A chart", "oai:archive:4": "A rope"
        }  # fmt: skip
        assert any("from" in one for one in archive.asked)
        # Anew everything is read, and what is the same stays so.
        archive.asked.clear()
        third = harvest(pool, address, anew=True)
        assert (third.unchanged, third.deleted) == (3, 0)
        assert not any("from" in one for one in archive.asked)


def test_nothing_new_is_no_fault(pool: Pool, archive: Archive):
    with serving(archive) as address:
        harvest(pool, address)
        again = harvest(pool, address)
        assert (again.read, again.added, again.deleted) == (0, 0, 0)
        assert len(titles(pool)) == 3


def test_a_repository_that_tells_days_is_asked_by_days(pool: Pool, archive: Archive):
    archive.granularity = "YYYY-MM-DD"
    with serving(archive) as address:
        harvest(pool, address)
        archive.asked.clear()
        harvest(pool, address)
        asked = next(one["from"] for one in archive.asked if "from" in one)
        assert len(asked) == len("2026-01-01")


def test_the_first_records_are_looked_at_before_anything_is_kept(pool: Pool, archive: Archive):
    with serving(archive) as address:
        seen = preview(repository_source(pool, "kept", address, None, None, anew=False), ImportPlan())
    assert seen.format == "A repository (OAI-PMH)"
    assert seen.plan.key == "oai_identifier"
    assert [one.values["title"] for one in seen.rows] == ["A lamp", "A bell", "A chart"]
    assert seen.rows[0].values["creator"] == ["Orla", "Ruth"]


def test_our_own_records_are_harvested_as_anybodys(quay: Quay):
    report = harvest(quay.bench.pool, quay.at("/oai"))
    assert report.added == 4
    assert titles(quay.bench.pool)["oai:quay:letters%2Fa%20b.xml"] == "Letters home, page 1"


@pytest.mark.parametrize(
    ("answer", "complaint"),
    [
        (b"<html>no</html>", "no answer of OAI-PMH"),
        (b"not xml at all", "no XML"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><x>&a;</x>', "document type or entities"),
        (
            b'<OAI-PMH xmlns="http://www.openarchives.org/OAI/2.0/"><error code="badArgument">no</error></OAI-PMH>',
            "badArgument",
        ),
        (b'<OAI-PMH xmlns="http://www.openarchives.org/OAI/2.0/"><Identify/></OAI-PMH>', "with records"),
    ],
)
def test_what_is_no_repository_is_told(pool: Pool, answer: bytes, complaint: str):
    with search_service(lambda _c, _p, _h, _b: (200, {}, answer)) as address:
        source = repository_source(pool, "kept", f"{address}/oai", None, None, anew=True)
        with pytest.raises(BadInput, match=complaint):
            import_now(pool, "kept", source, ImportPlan())


def test_a_repository_that_goes_round_in_a_circle_is_left(pool: Pool):
    part = (
        b'<OAI-PMH xmlns="http://www.openarchives.org/OAI/2.0/"><ListRecords><record><header>'
        b"<identifier>a</identifier></header><metadata><x><y>said</y></x></metadata></record>"
        b"<resumptionToken>again</resumptionToken></ListRecords></OAI-PMH>"
    )
    with search_service(lambda _c, _p, _h, _b: (200, {}, part)) as address:
        source = repository_source(pool, "kept", f"{address}/oai", None, None, anew=True)
        with pytest.raises(BadInput, match="circle"):
            import_now(pool, "kept", source, ImportPlan())


@pytest.mark.parametrize("address", ["archive.example/oai", "ftp://archive.example/oai", "http://a:b@archive.example/"])
def test_what_is_no_address_is_told(pool: Pool, address: str):
    with pytest.raises(BadInput, match="looks like"):
        repository_source(pool, "kept", address, None, None, anew=True)


def test_other_forms_of_records_are_laid_out_by_the_names_of_their_elements():
    answer = harvested_answer(
        b'<OAI-PMH xmlns="http://www.openarchives.org/OAI/2.0/"><responseDate>2026-01-01T00:00:00Z</responseDate>'
        b'<ListRecords><record><header><identifier>a</identifier></header><metadata><m:mods xmlns:m="urn:m">'
        b"<m:titleInfo><m:title>Lamp</m:title></m:titleInfo><m:note>one</m:note><m:note>two</m:note>"
        b"</m:mods></metadata></record><record><header><identifier>b</identifier></header></record>"
        b'<record><header status="deleted"><identifier>c</identifier></header></record><record><header/></record>'
        b'<resumptionToken completeListSize="7"/></ListRecords></OAI-PMH>'
    )
    lamp, bare, gone, nameless = answer.rows
    assert lamp.values == {"titleInfo.title": "Lamp", "note": ["one", "two"]}
    assert (bare.values, bare.reason) == (None, "it has no metadata.")
    assert (gone.identifier, gone.values, gone.reason) == ("c", None, "")
    assert nameless.reason == "it has no identifier."
    assert (answer.token, answer.in_all) == ("", 7)
    with pytest.raises(RepositoryFault, match="badVerb"):
        harvested_answer(
            b'<OAI-PMH xmlns="http://www.openarchives.org/OAI/2.0/"><error code="badVerb">?</error></OAI-PMH>'
        )


def test_a_repository_is_kept_with_its_job(pool: Pool, archive: Archive):
    with serving(archive) as address:
        harvest(pool, address)
    with pool.connection() as connection:
        row = connection.execute("select source::text from imports").fetchone()
    assert row is not None
    assert orjson.loads(row[0])["kind"] == "oai"
