"""SRU and CQL: what catalogues get, asked by clients that are not ours."""

import re
import subprocess
from collections.abc import Sequence
from typing import Any
from xml.etree.ElementTree import Element

import httpx
import pytest
import sruthi
from defusedxml.ElementTree import fromstring

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.delivery.publishing import publish
from tests.endurance.harbor import until
from tests.protocols.conftest import READINGS, Quay

RESPONSE = "{http://docs.oasis-open.org/ns/search-ws/sruResponse}"
DIAGNOSTIC = "{http://docs.oasis-open.org/ns/search-ws/diagnostic}"
SCAN = "{http://docs.oasis-open.org/ns/search-ws/scan}"
ZR = "{http://explain.z3950.org/dtd/2.0/}"
DC = "{http://purl.org/dc/elements/1.1/}"


class Catalogue:
    """Whoever asks at an address."""

    def __init__(self, address: str) -> None:
        self.address = address

    def ask(self, **said: str | int) -> Element:
        answer = httpx.get(self.address, params=said)
        assert answer.status_code == 200, answer.text
        assert answer.headers["content-type"].startswith("application/xml")
        return fromstring(answer.content)

    def found(self, query: str, **said: str | int) -> list[str]:
        root = self.ask(query=query, **said)
        assert root.find(f".//{DIAGNOSTIC}diagnostic") is None, self.fault(query)
        return [one.text or "" for one in root.iter(f"{RESPONSE}recordIdentifier")]

    def fault(self, query: str, **said: str | int) -> tuple[int, str]:
        """The number of a diagnostic and what it is about."""
        root = self.ask(query=query, **said)
        (told,) = root.iter(f"{DIAGNOSTIC}diagnostic")
        uri = told.findtext(f"{DIAGNOSTIC}uri") or ""
        assert uri.startswith("info:srw/diagnostic/1/")
        assert told.findtext(f"{DIAGNOSTIC}message")
        return int(uri.rpartition("/")[2]), told.findtext(f"{DIAGNOSTIC}details") or ""

    def scanned(self, clause: str, **said: str | int) -> list[tuple[str, int]]:
        root = self.ask(scanClause=clause, **said)
        return [
            (one.findtext(f"{SCAN}value") or "", int(one.findtext(f"{SCAN}numberOfRecords") or 0))
            for one in root.iter(f"{SCAN}term")
        ]


@pytest.fixture
def catalogue(quay: Quay) -> Catalogue:
    return Catalogue(quay.at("/sru"))


def asked_by_yaz(address: str, *said: str) -> str:
    """What Debian's client for SRU prints."""
    lines = [f"open {address}", "querytype cql", "sru get 2.0", *said, "quit"]
    done = subprocess.run(["yaz-client"], input="\n".join(lines), capture_output=True, text=True, check=True)
    return done.stdout


def test_a_client_of_version_2_searches_shows_and_scans(quay: Quay):
    said = asked_by_yaz(quay.at("/sru"), 'find dc.creator = "orla fenn"', "show 1+3", "scan text = fog")
    assert "Number of hits: 3" in said
    assert re.findall(r"<dc:title>(.*?)</dc:title>", said) == [
        f"Log of the Kestrel Ness light, page {page}" for page in (1, 3, 2)
    ]
    assert re.findall(r"(?m)^[* ]*(fog|fresh|from)", said) == ["fog", "fresh", "from"]


def test_a_client_of_the_former_version_reads_records_and_explanation(quay: Quay):
    client = sruthi.Client(url=quay.at("/sru"), record_schema="dc")
    records: Any = client.searchretrieve(query="dc.creator = ruth")
    assert records.count == 1
    assert records[0]["title"] == "Letters home, page 1"
    told: Any = client.explain()
    assert told.sru_version == "1.2"
    assert {"creator", "title", "date"} <= set(told.index["dc"])
    assert told.index["fields"]["maker"] == "maker"


