"""A search looks at the database once, and never answers from what was true before."""

from pathlib import Path
from typing import Any

import psycopg
import pytest

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.ranking.ranker_parts import Standing
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking import one_look
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows, reweighted

DEFAULT = RankerChoice()


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument) -> Workbench:
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell", "text": "x"}, {"id": "b", "title": "Fog"}])
    bench.put_ranker("coast", "first", simple_ranker)
    return bench


def found(bench: Workbench, query: str, choice: RankerChoice = DEFAULT) -> list[str]:
    return [row.key for row in one_look.search(bench, "coast", choice, lambda _: Question(query), 10).results]


@pytest.fixture
def statements(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What is asked of the database from now on."""
    seen: list[str] = []
    execute = psycopg.Cursor.execute

    def counted(self: Any, query: Any, *rest: Any, **more: Any) -> Any:
        seen.append(str(query))
        return execute(self, query, *rest, **more)

    monkeypatch.setattr(psycopg.Cursor, "execute", counted)
    return seen


def test_a_search_is_one_statement_once_the_collection_is_open(coast: Workbench, statements: list[str]):
    assert found(coast, "fog") == ["b", "a"]
    statements.clear()
    assert found(coast, "bell") == ["a"]
    assert len(statements) == 1


def test_it_finds_what_a_plain_search_finds(coast: Workbench):
    def plainly(opened: OpenCollection) -> Any:
        return find(opened, coast.choose(opened.collection, DEFAULT).ranker, Question("fog bell"), 10)

    plain = coast.with_collection("coast", plainly)
    for _ in range(2):
        once = one_look.search(coast, "coast", DEFAULT, lambda _: Question("fog bell"), 10)
        assert (once.results, once.matched, once.sources) == (plain.results, plain.matched, plain.sources)


def test_records_that_changed_since_the_last_search_are_seen(coast: Workbench, tmp_path: Path):
    assert found(coast, "horn") == []
    load_rows(coast.pool, tmp_path, [{"id": "c", "title": "Horn"}])
    assert found(coast, "horn") == ["c"]


def test_another_default_ranker_and_another_version_are_taken_at_once(coast: Workbench, simple_ranker: RankerDocument):
    assert found(coast, "x") == ["a"]
    of_titles = ranker_document(
        {**simple_ranker.written, "readings": [{"field": "title", "chain": "words > lower", "weight": 1}]}
    )
    coast.put_ranker("coast", "first", of_titles)
    assert found(coast, "x") == []
    assert found(coast, "x", RankerChoice("first", 1)) == ["a"]


def test_a_draft_of_a_field_that_has_just_come_is_not_refused(coast: Workbench, tmp_path: Path):
    draft = ranker_document({"readings": [{"field": "maker", "chain": "words > lower", "weight": 1}]})
    with pytest.raises(BadInput) as refused:
        found(coast, "osmer", RankerChoice(document=draft))
    assert "maker" in str(refused.value.problems)
    load_rows(coast.pool, tmp_path, [{"id": "c", "maker": "Osmer"}])
    assert found(coast, "osmer", RankerChoice(document=draft)) == ["c"]


def test_nothing_is_found_in_a_collection_that_was_renamed(coast: Workbench):
    assert found(coast, "fog") == ["b", "a"]
    coast.rename_collection("coast", "shore")
    with pytest.raises(NotFound, match='There is no collection "coast"'):
        found(coast, "fog")


def test_a_collection_that_keeps_changing_is_answered_while_the_next_change_waits(
    coast: Workbench, simple_ranker: RankerDocument, monkeypatch: pytest.MonkeyPatch
):
    """Whatever it looks at has changed by the time it looks: three times, then it holds the records still."""
    looks: list[str] = []
    look = one_look.standing_and_records

    def changing(connection: Any, name: str, ranker: str | None, keys: Any) -> tuple[Standing, Any]:
        looks.append(name)
        coast.put_ranker("coast", "first", reweighted(simple_ranker, 1.0 + len(looks)))
        return look(connection, name, ranker, keys)

    monkeypatch.setattr(one_look, "standing_and_records", changing)
    assert found(coast, "fog") == ["b", "a"]
    assert len(looks) == 3
