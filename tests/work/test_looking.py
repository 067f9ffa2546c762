"""Looking at records: profiles are of the records as they are, samples say so, tokens are those of the readings."""

from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from pale_harbor.core.text.passages import PassageRule, SplitBy
from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.display import DisplayDocument, ShownField, default_display, display_document
from pale_harbor.formats.passages import passage_rule
from pale_harbor.store.collections.collections import collection_named, fields_of
from pale_harbor.store.records.records import record_with_key, sampled_records
from pale_harbor.work.records import looking
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.records.looking import Profiles, passages_of, preview_passages, tokens_of
from pale_harbor.work.running.caches import Memory
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

ROWS = [{"id": f"k{i}", "title": f"Fog bell {i % 3}", "n": i} for i in range(30)]


def test_a_profile_is_of_the_records_as_they_are(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, ROWS)
    first = bench.profiles.of("coast")
    assert bench.profiles.of("coast") is first
    assert (first.records, first.looked_at, first.revision) == (30, 30, 1)
    assert {one.name: one.distinct for one in first.fields} == {"id": 30, "title": 3, "n": 30}
    put_records(bench.pool, "coast", [{"id": "new", "title": "Lamp"}])
    again = bench.profiles.of("coast")
    assert {one.name: (one.filled, one.distinct) for one in again.fields}["title"] == (31, 4)


def test_a_large_collection_is_profiled_by_a_sample_that_stays_the_same(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr(looking, "MOST_PROFILED", 10)
    load_rows(bench.pool, tmp_path, ROWS)
    first, again = (Profiles(bench.pool, Memory()).of("coast") for _ in range(2))
    assert (first.records, first.looked_at) == (30, 10)
    assert first == again


@pytest.mark.parametrize(("most", "looked_at"), [(29, 29), (30, 30), (31, 30)])
def test_a_collection_that_is_not_larger_than_a_sample_is_profiled_whole(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, most: int, looked_at: int
):
    sampled: list[int] = []

    def sample(connection: Any, collection_id: int, count: int) -> Any:
        sampled.append(count)
        return sampled_records(connection, collection_id, count)

    monkeypatch.setattr(looking, "MOST_PROFILED", most)
    monkeypatch.setattr(looking, "sampled_records", sample)
    load_rows(bench.pool, tmp_path, ROWS)
    assert Profiles(bench.pool, Memory()).of("coast").looked_at == looked_at
    assert sampled == ([29] if most < 30 else [])


def test_only_the_latest_profiles_are_remembered(bench: Workbench, tmp_path: Path):
    # Room for one profile of three fields.
    profiles = Profiles(bench.pool, Memory(budget_bytes=4_000_000))
    for name in ("coast", "inland"):
        load_rows(bench.pool, tmp_path, ROWS, name)
    first = profiles.of("coast")
    profiles.of("inland")
    assert profiles.of("coast") is not first
    assert profiles.of("coast") == first


def test_tokens_of_a_record_are_those_of_each_reading(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": ["Fog bells", "Old name"], "text": "It rang and it rang."}])
    with bench.pool.connection() as connection:
        collection = collection_named(connection, "coast")
        record = record_with_key(connection, collection, "a")
    made = {one.field: one for one in tokens_of(record, bench.choose(collection, RankerChoice()).ranker)}
    assert [[token.text for token in tokens] for _, tokens in made["title"].values] == [
        ["fog", "bells"],
        ["old", "name"],
    ]
    assert [text for text, _ in made["title"].values] == ["Fog bells", "Old name"]


def test_passages_are_tried_and_kept(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "One. Two. Three."}, {"id": "b", "title": "Only one"}])
    rule = PassageRule(SplitBy.SENTENCES)
    seen = preview_passages(bench.pool, "coast", "title", rule)
    assert (seen.tried, seen.cut, seen.passages, seen.longest) == (2, 1, 4, 8)
    assert seen.values[0].text == "One. Two. Three."
    bench.change_field("coast", "title", "text", "title", {"by": "sentences"})
    with bench.pool.connection() as connection:
        collection = collection_named(connection, "coast")
        record = record_with_key(connection, collection, "a")
        fields = fields_of(connection, collection.id)
    assert [value.stretches for value in passages_of(record, fields)["title"]] == [[(0, 4), (5, 9), (10, 16)]]


@pytest.mark.parametrize(
    "data",
    [{"by": "chapters"}, {"by": "size", "size": 0}, {"by": "delimiter"}, {"by": "size", "size": 2, "overlap": 5}],
)
def test_a_rule_that_cannot_be_is_told(data: dict[str, object]):
    with pytest.raises(BadInput, match="This rule for passages cannot be used"):
        passage_rule(data)


def test_a_role_goes_from_one_field_to_another(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell", "name": "Old bell"}])

    def roles() -> dict[str, str | None]:
        with bench.pool.connection() as connection:
            return {one.name: one.role for one in fields_of(connection, collection_named(connection, "coast").id)}

    assert roles() == {"id": "key", "title": "title", "name": None}
    bench.change_field("coast", "name", "text", "title", None)
    assert roles() == {"id": "key", "title": None, "name": "title"}
    with pytest.raises(NotFound, match=r'has no field "nope"\. There are: id, title, name\.'):
        bench.change_field("coast", "nope", "text", None, None)
    with pytest.raises(BadInput, match="The key of a collection is settled"):
        bench.change_field("coast", "name", "exact", "key", None)


def test_how_records_are_shown_is_kept_and_begins_with_the_roles(bench: Workbench, tmp_path: Path):
    assert default_display(
        [("id", "exact", "key"), ("name", "text", "title"), ("text", "text", None)]
    ) == DisplayDocument(title="name", picture=None, fields=[ShownField(field="text", length="short")])
    # A field that is called as long texts are comes before others; without one it is the first after the title.
    told: list[tuple[str, str, str | None]] = [("name", "text", "title"), ("aside", "text", None)]
    assert default_display(told).fields == [ShownField(field="aside", length="short")]
    assert default_display([*told, ("text", "text", None)]).fields[0] == ShownField(field="text", length="short")
    assert default_display([("id", "exact", "key")]) == DisplayDocument()
    many = [(f"f{i}", "number", None) for i in range(40)]
    assert len(default_display(many).fields) == 12
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    with pytest.raises(BadInput) as caught:
        bench.change_display("coast", DisplayDocument(title="titel"))
    assert caught.value.problems[0][0] == "titel"
    assert 'Did you mean "title"?' in caught.value.problems[0][1]
    with pytest.raises(BadInput, match="This display cannot be used"):
        display_document({"fields": [{"field": "a", "length": "huge"}]})


def test_a_field_that_is_shown_has_a_name_of_one_letter_at_least():
    assert DisplayDocument(title="n").title == "n"
    with pytest.raises(ValidationError):
        DisplayDocument(title="")
    with pytest.raises(ValidationError):
        DisplayDocument(title="n" * 201)
