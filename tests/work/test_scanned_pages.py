"""Pages that a machine read become records with pictures, and words that lead back to their boxes."""

import zipfile
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.errors import BadInput, NotFound, Overtaken
from pale_harbor.formats.pages.places_text import reference_in
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.store.collections.collections import collection_named, copy_collection, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.records.pictures import picture_count, picture_named, small_picture_named
from pale_harbor.store.records.records import all_records, record_with_key
from pale_harbor.work.imports.importing import ImportReport, import_now
from pale_harbor.work.imports.sources import FileSource, preview
from pale_harbor.work.imports.undoing import undo_import
from pale_harbor.work.records.changes import correct_word, put_records, remove_records, restore_deleted, restore_record
from pale_harbor.work.records.exporting import export_to
from pale_harbor.work.records.pages import page_of_record
from pale_harbor.work.running.in_order import in_order
from tests.pages import LOG, alto, line_of, logbook, picture


def load(pool: Pool, path: Path, collection: str = "logs", **plan: Any) -> ImportReport:
    return import_now(pool, collection, FileSource(Source(path)), ImportPlan(**plan))


@pytest.fixture
def logs(pool: Pool, tmp_path: Path) -> Pool:
    assert load(pool, logbook(tmp_path / "scans")).read == 3
    return pool


def values_of(pool: Pool, key: str) -> dict[str, Any]:
    with pool.connection() as connection:
        return record_with_key(connection, collection_named(connection, "logs"), key).field_values


def boxes(pool: Pool, key: str, word: str) -> list[tuple[float, float, float]]:
    """Where a word of a page stands: x, y and width of each of its boxes."""
    page = page_of_record(pool, "logs", key)
    start = page.text.index(word)
    own = [one for one in page.places if one.start < start + len(word) and start < one.end]
    return [(one.box.x, one.box.y, one.box.width) for one in own]


def test_pages_of_a_folder_are_records_in_the_order_of_their_numbers(logs: Pool):
    first = values_of(logs, "log/1.xml")
    assert (first["thing"], first["page"], first["picture"]) == ("log", 1, "log/1.png")
    assert first["text"] == "Wind fresh from the lighthouse\ntill noon"
    assert [values_of(logs, f"log/{name}.xml")["page"] for name in (1, 2, 10)] == [1, 2, 3]
    with logs.connection() as connection:
        collection = collection_named(connection, "logs")
        roles = {one.name: (one.role, one.kind) for one in fields_of(connection, collection.id)}
        assert picture_count(connection, collection.id) == 3
    assert roles["places"] == ("places", "exact")
    assert roles["picture"][0] == "picture"
    assert roles["file"][0] == "key"


def test_a_parted_word_has_two_boxes(logs: Pool):
    assert boxes(logs, "log/1.xml", "lighthouse") == [(220, 40, 60), (20, 80, 50)]
    assert boxes(logs, "log/1.xml", "fresh") == [(70, 40, 50)]


def test_a_record_holds_a_reference_and_no_boxes(logs: Pool):
    reference = reference_in(values_of(logs, "log/2.xml")["places"])
    assert reference is not None
    assert (reference.field, reference.width, reference.height) == ("text", 400, 600)


def test_a_page_knows_whether_its_picture_is_here(logs: Pool):
    assert page_of_record(logs, "logs", "log/1.xml").pictured
    values = values_of(logs, "log/1.xml")
    for name in ("log/9.png", "\x01", ""):
        put_records(logs, "logs", [values | {"picture": name}])
        assert not page_of_record(logs, "logs", "log/1.xml").pictured


def test_a_zip_gives_the_same_as_its_folder(logs: Pool, tmp_path: Path):
    path = tmp_path / "scans.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for file in sorted((tmp_path / "scans").rglob("*.*")):
            archive.write(file, file.relative_to(tmp_path / "scans").as_posix())
    report = load(logs, path)
    assert (report.unchanged, report.rejected) == (3, 0)


def test_one_page_alone_is_a_record_without_a_picture(pool: Pool, tmp_path: Path):
    path = tmp_path / "letter.xml"
    path.write_bytes(alto([line_of("Dear Orla", 10)], picture="letter.tif"))
    assert load(pool, path).rejected == 0
    page = page_of_record(pool, "logs", "letter.xml")
    assert (page.text, page.picture, page.pictured, len(page.places)) == ("Dear Orla", "letter.tif", False, 2)