def test_whatever_the_ranker_makes_of_words_and_phrases(catalogue: Catalogue):
    # By stem, as the search box has it.
    assert catalogue.found("lights") == ["log/1.xml", "log/10.xml", "log/2.xml"]
    assert catalogue.found("text = lighthouses") == ["log/1.xml"]
    assert catalogue.found('text = "fog bell"') == ["log/10.xml", "letters/a b.xml"]
    assert catalogue.found('text adj "fog bell rung"') == ["log/10.xml"]
    assert catalogue.found('text = "bell fog"') == []
    assert set(catalogue.found('text all "bell fog"')) == {"log/10.xml", "letters/a b.xml"}
    assert set(catalogue.found('text any "noon rung"')) == {"log/1.xml", "log/10.xml"}
    assert catalogue.found("text = kee*") == ["log/2.xml"]
    assert catalogue.found("text = *per") == ["log/2.xml"]
    assert catalogue.found('text =/unmasked "kee*"') == []


def test_values_and_stretches_of_them(catalogue: Catalogue):
    letters, log = ["letters/a b.xml"], {"log/1.xml", "log/2.xml", "log/10.xml"}
    assert catalogue.found('maker == "Ruth"') == letters
    assert catalogue.found('maker exact "Orla"') == []
    assert set(catalogue.found('maker =/string "orla fenn"')) == log
    assert catalogue.found("year > 1846") == letters
    assert set(catalogue.found("year < 1850")) == log
    assert set(catalogue.found("year >= 1846 and year <= 1846")) == log
    assert catalogue.found('year within "1847 1850"') == letters
    assert set(catalogue.found('fog and maker <> "Ruth"')) == {"log/10.xml"}


def nested(levels: int) -> str:
    """Booleans of two kinds by turns, each in the next."""
    query = "keeper"
    for level in range(levels):
        query = f"({query} {'or' if level % 2 == 0 else 'and'} {'fog' if level % 2 == 0 else '(fog or keeper)'})"
    return query


def test_booleans_bind_from_left_to_right(catalogue: Catalogue):
    assert catalogue.found("fog not maker = ruth") == ["log/10.xml"]
    assert set(catalogue.found("keeper or fog and bell")) == {"log/10.xml", "letters/a b.xml"}
    assert set(catalogue.found("keeper or (fog and bell)")) == {"log/2.xml", "log/10.xml", "letters/a b.xml"}
    assert catalogue.found(" or ".join(["keeper"] * 30)) == ["log/2.xml"]
    # Ten lie in one another at most, whatever the parentheses.
    assert set(catalogue.found(nested(10))) == {"log/2.xml", "log/10.xml", "letters/a b.xml"}
    assert catalogue.fault(nested(11)) == (38, "10")
    assert catalogue.found(f"{'(' * 200}keeper{')' * 200}") == ["log/2.xml"]
    assert catalogue.fault(f"{'(' * 201}keeper{')' * 201}")[0] == 38
    assert "log/10.xml" in catalogue.found("fog or (clock and (fog or keeper))")


def test_sets_of_indexes_by_their_addresses(catalogue: Catalogue):
    assert catalogue.found('> d = "info:srw/context-set/1/dc-v1.1" d.creator = ruth') == ["letters/a b.xml"]
    assert catalogue.found("creator = ruth") == ["letters/a b.xml"]
    assert catalogue.found("fields.maker = ruth") == ["letters/a b.xml"]
    assert catalogue.found('rec.identifier == "log/2.xml"') == ["log/2.xml"]
    assert catalogue.found("cql.serverChoice = keeper") == ["log/2.xml"]
    assert catalogue.fault('> x = "http://other.example/" x.a = 1') == (15, "http://other.example/")
    assert catalogue.fault("bath.name = a") == (15, "bath")


