"""Each format has a good file, a bad one and a hostile one: a clear outcome, and nothing lost."""

import gzip
import random
import zipfile
from pathlib import Path
from typing import Any

import orjson
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from fpdf import FPDF
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.errors import BadInput
from pale_harbor.formats.records import LONGEST_ROW, ImportPlan, Source, format_of
from pale_harbor.formats.records.conversion import Unfit, record_of
from pale_harbor.formats.records.json_array import DEEPEST, JsonArray
from pale_harbor.formats.records.json_lines import JsonLines

Good = list[tuple[str, dict[str, Any]]]
Bad = list[tuple[int, str]]


def written(folder: Path, content: str | bytes, name: str = "file") -> Path:
    path = folder / name
    path.write_bytes(content.encode("utf-8", "surrogatepass") if isinstance(content, str) else content)
    return path


def read(path: Path, plan: ImportPlan | None = None) -> tuple[Good, Bad, list[str]]:
    """Records, rejects, and what stood where they were rejected."""
    plan = plan or ImportPlan(key="id")
    source = Source(path)
    own = format_of(source, plan)
    plan = own.complete_plan(source, plan)
    good: Good = []
    bad: Bad = []
    raw: list[str] = []
    for number, row in enumerate(own.rows(source, plan), start=1):
        try:
            record = record_of(row, number, plan)
            good.append((record.key, record.values))
        except Unfit as unfit:
            bad.append((row.line, str(unfit)))
            raw.append(row.raw_text)
    return good, bad, raw


def told_format(path: Path) -> str:
    return format_of(Source(path), ImportPlan()).name


ROWS = [{"id": "1", "title": "Fog, bell"}, {"id": "2", "title": 'a "b"\nc'}]


@pytest.mark.parametrize("zipped", [False, True])
@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("json_lines", '{"id": "1", "title": "Fog, bell"}\n\n{"id": "2", "title": "a \\"b\\"\\nc"}\n'),
        ("json_array", '\ufeff[{"id": "1", "title": "Fog, bell"}, {"id": "2", "title": "a \\"b\\"\\nc"}]'),
        ("delimited", 'id,title\r\n1,"Fog, bell"\r\n2,"a ""b""\nc"\r\n'),
        ("delimited", 'id\ttitle\n1\tFog, bell\n2\t"a ""b""\nc"\n'),
        ("delimited", '\ufeffid;title\n1;Fog, bell\n2;"a ""b""\nc"\n'),
        ("delimited", 'id|title\n1|Fog, bell\n2|"a ""b""\nc"\n'),
        ("delimited", 'id,title\n1,"Fog, bell"\n2,"a ""b""\nc"\n'.encode("utf-16")),
    ],
)
def test_the_same_records_are_read_from_every_format(tmp_path: Path, name: str, content: str | bytes, zipped: bool):
    raw = content.encode() if isinstance(content, str) else content
    path = written(tmp_path, gzip.compress(raw) if zipped else raw)
    assert told_format(path) == name
    assert read(path)[:2] == ([(str(row["id"]), row) for row in ROWS], [])


@pytest.mark.parametrize(
    ("line", "reason"),
    [
        ('{"id": "x"', "this is not JSON: unexpected end of data (character 11)."),
        ("[1, 2]", "a JSON object must stand here."),
        ('{"title": "x"}', 'the key field "id" is missing or empty.'),
        ('{"id": ""}', 'the key field "id" is missing or empty.'),
        ('{"id": 1.5}', 'the key field "id" must be a text or a whole number.'),
        ('{"id": true}', 'the key field "id" must be a text or a whole number.'),
        ('{"id": "a\\u0000b"}', 'the field "id" holds a NUL character (U+0000) at character 2.'),
        ('{"id": "a", " ": 1}', "a field has no name."),
        ('{"id": "a", "t": "\\ud800"}', "this is not JSON"),
        ('{"id": "' + "k" * 501 + '"}', "the key is longer than 500 characters."),
        ('{"id": "a", "t": ' + '{"d":' * 40 + "1" + "}" * 40 + "}", 'the field "t.d.d.d'),
        ('{"id": "a", "t": ' + "[" * 100_000 + "]" * 100_000 + "}", "this is not JSON"),
    ],
)
def test_a_row_that_cannot_be_read_is_told_with_line_and_reason(tmp_path: Path, line: str, reason: str):
    good, bad, raw = read(written(tmp_path, f'{{"id": "before"}}\n{line}\n{{"id": "after"}}\n'))
    assert [key for key, _ in good] == ["before", "after"]
    ((number, told),) = bad
    assert number == 2
    assert told.startswith(reason)
    assert raw == [line]