def test_pictures_are_kept_with_a_small_one_for_lists(logs: Pool):
    with logs.connection() as connection:
        collection = collection_named(connection, "logs").id
        whole = picture_named(connection, collection, "log/1.png")
        small = small_picture_named(connection, collection, "log/1.png")
    assert (whole.media_type, whole.content) == ("image/png", picture(LOG["log/1"]))
    assert small.media_type == "image/jpeg"
    assert small.content != whole.content


def test_a_tiff_becomes_what_browsers_show(pool: Pool, tmp_path: Path):
    (tmp_path / "a.xml").write_bytes(alto([line_of("Fog", 10)]))
    (tmp_path / "a.tif").write_bytes(picture(kind="TIFF"))
    assert load(pool, tmp_path).rejected == 0
    with pool.connection() as connection:
        kept = picture_named(connection, collection_named(connection, "logs").id, "a.tif")
    assert kept.media_type == "image/jpeg"


def test_what_does_not_fit_is_told_by_page_and_the_rest_goes_in(pool: Pool, tmp_path: Path):
    (tmp_path / "a.xml").write_bytes(alto([line_of("Fog bell", 10)]))
    (tmp_path / "a.png").write_bytes(b"no picture")
    (tmp_path / "b.xml").write_bytes(alto([line_of("Fog horn", 10)]))
    (tmp_path / "b.png").write_bytes(picture(size=(400, 400)))
    (tmp_path / "c.xml").write_bytes(alto([[("far", 900, 10, 10, 10)], line_of("near", 40)]))
    (tmp_path / "d.xml").write_bytes(b"<alto xmlns='urn:other'/>")
    (tmp_path / "notes.xml").write_bytes(b"<notes/>")
    report = load(pool, tmp_path)
    assert (report.read, report.added, report.rejected) == (8, 3, 5)
    told = sorted(one.reason for one in report.rejects)
    assert told == [
        "a.png: it is no picture that can be opened: JPEG, PNG, TIFF, WebP and GIF are. The page is taken without it.",
        "b.png: it has 400 × 400 dots, and its page is 400 × 600: words may be marked where they are not.",
        'c.xml: line 1: the box of "far" lies outside the page; no picture of it is beside it. '
        "The rest of the page is taken.",
        'd.xml: it is no ALTO of version 2, 3 or 4: its root element is "{urn:other}alto", and "alto" of '
        '"http://www.loc.gov/standards/alto/ns-v4#" (or 3, 2) was looked for.',
        "notes.xml is neither a page (ALTO, hOCR, PDF) nor a picture of one.",
    ]
    # What cannot be right is kept, for whoever looks at how well pages were read.
    assert boxes(pool, "c.xml", "far") == [(900, 10, 10)]
    assert boxes(pool, "c.xml", "near") == [(20, 40, 40)]


ORDER = """<mets xmlns="http://www.loc.gov/METS/" xmlns:x="http://www.w3.org/1999/xlink" LABEL="Log of the light">
<fileSec>
<file ID="A1"><FLocat x:href="alto/b.xml"/></file><file ID="A2"><FLocat x:href="alto/a.xml"/></file>
<file ID="I1"><FLocat x:href="img/one.png"/></file><file ID="I2"><FLocat x:href="img/two.png"/></file></fileSec>
<structMap TYPE="PHYSICAL"><div><div ORDERLABEL="1r"><fptr FILEID="A1"/><fptr FILEID="I1"/></div>
<div ORDERLABEL="1v"><fptr FILEID="A2"/><fptr FILEID="I2"/></div></div></structMap></mets>"""


def ordered(folder: Path) -> Path:
    """Words and pictures in folders apart, brought together and into order by a METS file."""
    for name, text in {"a": "Fog bell", "b": "Wind fresh"}.items():
        path = folder / f"log/alto/{name}.xml"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(alto([line_of(text, 10)]))
    (folder / "log/img").mkdir()
    for name in ("one", "two"):
        (folder / f"log/img/{name}.png").write_bytes(picture())
    (folder / "log/mets.xml").write_text(ORDER)
    return folder