def test_lists_come_in_parts_and_in_an_order(catalogue: Catalogue):
    root = catalogue.ask(query="fog or keeper or light sortBy year/sort.descending dc.title", maximumRecords=2)
    assert root.findtext(f"{RESPONSE}numberOfRecords") == "4"
    assert root.findtext(f"{RESPONSE}nextRecordPosition") == "3"
    assert [one.text for one in root.iter(f"{RESPONSE}recordPosition")] == ["1", "2"]
    first = [one.text for one in root.iter(f"{RESPONSE}recordIdentifier")]
    assert first == ["letters/a b.xml", "log/1.xml"]
    echoed = root.find(f"{RESPONSE}echoedSearchRetrieveRequest")
    assert echoed is not None
    assert echoed.findtext(f"{RESPONSE}maximumRecords") == "2"
    rest = catalogue.ask(query="fog or keeper or light sortBy year/sort.descending dc.title", startRecord=3)
    assert rest.find(f"{RESPONSE}nextRecordPosition") is None
    assert [one.text for one in rest.iter(f"{RESPONSE}recordPosition")] == ["3", "4"]
    assert catalogue.ask(query="fog", maximumRecords=0).find(f"{RESPONSE}records") is None
    assert catalogue.fault("fog", startRecord=3) == (61, "3")
    assert catalogue.found("nothingofthekind") == []


def test_records_as_xml_and_as_a_text_of_it(catalogue: Catalogue):
    root = catalogue.ask(query="maker = ruth")
    (data,) = root.iter(f"{RESPONSE}recordData")
    assert [one.text for one in data.iter(f"{DC}creator")] == ["Ruth"]
    assert [one.text for one in data.iter(f"{DC}date")] == ["1850"]
    (packed,) = catalogue.ask(query="maker = ruth", recordXMLEscaping="string").iter(f"{RESPONSE}recordData")
    inner = fromstring(packed.text or "")
    assert [one.text for one in inner.iter(f"{DC}creator")] == ["Ruth"]


def test_terms_of_an_index_around_one(catalogue: Catalogue):
    assert catalogue.scanned("text = fog", maximumTerms=3) == [("fog", 2), ("fresh", 1), ("from", 1)]
    # The second of them is the one that was named.
    assert catalogue.scanned("text = fog", maximumTerms=3, responsePosition=2)[1] == ("fog", 2)
    assert catalogue.scanned("text = fog", maximumTerms=2, responsePosition=0) == [("fresh", 1), ("from", 1)]
    assert catalogue.scanned("text = fof", maximumTerms=1) == [("fog", 2)]
    assert catalogue.scanned("maker = o", maximumTerms=5) == [("orla", 3), ("ruth", 1)]
    assert catalogue.scanned("file = log", maximumTerms=2) == [("log/1.xml", 1), ("log/10.xml", 1)]
    # Whole values whatever their case.
    assert catalogue.scanned('file = "LOG/10"', maximumTerms=1) == [("log/10.xml", 1)]
    assert catalogue.scanned("text = zzz") == []
    assert catalogue.scanned("dc.date = 0") == [("1846", 3), ("1850", 1)]


def test_what_cannot_be_answered_is_told_by_the_numbers_of_the_standard(catalogue: Catalogue):
    assert catalogue.fault("fog and")[0] == 10
    assert catalogue.fault("a b c") == (19, "b")
    assert catalogue.fault('"fog')[0] == 14
    assert catalogue.fault("(fog")[0] == 13
    assert catalogue.fault("x" * 4_001)[0] == 12
    assert catalogue.fault("price = 3") == (16, "price")
    assert catalogue.fault("text encloses fog") == (19, "encloses")
    assert catalogue.fault("text =/phonetic fog") == (20, "phonetic")
    assert catalogue.fault("maker =/stem fog") == (20, "stem")
    assert catalogue.found("text =/stem lighthouses") == ["log/1.xml"]
    assert catalogue.fault("text =/fuzzy fog") == (20, "fuzzy")
    assert catalogue.fault("cql.serverChoice < fog") == (22, "<")
    assert catalogue.fault('text = ""')[0] == 27
    assert catalogue.fault("text = f?g") == (28, "?")
    assert catalogue.fault("text = f*g") == (28, "*")
    assert catalogue.fault("text = ^fog") == (31, "^")
    assert catalogue.fault('year > "1 2"')[0] == 36
    assert catalogue.fault(" and ".join(["fog"] * 202))[0] == 38
    assert catalogue.fault("fog prox bell") == (39, "prox")
    assert catalogue.fault("fog and/rel.combine=sum bell") == (46, "rel.combine")
    assert catalogue.fault("cql.allRecords = 1")[0] == 48
    assert catalogue.fault("fog sortBy price") == (16, "price")
    assert catalogue.fault("fog sortBy year/sort.missingLow") == (82, "sort.missinglow")
    assert catalogue.fault("fog", recordSchema="mods") == (66, "mods")
    assert catalogue.fault("fog", recordXMLEscaping="yes") == (71, "yes")
    assert catalogue.fault("fog", startRecord=0) == (6, "startRecord")
    assert catalogue.fault("fog", startRecord=10_000) == (61, "10000")
    assert catalogue.fault("fog", startRecord=10_001) == (6, "startRecord")
    assert catalogue.fault("fog", maximumRecords="many") == (6, "maximumRecords")
    assert catalogue.fault("fog", queryType="other") == (6, "queryType")
    assert catalogue.fault("fog", operation="delete") == (4, "delete")
    assert catalogue.fault("fog", version="3.0") == (5, "2.0")
    assert catalogue.fault("fog", wish="yes") == (8, "wish")
    assert catalogue.found("keeper", **{"x-info-5": "yes"}) == ["log/2.xml"]