def test_nested_values_become_fields_with_dots(tmp_path: Path):
    row = {"id": "a", "place": {"name": "Saltmere", "at": {"x": 1}}, "makers": [{"name": "Coyle"}, {"name": "Orde"}]}
    (record,), bad, _ = read(written(tmp_path, orjson.dumps(row)))
    assert bad == []
    assert record[1] == {"id": "a", "place.name": "Saltmere", "place.at.x": 1, "makers.name": ["Coyle", "Orde"]}


def test_a_json_line_of_any_length_costs_one_reject_and_no_line_number(tmp_path: Path):
    long = '{"id": "long", "t": "' + "x" * (2 * LONGEST_ROW) + '"}'
    good, bad, _ = read(written(tmp_path, f'{{"id": "a"}}\n{long}\n{{"id": "b"}}\nno\n'))
    assert [key for key, _ in good] == ["a", "b"]
    assert bad[0] == (2, f"this line is longer than {LONGEST_ROW:,} bytes.")
    assert bad[1][0] == 4


def test_a_json_array_that_breaks_off_gives_what_came_before(tmp_path: Path):
    good, bad, _ = read(written(tmp_path, '[{"id": "a"}, {"id": "b"}, {"id": '))
    assert [key for key, _ in good] == ["a", "b"]
    assert bad[0][0] == 3
    assert "what came before was read" in bad[0][1]


def test_bad_rows_of_csv_are_told_and_the_rest_is_read(tmp_path: Path):
    good, bad, raw = read(written(tmp_path, b"id,title\n1,one\n2,two,too many\n3,\xff\xfe\n4,four\n"), UTF8)
    assert [key for key, _ in good] == ["1", "4"]
    assert bad == [(3, "3 cells, but the header has 2."), (4, "the byte 0xFF at character 3 is not utf-8.")]
    assert raw == ["2,two,too many\n", "3,\\xff\\xfe\n"]


UTF8 = ImportPlan(key="id", encoding="utf-8")


def test_a_nul_costs_its_own_row_only(tmp_path: Path):
    rows = "".join(f"{i},Fog {i}\n" for i in range(50))
    good, bad, raw = read(written(tmp_path, f"id,title\n{rows}x,a\x00b\ny,after\n"), UTF8)
    assert len(good) == 51
    assert bad == [(52, 'the field "title" holds a NUL character (U+0000) at character 2.')]
    assert raw == ["x,a\\x00b\n"]