def test_a_mets_file_says_the_order_the_labels_and_which_picture_is_whose(pool: Pool, tmp_path: Path):
    report = load(pool, ordered(tmp_path))
    assert (report.read, report.added) == (2, 2)
    first, second = values_of(pool, "log/alto/b.xml"), values_of(pool, "log/alto/a.xml")
    names = ("thing", "page", "page_label", "title", "picture")
    assert [first[name] for name in names] == ["log", 1, "1r", "Log of the light, page 1r", "log/img/one.png"]
    assert [second[name] for name in names] == ["log", 2, "1v", "Log of the light, page 1v", "log/img/two.png"]
    assert page_of_record(pool, "logs", "log/alto/a.xml").pictured


def test_a_mets_file_that_says_nothing_is_told(pool: Pool, tmp_path: Path):
    (ordered(tmp_path) / "log/mets.xml").write_text('<mets xmlns="http://www.loc.gov/METS/"/>')
    report = load(pool, tmp_path)
    assert report.added == 2
    assert report.rejects[0].reason == (
        "log/mets.xml: it names no files of pages. Pages come in the order of their names."
    )


def test_a_table_beside_them_tells_of_the_things(pool: Pool, tmp_path: Path):
    folder = logbook(tmp_path)
    (folder / "things.csv").write_text(
        "thing;title;maker;year;text\nlog;Log of 1846;Orla Fenn;1846;no\nletters;Letters;;;\n;x;;;\n"
    )
    report = load(pool, folder)
    assert report.added == 3
    own = values_of(pool, "log/2.xml")
    assert [own[name] for name in ("title", "maker", "year")] == ["Log of 1846, page 2", "Orla Fenn", 1846]
    assert own["text"] == "The keeper wound the clock"
    assert [one.reason for one in report.rejects] == [
        'things.csv, line 4: the column "thing" is missing or empty.',
        'The table tells of "letters", of which there is no page.',
    ]


def test_a_table_in_a_folder_tells_of_things_within_it(pool: Pool, tmp_path: Path):
    logbook(tmp_path / "scans")
    (tmp_path / "scans/things.tsv").write_text("thing\ttitle\nlog\tLog of 1846\n")
    assert load(pool, tmp_path).rejected == 0
    assert values_of(pool, "scans/log/2.xml")["title"] == "Log of 1846, page 2"


def test_ten_faults_of_a_page_are_told_and_further_ones_counted(pool: Pool, tmp_path: Path):
    far = [("far", 900, 10, 10, 10)]
    for name, count in (("a", 10), ("b", 11)):
        (tmp_path / f"{name}.xml").write_bytes(alto([far] * count))
    first, second = (one.reason for one in load(pool, tmp_path).rejects)
    assert (first.count("outside"), "more" in first) == (10, False)
    assert (second.count("outside"), "; and 1 more. The rest" in second) == (10, True)


def test_pages_are_told_among_the_first_twenty_files_that_may_be_some(pool: Pool, tmp_path: Path):
    for number in range(19):
        (tmp_path / f"{number}.xml").write_bytes(b"<notes/>")
    (tmp_path / "20.xml").write_bytes(alto([line_of("Fog", 10)]))
    assert preview(FileSource(Source(tmp_path)), ImportPlan()).plan.format == "scanned_pages"
    (tmp_path / "19.xml").write_bytes(b"<notes/>")
    assert preview(FileSource(Source(tmp_path)), ImportPlan()).plan.format == "text_files"


def test_a_preview_shows_pages_and_keeps_nothing(pool: Pool, tmp_path: Path):
    seen = preview(FileSource(Source(logbook(tmp_path / "scans"))), ImportPlan())
    assert (seen.format, seen.plan.key, len(seen.rows)) == ("Scanned pages (ALTO, hOCR, PDF)", "file", 3)
    assert {one.name: one.role for one in seen.plan.fields or []}["places"] == "places"