def test_words_side_by_side_are_a_kind_of_query_too(catalogue: Catalogue):
    assert set(catalogue.found("keeper AND clock", queryType="searchTerms")) == {"log/2.xml"}


def test_a_query_may_come_in_a_form(catalogue: Catalogue):
    answer = httpx.post(catalogue.address, data={"query": "keeper"})
    assert b"log/2.xml" in answer.content


def test_the_former_version_is_answered_in_its_own_words(catalogue: Catalogue):
    root = catalogue.ask(version="1.1", operation="searchRetrieve", query="keeper")
    assert root.tag == "{http://www.loc.gov/zing/srw/}searchRetrieveResponse"
    assert root[0].text == "1.1"
    assert root.findtext(".//{http://www.loc.gov/zing/srw/}recordPacking") == "xml"
    wrong = catalogue.ask(version="1.2", operation="searchRetrieve", query="price = 3")
    assert wrong.findtext(".//{http://www.loc.gov/zing/srw/diagnostic/}uri") == "info:srw/diagnostic/1/16"


def test_nothing_is_told_of_what_a_key_may_not_see(quay: Quay):
    fields = {"shown": ["title", "text"], "filters": [{"field": "maker", "one_of": ["Ruth"]}]}
    narrow = Catalogue(quay.at("/sru", fields))
    assert narrow.found("fog") == ["letters/a b.xml"]
    assert narrow.fault("maker = ruth") == (16, "maker")
    assert narrow.scanned("text = keeper", maximumTerms=1) == [("my", 1)]
    assert names_in(narrow.ask()) == ["serverChoice", "title", "text", "title", "description"]
    (data,) = narrow.ask(query="fog").iter(f"{RESPONSE}recordData")
    assert not list(data.iter(f"{DC}creator"))


def names_in(explained: Element) -> Sequence[str]:
    return [one.text or "" for one in explained.iter(f"{ZR}name")]


def test_what_catalogues_ask_is_noted_as_what_visitors_ask(quay: Quay):
    Catalogue(quay.at("/sru")).found("text = keeper and maker = orla")
    httpx.get(f"{quay.at('/iiif')}/things/log/search/2?q=clock")

    def noted() -> list[str]:
        with quay.bench.pool.connection() as connection:
            return [query for (query,) in connection.execute("select query from asked_queries order by at").fetchall()]

    until(lambda: len(noted()) == 2, 20, lambda: "what was asked is not noted")
    assert noted() == ["(text:keeper AND maker:orla)", "clock"]


def test_another_query_is_never_taken_in_place_of_what_was_said(quay: Quay):
    meant = {"readings": READINGS, "corrections": {"take": "nothing", "sure": 0.1}}
    quay.bench.put_ranker("quay", "correcting", ranker_document(meant))
    publish(quay.bench, "quay", "correcting", 1, "it corrects")
    address = quay.at("")
    site = httpx.get(f"{quay.server}/v1/quay/search", params={"key": quay.key(), "query": "keepr"}).json()
    assert site["did_you_mean"]["taken"]
    assert Catalogue(f"{address}/sru").found("keepr") == []
    assert httpx.get(f"{address}/iiif/search/2?q=keepr").json()["items"] == []
