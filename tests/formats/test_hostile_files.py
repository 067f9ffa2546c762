"""Files made to unfold, widen and multiply without end: each is refused with a sentence, and soon."""

import struct
import zlib
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.records import ImportPlan, RawRow, Source
from pale_harbor.formats.records import parquet as parquet_room
from pale_harbor.formats.records.conversion import FIELDS_AT_MOST
from pale_harbor.formats.records.guessing import DIFFERENT_FIELDS_AT_MOST, Evidence
from pale_harbor.formats.records.opening import Unfolding
from pale_harbor.formats.records.parquet import Parquet
from pale_harbor.work.imports.sources import FileSource


def rows_of(path: Path, plan: ImportPlan | None = None) -> list[RawRow]:
    source = FileSource(Source(path))
    return list(source.rows(source.complete_plan(plan or ImportPlan())))


def lying_over_one_another(path: Path, entries: int, size: int) -> None:
    """A zip file with one packed text that many entries name."""
    content = b"a" * size
    packing = zlib.compressobj(9, zlib.DEFLATED, -15)
    packed = packing.compress(content) + packing.flush()
    name, check = b"a.txt", zlib.crc32(content)
    common = (0, 8, 0, 0, check, len(packed), size, len(name), 0)
    own = struct.pack("<IHHHHHIIIHH", 0x04034B50, 20, *common) + name + packed
    entry = struct.pack("<IHHHHHHIIIHHHHHII", 0x02014B50, 20, 20, *common, 0, 0, 0, 0, 0) + name
    directory = entry * entries
    end = struct.pack("<IHHHHIIH", 0x06054B50, 0, 0, entries, entries, len(directory), len(own), 0)
    path.write_bytes(own + directory + end)


def test_entries_of_a_zip_that_lie_over_one_another_are_refused(tmp_path: Path):
    path = tmp_path / "over.zip"
    lying_over_one_another(path, 2_000, 4_000_000)
    with pytest.raises(BadInput, match="its entries lie over one another"):
        rows_of(path)
    lying_over_one_another(path, 1, 1_000)
    assert [row.values and row.values["text"] for row in rows_of(path)] == ["a" * 1_000]


def test_what_unfolds_is_counted_as_a_whole(tmp_path: Path):
    file = tmp_path / "packed"
    file.write_bytes(b"x" * 100_000)
    unfolding = Unfolding(Source(file))
    # A thousand times as much as the file holds, and not a byte more.
    unfolding.by(99_999_999)
    unfolding.by(1)
    with pytest.raises(BadInput, match="packed unfolds to more than 1,000 times its size"):
        unfolding.by(1)
    # Of a small file some megabytes are nothing yet.
    file.write_bytes(b"x")
    small = Unfolding(Source(file))
    small.by(64_000_000)
    with pytest.raises(BadInput):
        small.by(1)