def json_inside(inside: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    return st.lists(inside, max_size=3) | st.dictionaries(st.text(max_size=3), inside, max_size=3)


def test_a_json_array_as_deep_as_the_sea_is_told(tmp_path: Path):
    deep = '[{"id": "a"}, ' + '{"t": ' + "[" * 50_000 + "]" * 50_000 + "}]"
    good, bad, _ = read(written(tmp_path, deep))
    assert [key for key, _ in good] == ["a"]
    assert bad == [(2, "from here on this is not JSON (it is nested more than 500 deep); what came before was read.")]


def test_brackets_in_a_text_are_no_depth(tmp_path: Path):
    odd = [{"id": "a", "title": "[" * 2_000 + '"' + "\\" * 7 + "{" * 2_000}, {"id": "b", "title": "after"}]
    good, bad, _ = read(written(tmp_path, orjson.dumps(odd)))
    assert (good, bad) == ([(row["id"], row) for row in odd], [])


@given(rows=st.lists(st.recursive(st.none() | st.booleans() | st.floats(-9, 9) | st.text(max_size=4), json_inside)))
def test_a_json_array_gives_every_item_that_stands_in_it(rows: list[Any], tmp_path_factory: pytest.TempPathFactory):
    path = tmp_path_factory.mktemp("array") / "records.json"
    path.write_bytes(orjson.dumps(rows, option=orjson.OPT_INDENT_2))
    found = list(JsonArray().rows(Source(path), ImportPlan(key="id")))
    assert [orjson.loads(row.raw or b"") for row in found] == rows
    assert [row.values for row in found] == [row if isinstance(row, dict) else None for row in rows]


def test_a_quote_left_open_costs_its_own_line_only(tmp_path: Path):
    rows = [f"{i},title {i}" for i in range(100)]
    rows[10] = '10,"never closed'
    rows[20] = '20,"closed" too early'
    good, bad, raw = read(written(tmp_path, "id,title\n" + "\n".join(rows) + "\n"), UTF8)
    assert len(good) == 98
    assert [line for line, _ in bad] == [12, 22]
    assert bad[0][1] == 'the quote (") that is opened on this line is not closed where a cell ends.'
    assert raw == ['10,"never closed\n', '20,"closed" too early\n']


def test_quotes_left_open_everywhere_do_not_take_for_ever(tmp_path: Path):
    good, bad, _ = read(written(tmp_path, "id,title\n" + '1,"open\n' * 20_000), UTF8)
    assert len(good) + len(bad) > 5_000
    assert {line for line, _ in bad} <= set(range(2, 20_002))


def test_ten_megabytes_in_one_cell_are_read_and_twenty_are_told(tmp_path: Path):
    good, bad, _ = read(
        written(tmp_path, f"id,t\n1,{'x' * 10_000_000}\n2,{'y' * 20_000_000}\n3,{'z' * 40_000_000}\n4,short\n"), UTF8
    )
    assert [(key, len(values["t"])) for key, values in good] == [("1", 10_000_000), ("4", 5)]
    assert [line for line, _ in bad] == [3, 4]


@pytest.mark.parametrize("encoding", ["cp1252", "utf-8", "utf-16-le", "iso8859-15"])
def test_the_encoding_is_told_from_the_content(tmp_path: Path, encoding: str):
    text = "id,title\n" + "".join(
        f"{i},Der Leuchtturmwärter hört größere Böen über Saltmere ({i})\n" for i in range(30)
    )
    content = text.encode(encoding)
    good, bad, _ = read(written(tmp_path, b"\xff\xfe" + content if encoding == "utf-16-le" else content))
    assert bad == []
    assert good[3][1]["title"] == "Der Leuchtturmwärter hört größere Böen über Saltmere (3)"


@pytest.mark.parametrize(
    ("content", "problem"),
    [
        ("name,title\n1,2\n", 'neither JSON nor delimited text with a column "id"'),
        ("id,id\n1,2\n", 'the header names "id" more than once'),
        ("id,\n1,2\n", "column 2 has no name"),
        ("[1, 2", None),
        (b"\x89PNG\r\n\x1a\n\x00\x00", "of no kind that can be read"),
        (random.Random(7).randbytes(2_000) + b"\x00" * 9, None),
        (b"PAR1" + b"\x00" * 50, "cannot be read as Parquet"),
        (b"PK\x03\x04" + b"junk" * 20, "damaged zip"),
        (gzip.compress(b"id,t\n" * 900, mtime=0)[:-30], "damaged gzip"),
    ],
)
def test_a_file_that_cannot_be_used_is_refused_in_words(tmp_path: Path, content: str | bytes, problem: str | None):
    try:
        good, bad, _ = read(written(tmp_path, content))
    except BadInput as error:
        assert problem is None or problem in str(error)
    else:
        assert problem is None
        assert good == []
        assert bad


@pytest.mark.parametrize("content", [b"", b"\n\n", b"[]"])
def test_an_empty_file_holds_no_records(tmp_path: Path, content: bytes):
    assert read(written(tmp_path, content)) == ([], [], [])


def test_a_gzip_bomb_is_refused(tmp_path: Path):
    path = tmp_path / "bomb.csv.gz"
    with gzip.open(path, "wb") as file:
        # Few lines: what is tried is how much unfolds, not how many rows there are.
        file.write(b"id,title\n")
        for _ in range(80):
            file.write(b"x" * 999_999 + b"\n")
    with pytest.raises(BadInput, match="unfolds to more than 1,000 times its size"):
        read(path)


def test_parquet_is_read_with_its_types(tmp_path: Path):
    path = tmp_path / "records.parquet"
    table = pa.table({"id": ["a", "b"], "year": [1846, None], "materials": [["ash", "iron"], []], "ok": [True, None]})
    pq.write_table(table, path)
    assert told_format(path) == "parquet"
    good, bad, _ = read(path)
    assert bad == []
    assert good == [
        ("a", {"id": "a", "year": 1846, "materials": ["ash", "iron"], "ok": True}),
        ("b", {"id": "b", "materials": []}),
    ]


def test_bytes_in_parquet_are_told(tmp_path: Path):
    path = tmp_path / "records.parquet"
    pq.write_table(pa.table({"id": ["a"], "blob": [b"\x00\x01"]}), path)
    good, bad, _ = read(path)
    assert good == []
    assert bad == [(1, 'the field "blob" cannot be kept: it holds bytes, and a field holds texts, numbers or flags.')]


def test_a_folder_of_texts_is_a_record_for_each(tmp_path: Path):
    folder = tmp_path / "texts"
    (folder / "deep").mkdir(parents=True)
    written(folder, "# The fog bell\n\nIt rang.", "bell.md")
    written(folder, "Größe".encode("cp1252") * 20, "deep/old.txt")
    written(folder, "", "empty.txt")
    written(folder, b"\x89PNG", "picture.png")
    (folder / "link.txt").symlink_to("/etc/passwd")
    good, bad, _ = read(folder, ImportPlan())
    assert [key for key, _ in good] == ["bell.md", "deep/old.txt"]
    assert good[0][1] == {"file": "bell.md", "title": "The fog bell", "text": "# The fog bell\n\nIt rang."}
    assert "Größe" in good[1][1]["text"]
    assert [reason for _, reason in bad] == [
        "empty.txt is empty.",
        "link.txt is a link, and links are not followed.",
        "picture.png is neither text (.txt), Markdown (.md) nor PDF.",
    ]


def test_of_a_folder_as_many_bytes_are_read_as_its_files_hold(tmp_path: Path):
    folder = tmp_path / "texts"
    folder.mkdir()
    written(folder, "Fog.", "a.txt")
    written(folder, "Salt, and fog.", "b.txt")
    source = Source(folder)
    plan = ImportPlan()
    read_so_far = [source.bytes_read for _ in format_of(source, plan).rows(source, plan)]
    assert [*read_so_far, source.bytes_read] == [0, 4, 18]


def test_a_zip_is_read_and_never_written_anywhere(tmp_path: Path):
    path = tmp_path / "texts.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.txt", "Fog over the bay.")
        archive.writestr("../../escape.txt", "out")
        archive.writestr("/etc/escape.txt", "out")
        archive.writestr("bomb.txt", b"0" * 400_000_000)
    good, bad, _ = read(path, ImportPlan())
    assert [key for key, _ in good] == ["a.txt"]
    assert [reason for _, reason in bad] == [
        '"../../escape.txt" points outside the zip file.',
        '"/etc/escape.txt" points outside the zip file.',
        f"bomb.txt is longer than {LONGEST_ROW:,} bytes.",
    ]
    assert sorted(tmp_path.iterdir()) == [path]


