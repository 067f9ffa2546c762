"""Pages of PDF files, and the order that manifests say, here or at an address."""

import zipfile
from pathlib import Path
from typing import Any

import orjson
import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.records import ImportPlan, Source, format_of
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.records.pictures import has_picture
from pale_harbor.store.records.records import Record, all_records
from pale_harbor.work.imports.fetched import Fetched
from pale_harbor.work.imports.importing import ImportReport, import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.records.pages import page_of_record
from tests.formats.test_pdf_pages import scanned
from tests.pages import alto, line_of, logbook
from tests.search_service import search_service


def load(pool: Pool, path: Path) -> ImportReport:
    return import_now(pool, "logs", FileSource(Source(path)), ImportPlan())


def records(pool: Pool) -> dict[str, Record]:
    with pool.connection() as connection:
        own = collection_named(connection, "logs").id
        return {one.key: one for one in all_records(connection, own)}


def manifest(*names: str, title: str = "The log") -> bytes:
    items = [
        {"id": f"https://quay.example/{name}", "type": "Canvas", "label": {"none": [f"folio {name}"]}} for name in names
    ]
    return orjson.dumps({"type": "Manifest", "label": {"en": [title]}, "items": items})


def order(pool: Pool) -> dict[str, tuple[Any, Any]]:
    return {key: (one.field_values["page"], one.field_values.get("page_label")) for key, one in records(pool).items()}


def test_a_scanned_pdf_is_pages_with_places_and_pictures(pool: Pool, tmp_path: Path):
    (tmp_path / "log.pdf").write_bytes(scanned([("Fog bell", 30, 60)], [("rung", 30, 60)]))
    assert format_of(Source(tmp_path / "log.pdf"), ImportPlan()).name == "scanned_pages"
    assert load(pool, tmp_path / "log.pdf").added == 2
    page = page_of_record(pool, "logs", "log.pdf#page=1")
    assert (page.text, page.pictured, page.fits) == ("Fog bell", True, True)
    assert len(page.places) == 2
    second = records(pool)["log.pdf#page=2"].field_values
    assert (second["thing"], second["page"], second["picture"]) == ("log", 2, "log.pdf#page=2")


def test_pdf_files_in_a_zip_are_pages_too(pool: Pool, tmp_path: Path):
    with zipfile.ZipFile(tmp_path / "logs.zip", "w") as archive:
        archive.writestr("a/log.pdf", scanned([("Fog", 30, 60)]))
        archive.writestr("b.pdf", b"%PDF-1.7 damaged")
    report = load(pool, tmp_path / "logs.zip")
    assert (report.added, report.rejected) == (1, 1)
    assert "cannot be read as PDF" in report.rejects[0].reason
    with pool.connection() as connection:
        own = collection_named(connection, "logs").id
        assert has_picture(connection, own, "a/log.pdf#page=1")


def test_a_pdf_that_is_text_stays_text(tmp_path: Path):
    (tmp_path / "text.pdf").write_bytes(scanned([("Fog", 30, 60)], with_picture=False))
    assert format_of(Source(tmp_path / "text.pdf"), ImportPlan()).name == "text_files"
    mixed = tmp_path / "mixed"
    mixed.mkdir()
    (mixed / "log.pdf").write_bytes(scanned([("Fog", 30, 60)]))
    assert format_of(Source(mixed), ImportPlan()).name == "scanned_pages"
    # Beside texts it is one of them.
    (mixed / "notes.txt").write_text("notes")
    assert format_of(Source(mixed), ImportPlan()).name == "text_files"


def test_a_manifest_beside_pages_says_their_order_and_labels(pool: Pool, tmp_path: Path):
    folder = logbook(tmp_path)
    (folder / "log/manifest.json").write_bytes(manifest("10", "1", "2"))
    assert load(pool, folder).rejected == 0
    assert order(pool) == {
        "log/10.xml": (1, "folio 10"), "log/1.xml": (2, "folio 1"), "log/2.xml": (3, "folio 2")
    }  # fmt: skip
    assert records(pool)["log/10.xml"].field_values["title"] == "The log, page folio 10"


def test_a_manifest_of_other_pages_is_told(pool: Pool, tmp_path: Path):
    folder = logbook(tmp_path)
    (folder / "log/manifest.json").write_bytes(manifest("2", "99"))
    report = load(pool, folder)
    assert [one.reason for one in report.rejects] == ["log/manifest.json: 1 of its pages are not here."]
    # Those that it does not name follow in the order of their names.
    assert order(pool)["log/2.xml"] == (1, "folio 2")
    (folder / "log/manifest.json").write_bytes(manifest("98", "99"))
    again = import_now(pool, "others", FileSource(Source(folder)), ImportPlan())
    assert "none of its pages has a name that a page here has" in again.rejects[0].reason
    (folder / "log/manifest.json").write_bytes(b"{}")
    third = import_now(pool, "third", FileSource(Source(folder)), ImportPlan())
    assert "no manifest of IIIF" in third.rejects[0].reason


def test_a_table_says_at_which_address_a_manifest_is(pool: Pool, tmp_path: Path):
    folder = logbook(tmp_path)
    asked: list[str] = []

    def answer(command: str, path: str, headers: dict[str, str], body: bytes) -> tuple[int, dict[str, str], bytes]:
        asked.append(path)
        return 200, {}, manifest("10", "2", "1")

    with search_service(answer) as address:
        (folder / "things.csv").write_text(f"thing,year,manifest\nlog,1846,{address}/log/manifest\n")
        assert load(pool, folder).rejected == 0
    assert order(pool)["log/10.xml"] == (1, "folio 10")
    # It says where the order is, and nothing of the pages.
    assert "manifest" not in records(pool)["log/1.xml"].field_values
    assert records(pool)["log/1.xml"].field_values["year"] == 1846
    # However often a source is read, it is asked once.
    assert asked == ["/log/manifest"]


@pytest.mark.parametrize(
    ("said", "told"),
    [("http://127.0.0.1:9/manifest", "it cannot be had"), ("manifests/log.json", "an address begins with")],
)
def test_an_address_that_gives_none_is_told(pool: Pool, tmp_path: Path, said: str, told: str):
    folder = logbook(tmp_path)
    (folder / "things.csv").write_text(f"thing,manifest\nlog,{said}\n")
    report = load(pool, folder)
    assert report.added == 3
    assert told in report.rejects[0].reason


def test_a_thousand_addresses_of_one_source_are_asked_at_most(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.work.imports.fetched._MOST_ADDRESSES", 1)
    with search_service(lambda _c, _p, _h, _b: (200, {}, b"told")) as address:
        fetched = Fetched()
        assert fetched(f"{address}/a") == b"told"
        assert fetched(f"{address}/a") == b"told"
        with pytest.raises(BadInput, match="more than 1 addresses"):
            fetched(f"{address}/b")


def test_pages_without_a_manifest_keep_the_order_of_their_names(pool: Pool, tmp_path: Path):
    (tmp_path / "log").mkdir()
    for number in (1, 2):
        (tmp_path / f"log/{number}.xml").write_bytes(alto([line_of("fog", 40)]))
    load(pool, tmp_path)
    assert order(pool) == {"log/1.xml": (1, None), "log/2.xml": (2, None)}