def test_a_text_that_stands_once_in_a_parquet_file_and_in_all_its_rows_is_counted_row_by_row(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    path = tmp_path / "bomb.parquet"
    text = pa.DictionaryArray.from_arrays(pa.array([0] * 1_000, pa.int32()), pa.array(["x" * 1_000_000]))
    pq.write_table(pa.table({"id": [f"k{number}" for number in range(1_000)], "text": text}), path, compression="zstd")
    assert path.stat().st_size < 10_000
    seen: list[int] = []
    real = parquet_room._row  # pyright: ignore[reportPrivateUsage]

    def counted(place: int, values: dict[str, Any], json_columns: set[str]) -> RawRow:
        seen.append(place)
        return real(place, values, json_columns)

    monkeypatch.setattr(parquet_room, "_row", counted)
    with pytest.raises(BadInput, match="unfolds to more than 1,000 times its size"):
        list(Parquet().rows(Source(path), ImportPlan()))
    # Some sixty of them, not a thousand.
    assert len(seen) < 70


def test_large_rows_of_a_parquet_file_are_read_a_few_at_a_time(tmp_path: Path):
    path = tmp_path / "large.parquet"
    pq.write_table(pa.table({"id": ["a", "b"], "text": ["x", "y"], "tags": [["p", "q"], ["p"]]}), path)
    read = list(Parquet().rows(Source(path), ImportPlan()))
    assert [row.values for row in read] == [
        {"id": "a", "text": "x", "tags": ["p", "q"]},
        {"id": "b", "text": "y", "tags": ["p"]},
    ]
    with pq.ParquetFile(path) as small:
        assert parquet_room._rows_at_once(small) == 1_000  # pyright: ignore[reportPrivateUsage]
    wide = pa.table({"number": pa.array([list(range(1_000_000))] * 3)})
    pq.write_table(wide, path, compression="none", use_dictionary=False)
    with pq.ParquetFile(path) as large:
        # Eight million bytes each: eight of them are 64 million.
        assert parquet_room._rows_at_once(large) in (7, 8)  # pyright: ignore[reportPrivateUsage]


def test_a_batch_is_made_at_once_up_to_what_its_texts_could_come_to(monkeypatch: pytest.MonkeyPatch):
    texts = pa.DictionaryArray.from_arrays(pa.array([0, 1, 0], pa.int32()), pa.array(["abcd", "x"]))
    lists = pa.ListArray.from_arrays(pa.array([0, 2, 3], pa.int32()), texts)
    within = pa.StructArray.from_arrays([texts, texts], ["one", "other"])
    # As if each were as long as the longest: three times four letters.
    sizes = [parquet_room._largest_size(column) for column in (texts, lists, within)]  # pyright: ignore[reportPrivateUsage]
    assert sizes == [12, 12, 24]
    assert parquet_room._largest_size(pa.array([1, 2, 3], pa.int64())) == 24  # pyright: ignore[reportPrivateUsage]
    nothing = pa.DictionaryArray.from_arrays(pa.array([None], pa.int32()), pa.array([], pa.string()))
    assert parquet_room._largest_size(nothing) == 0  # pyright: ignore[reportPrivateUsage]
    batch = pa.record_batch({"text": texts})
    sliced: list[int] = []

    class Watched:
        columns, num_rows = batch.columns, batch.num_rows

        def to_pylist(self) -> list[dict[str, Any]]:
            return batch.to_pylist()

        def slice(self, row: int, count: int) -> Any:
            sliced.append(row)
            return batch.slice(row, count)

    for most, rows in ((12, []), (11, [0, 1, 2])):
        monkeypatch.setattr(parquet_room, "_BYTES_AT_ONCE", most)
        sliced.clear()
        read = list(parquet_room._values_of(Watched()))  # pyright: ignore[reportPrivateUsage]
        assert (read, sliced) == ([{"text": "abcd"}, {"text": "x"}, {"text": "abcd"}], rows)


@pytest.mark.parametrize("columns", [FIELDS_AT_MOST, FIELDS_AT_MOST + 1, 50_000])
def test_a_header_of_too_many_columns_is_refused_before_anything_is_made_of_it(columns: int, tmp_path: Path):
    path = tmp_path / "wide.csv"
    names = ",".join(f"c{number}" for number in range(columns))
    path.write_text(f"{names}\n{',' * (columns - 1)}\n")
    if columns <= FIELDS_AT_MOST:
        assert len(rows_of(path)) == 1
        return
    with pytest.raises(BadInput, match=rf"names {columns:,} columns; 2,000 are read at most"):
        rows_of(path)


def test_names_that_differ_from_record_to_record_come_to_an_end():
    evidence = Evidence()
    for record in range(10):
        evidence.note({f"f{record}_{number}": "x" for number in range(DIFFERENT_FIELDS_AT_MOST // 10)})
    evidence.note({"f0_0": "y"})
    with pytest.raises(BadInput, match=r'more than 10,000 different fields, among them "one more"'):
        evidence.note({"one more": "x"})