def pdf_of(pages: list[str]) -> bytes:
    made = FPDF()
    made.set_font("helvetica")
    for text in pages:
        made.add_page()
        if text:
            made.multi_cell(0, 8, text)
        else:
            made.rect(20, 20, 100, 100)
    return bytes(made.output())


def test_a_pdf_is_read_by_page_and_a_page_without_text_is_told(tmp_path: Path):
    path = written(tmp_path, pdf_of(["Log of the Constant Anne.", "", "Fog all day."]), "log.pdf")
    good, bad, _ = read(path, ImportPlan())
    assert [(key, values["page"], values["text"].strip()) for key, values in good] == [
        ("log.pdf#page=1", 1, "Log of the Constant Anne."),
        ("log.pdf#page=3", 3, "Fog all day."),
    ]
    assert bad == [(2, "page 2 of log.pdf holds no text; it may be a picture of a page.")]


def test_a_broken_pdf_is_told(tmp_path: Path):
    whole = pdf_of(["Log of the Constant Anne."])
    for content in (whole[: len(whole) // 2], b"%PDF-1.7\n" + random.Random(7).randbytes(500)):
        good, bad, _ = read(written(tmp_path, content, "log.pdf"), ImportPlan())
        assert good == []
        assert "log.pdf" in bad[0][1]


@pytest.mark.parametrize(
    ("head", "kind"),
    [
        (b'{"id": "a"}\n', "JSON Lines"),
        (b"{}\n", "JSON Lines"),
        (b' {\n "id"', "JSON Lines"),
        (b"{,id\n,k0\n", None),
        (b"{id,title\n", None),
        (b'[{"id": 1}]', "JSON array"),
        (b"[\n]", "JSON array"),
        (b"[,id\n,k0\n", None),
        (b"[1],id\n", None),
    ],
)
def test_a_brace_or_a_bracket_alone_makes_no_json(head: bytes, kind: str | None, tmp_path: Path):
    path = tmp_path / "records.csv"
    path.write_bytes(head)
    known = {"JSON Lines": JsonLines(), "JSON array": JsonArray()}
    assert [name for name, one in known.items() if one.recognises(Source(path), head)] == ([kind] if kind else [])


@pytest.mark.parametrize(("brackets", "goes_on"), [(497, True), (498, True), (499, False), (600, False)])
def test_an_array_is_read_on_behind_five_hundred_brackets_and_not_behind_more(
    brackets: int, goes_on: bool, tmp_path: Path
):
    # The array and the object stand around them.
    deep = '[{"id": "a"}, {"id": "b", "t": ' + "[" * brackets + "]" * brackets + '}, {"id": "c"}]'
    good, bad, _ = read(written(tmp_path, deep))
    assert DEEPEST == 500
    assert [key for key, _ in good] == (["a", "c"] if goes_on else ["a"])
    assert ("nested more than 500 deep" in bad[0][1]) is not goes_on