def test_places_follow_a_text_that_somebody_changes(logs: Pool):
    values = values_of(logs, "log/2.xml")
    put_records(logs, "logs", [values | {"text": "Today the keeper winds the tall clock"}])
    page = page_of_record(logs, "logs", "log/2.xml")
    assert page.fits
    assert boxes(logs, "log/2.xml", "keeper") == [(60, 40, 60)]
    assert boxes(logs, "log/2.xml", "winds") == [(130, 40, 50)]
    assert boxes(logs, "log/2.xml", "clock") == [(230, 40, 50)]
    assert boxes(logs, "log/2.xml", "tall") == []


def test_a_record_that_is_made_what_it_was_has_its_places_again(logs: Pool):
    before = page_of_record(logs, "logs", "log/2.xml")
    put_records(logs, "logs", [values_of(logs, "log/2.xml") | {"text": "Gone"}])
    restore_record(logs, "logs", "log/2.xml", 2)
    assert page_of_record(logs, "logs", "log/2.xml").places == before.places
    remove_records(logs, "logs", ["log/2.xml"])
    restore_deleted(logs, "logs", keys=["log/2.xml"])
    assert page_of_record(logs, "logs", "log/2.xml").places == before.places


def test_places_of_another_text_mark_nothing(logs: Pool):
    put_records(logs, "logs", [{"file": "new", "text": "Wind", "places": values_of(logs, "log/2.xml")["places"]}])
    page = page_of_record(logs, "logs", "new")
    assert (page.fits, page.places) == (False, ())
    with pytest.raises(BadInput, match="of another text"):
        correct_word(logs, "logs", "new", page.revision, 0, 4, "Wand")


def test_places_that_are_not_here_mark_nothing_and_stay_referred_to(logs: Pool):
    # A reference alone, as a list of another collection has it.
    values = values_of(logs, "log/2.xml")
    far = values["places"][:-64] + 64 * "0"
    put_records(logs, "logs", [values | {"places": far}])
    page = page_of_record(logs, "logs", "log/2.xml")
    assert (page.fits, page.places) == (False, ())
    with pytest.raises(BadInput, match="or not here"):
        correct_word(logs, "logs", "log/2.xml", page.revision, 0, 3, "A")
    put_records(logs, "logs", [values | {"places": far, "text": "Other"}])
    assert values_of(logs, "log/2.xml")["places"] == far


def test_a_word_that_somebody_reads_otherwise_keeps_its_boxes(logs: Pool):
    page = page_of_record(logs, "logs", "log/1.xml")
    start = page.text.index("lighthouse")
    changed = correct_word(logs, "logs", "log/1.xml", page.revision, start, start + 10, " lightship ")
    assert changed.updated == 1
    now = page_of_record(logs, "logs", "log/1.xml")
    assert now.text == "Wind fresh from the lightship\ntill noon"
    assert boxes(logs, "log/1.xml", "lightship") == [(220, 40, 60), (20, 80, 50)]
    sure = {now.text[one.start : one.end]: one.confidence for one in now.places}
    assert sure == {
        "Wind": 0.9, "fresh": 0.9, "from": 0.9, "the": 0.9, "ligh": 1.0, "tship": 1.0, "till": 0.9, "noon": 0.9
    }  # fmt: skip
    # It is a revision like any other.
    restore_record(logs, "logs", "log/1.xml", changed.revision)
    assert page_of_record(logs, "logs", "log/1.xml").places == page.places


def test_a_correction_of_what_somebody_else_changed_is_refused(logs: Pool):
    page = page_of_record(logs, "logs", "log/2.xml")
    put_records(logs, "logs", [values_of(logs, "log/2.xml") | {"title": "Another"}])
    with pytest.raises(Overtaken):
        correct_word(logs, "logs", "log/2.xml", page.revision, 0, 3, "A")


@pytest.mark.parametrize(
    ("start", "end", "letters", "told"),
    [
        (0, 0, "A", "must be of them"),
        (3, 2, "A", "must be of them"),
        (0, 27, "A", "The text has 26 letters"),
        (0, 3, "  ", "at least one letter"),
        (0, 3, "A" * 501, "500 at most"),
    ],
)
def test_a_correction_is_of_letters_that_are_there(logs: Pool, start: int, end: int, letters: str, told: str):
    with pytest.raises(BadInput, match=told):
        correct_word(logs, "logs", "log/2.xml", 1, start, end, letters)


