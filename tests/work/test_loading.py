"""Loading: what goes in comes out, what cannot is told, and nothing is ever half stored."""

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.records.records import records_with_keys
from tests.loading import Rows, file_of, load_path


def counts(pool: Pool, path: Path) -> tuple[int, int, int, int]:
    report = load_path(pool, path)
    return report.added, report.updated, report.unchanged, report.rejected


def test_a_second_load_finds_what_is_new_what_changed_and_what_did_not(pool: Pool, tmp_path: Path):
    rows: Rows = [{"id": "a", "n": 1}, {"id": "b", "n": 2}]
    assert counts(pool, file_of(tmp_path, rows)) == (2, 0, 0, 0)
    assert counts(pool, file_of(tmp_path, rows)) == (0, 0, 2, 0)
    assert counts(pool, file_of(tmp_path, [{"n": 1, "id": "a"}, {"id": "b", "n": 3}, {"id": "c"}])) == (1, 1, 1, 0)


def test_the_revision_rises_with_changes_only_and_equal_records_have_equal_fingerprints(pool: Pool, tmp_path: Path):
    def state() -> tuple[int, str]:
        with pool.connection() as connection:
            kept = collection_named(connection, "coast")
        return kept.revision, kept.fingerprint

    first: Rows = [{"id": "a", "n": 1}]
    counts(pool, file_of(tmp_path, first))
    before = state()
    counts(pool, file_of(tmp_path, first))
    assert state() == before
    counts(pool, file_of(tmp_path, [{"id": "a", "n": 2}]))
    assert state()[0] == before[0] + 1
    assert state()[1] != before[1]
    counts(pool, file_of(tmp_path, first))
    assert state() == (before[0] + 2, before[1])


def test_a_key_that_stands_twice_is_told_and_the_first_one_counts(pool: Pool, tmp_path: Path):
    path = file_of(tmp_path, [{"id": "a", "n": 1}, {"id": "b"}, {"id": "a", "n": 2}])
    report = load_path(pool, path)
    with pool.connection() as connection:
        kept = records_with_keys(connection, collection_named(connection, "coast").id, ["a"])
    assert [(reject.line, reject.reason) for reject in report.rejects] == [
        (3, 'the key "a" was already on line 1 of this file.')
    ]
    assert kept["a"].field_values == {"id": "a", "n": 1}


def test_a_file_that_cannot_be_used_leaves_nothing_behind(pool: Pool, tmp_path: Path):
    path = tmp_path / "broken.csv"
    path.write_bytes(b"name,name\n1,2\n")
    with pytest.raises(BadInput, match='the header names "name" more than once'):
        load_path(pool, path)
    with pool.connection() as connection, pytest.raises(NotFound):
        collection_named(connection, "coast")


def test_another_key_field_is_refused(pool: Pool, tmp_path: Path):
    counts(pool, file_of(tmp_path, [{"id": "a", "code": "x"}]))
    with pytest.raises(BadInput) as caught:
        load_path(pool, file_of(tmp_path, [{"id": "a", "code": "x"}]), plan=ImportPlan(key="code"))
    assert str(caught.value) == 'The key of "coast" is the field "id", not "code".'


@pytest.mark.parametrize("name", ["", "Coast", "-x", "a b", "../x", "x" * 64, "ü"])
def test_a_name_that_cannot_be_one_is_refused(pool: Pool, tmp_path: Path, name: str):
    with pytest.raises((BadInput, NotFound)):
        load_path(pool, file_of(tmp_path, [{"id": "a"}]), name)


def test_kinds_of_fields_are_told_from_all_their_values(pool: Pool, tmp_path: Path):
    counts(
        pool,
        file_of(tmp_path, [{"id": "1", "y": 1, "f": True, "t": "x"}, {"id": "2", "y": None, "m": 3, "l": [1, "x"]}]),
    )
    counts(pool, file_of(tmp_path, [{"id": "3", "m": "three"}]))
    with pool.connection() as connection:
        fields = fields_of(connection, collection_named(connection, "coast").id)
    assert {field.name: field.kind for field in fields} == {
        "id": "exact", "y": "number", "f": "flag", "t": "exact", "m": "text", "l": "exact",
    }  # fmt: skip
    assert [field.name for field in fields if field.is_key] == ["id"]


_scalars = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**53), 2**53),
    st.floats(allow_nan=False, allow_infinity=False),
    st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), max_size=20),
)


@settings(max_examples=30, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    values=st.dictionaries(
        st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), min_size=1, max_size=8).filter(
            lambda name: name.strip() != "" and name != "id"
        ),
        _scalars | st.lists(_scalars, max_size=3),
        max_size=5,
    )
)
def test_a_record_comes_back_as_it_went_in(pool: Pool, tmp_path: Path, values: dict[str, object]):
    path = file_of(tmp_path, [{"id": "k", **values}])
    load_path(pool, path)
    with pool.connection() as connection:
        kept = records_with_keys(connection, collection_named(connection, "coast").id, ["k"])["k"]
    assert kept.field_values == {"id": "k", **values}
