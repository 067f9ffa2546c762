"""A log book and its letters, as a server tells of them by open protocols."""

from collections.abc import Generator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.formats.visitor_terms import visitor_terms
from pale_harbor.work.delivery.keeping import make_visitor_key
from pale_harbor.work.delivery.publishing import publish
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.workbench import Workbench
from tests.pages import alto, line_of, logbook, picture
from tests.served import served

READINGS = [
    {"field": "title", "chain": "words > lower > stem(en)"},
    {"field": "text", "chain": "words > lower > stem(en)"},
    {"field": "maker", "chain": "words > lower"},
]
THINGS = "thing,title,maker,year\nlog,Log of the Kestrel Ness light,Orla Fenn,1846\nletters,Letters home,Ruth,1850\n"


@dataclass(frozen=True)
class Quay:
    """A collection of pages, served. bench: behind it; server: its address."""

    bench: Workbench
    server: str

    def key(self, terms: dict[str, Any] | None = None) -> str:
        """A new visitor's key."""
        told = {"per_minute": 100_000, "per_minute_each": 100_000} | (terms or {})
        return make_visitor_key(self.bench, "quay", "for tests", visitor_terms(told), None).shown

    def at(self, path: str, terms: dict[str, Any] | None = None) -> str:
        """An address with a key of its own in it."""
        return f"{self.server}/v1/quay/keys/{quote(self.key(terms))}{path}"


@pytest.fixture
def quay(bench: Workbench, tmp_path: Path) -> Generator[Quay]:
    folder = logbook(tmp_path / "pages")
    letter = [line_of("My dear Hester the fog", 40), line_of("bell is cracked", 80)]
    (folder / "letters").mkdir()
    (folder / "letters/a b.xml").write_bytes(alto(letter))
    (folder / "letters/a b.png").write_bytes(picture(letter))
    (folder / "things.csv").write_text(THINGS)
    import_now(bench.pool, "quay", FileSource(Source(folder)), ImportPlan(key="file"))
    bench.put_ranker("quay", "read", ranker_document({"readings": READINGS}))
    publish(bench, "quay", "read", 1, "opening day")
    with served(bench) as address:
        yield Quay(bench, address)