def test_at_most_five_hundred_letters_and_the_whole_text(logs: Pool):
    assert correct_word(logs, "logs", "log/2.xml", 1, 0, 26, "A" * 500).updated == 1


def test_a_record_that_is_no_page_is_told(logs: Pool):
    put_records(logs, "logs", [{"file": "note", "text": "Wind"}])
    for key in ("note", "nobody"):
        with pytest.raises(NotFound):
            page_of_record(logs, "logs", key)


@pytest.mark.parametrize("ending", ["jsonl", "csv", "parquet"])
def test_an_export_takes_places_along(logs: Pool, tmp_path: Path, ending: Any):
    export_to(logs, "logs", ending, tmp_path / f"out.{ending}")
    load(logs, tmp_path / f"out.{ending}", "elsewhere", key="file")
    for name in LOG:
        before, after = (page_of_record(logs, one, f"{name}.xml") for one in ("logs", "elsewhere"))
        assert (after.places, after.text, after.fits) == (before.places, before.text, True)


def test_a_file_with_places_that_are_none_is_told_by_line(pool: Pool, tmp_path: Path):
    path = tmp_path / "rows.jsonl"
    path.write_text('{"id": "a", "text": "Wind", "places": "text 4 8139fbc0 100 200\\n0 5 1 1 1 1 0 -"}\n')
    report = load(pool, path, key="id")
    assert [one.reason for one in report.rejects] == [
        'the field "places" holds places, of which line 2: places follow one another and lie within the text.'
    ]


def test_filling_in_a_text_takes_its_places_along(logs: Pool, tmp_path: Path):
    path = tmp_path / "rows.jsonl"
    path.write_text('{"file": "log/2.xml", "text": "The keepers wound the clock"}\n')
    load(logs, path, key="file", fill_in=True)
    assert boxes(logs, "log/2.xml", "keepers") == [(60, 40, 60)]


def test_a_copy_has_the_pages_too(logs: Pool):
    with logs.connection() as connection:
        copy_collection(connection, collection_named(connection, "logs"), "copy")
    assert page_of_record(logs, "copy", "log/1.xml").places == page_of_record(logs, "logs", "log/1.xml").places


def test_an_import_that_is_left_keeps_no_pictures_and_one_that_is_undone_does(logs: Pool, tmp_path: Path):
    report = load(logs, logbook(tmp_path / "more"), "others")
    undo_import(logs, report.job)
    with logs.connection() as connection:
        for table in ("incoming_pictures", "incoming_places", "incoming_rows"):
            assert connection.execute(f"select count(*) from {table}").fetchone() == (0,)
        assert picture_count(connection, collection_named(connection, "others").id) == 3


def _twice(number: int) -> int:
    if number == 7:
        raise BadInput("seven")
    return 2 * number


def test_many_things_are_done_side_by_side_and_come_in_their_order():
    assert list(in_order(_twice, (number for number in range(30) if number != 7))) == [
        2 * number for number in range(30) if number != 7
    ]
    with pytest.raises(BadInput, match="seven"):
        list(in_order(_twice, range(30)))
    # Whoever wants no more of them leaves the rest undone.
    some = in_order(_twice, iter(range(6)))
    assert next(some) == 0
    some.close()


def test_many_pages_are_read_as_few_are(pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    folder = logbook(tmp_path)
    (folder / "log/3.xml").write_bytes(b"<alto/>")
    (folder / "log/4.txt").write_text("notes")
    told: list[ImportReport] = []
    for name, few in (("alone", 200), ("together", 1)):
        monkeypatch.setattr("pale_harbor.formats.records.scanned_pages._MANY", few)
        monkeypatch.setattr("pale_harbor.work.imports.importing._MANY_PICTURES", few)
        told.append(import_now(pool, name, FileSource(Source(folder)), ImportPlan()))
    assert [one.reason for one in told[0].rejects] == [one.reason for one in told[1].rejects]
    with pool.connection() as connection:
        alone, together = (
            [one.field_values for one in all_records(connection, collection_named(connection, name).id)]
            for name in ("alone", "together")
        )
        assert picture_count(connection, collection_named(connection, "together").id) == 3
    assert alone == together
    assert len(alone) == 3
