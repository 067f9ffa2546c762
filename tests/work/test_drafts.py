"""A draft that nobody kept is not lost, and what somebody else kept meanwhile is not passed over."""

from pathlib import Path
from typing import Any

import pytest

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.ranking.drafts import MOST_DRAFTS
from pale_harbor.store.ranking.rankers import put_note
from pale_harbor.work.ranking.drafts import begin_draft, discard_draft, drafts_told, go_on_with_draft
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows


def document(weight: float, chain: str = "words > lower") -> dict[str, Any]:
    return {"readings": [{"field": "title", "chain": chain, "weight": weight}]}


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}])
    bench.put_ranker("coast", "first", ranker_document(document(1)))
    return bench


def test_a_draft_is_kept_as_it_changes_until_it_is_discarded(coast: Workbench):
    one = begin_draft(coast, "coast", "first", 1, document(2))
    other = begin_draft(coast, "coast", "first", 1, document(3))
    go_on_with_draft(coast, "coast", one, document(4))
    # The latest changed stands first.
    assert [(draft.id, draft.says) for draft in drafts_told(coast, "coast")] == [
        (one, ["title weight 1 to 4"]),
        (other, ["title weight 1 to 3"]),
    ]
    discard_draft(coast, "coast", one)
    discard_draft(coast, "coast", one)
    with pytest.raises(NotFound, match="kept as a version or discarded"):
        go_on_with_draft(coast, "coast", one, document(5))
    assert [draft.id for draft in drafts_told(coast, "coast")] == [other]


def test_a_draft_stands_on_a_version_that_there_is(coast: Workbench):
    with pytest.raises(NotFound, match="in version 2"):
        begin_draft(coast, "coast", "first", 2, document(2))
    with pytest.raises(NotFound, match='no ranker "other"'):
        begin_draft(coast, "coast", "other", 1, document(2))


def test_a_draft_that_cannot_be_read_is_told_with_what_is_wrong(coast: Workbench):
    begin_draft(coast, "coast", "first", 1, document(2, "words > sideways"))
    (draft,) = drafts_told(coast, "coast")
    assert draft.says == []
    assert draft.problem is not None
    assert "sideways" in draft.problem
    assert draft.document == document(2, "words > sideways")


def test_what_was_changed_last_stands_first_even_where_the_clock_was_set_back(coast: Workbench):
    old = [begin_draft(coast, "coast", "first", 1, document(number + 2)) for number in range(MOST_DRAFTS)]
    with coast.pool.connection() as connection:
        # As a clock had it that was an hour ahead.
        connection.execute("update drafts set changed_at = changed_at + interval '1 hour'")
    new = begin_draft(coast, "coast", "first", 1, document(99))
    go_on_with_draft(coast, "coast", old[5], document(98))
    found = [draft.id for draft in drafts_told(coast, "coast")]
    assert found[:2] == [old[5], new]
    assert set(found) == {*old[1:], new}


def test_of_many_drafts_the_one_that_was_left_longest_goes(coast: Workbench):
    ids = [begin_draft(coast, "coast", "first", 1, document(number)) for number in range(2, MOST_DRAFTS + 2)]
    go_on_with_draft(coast, "coast", ids[0], document(99))
    latest = begin_draft(coast, "coast", "first", 1, document(100))
    assert [draft.id for draft in drafts_told(coast, "coast")] == [latest, ids[0], *ids[:1:-1]]


def test_drafts_are_those_of_one_collection(coast: Workbench, tmp_path: Path):
    load_rows(coast.pool, tmp_path, [{"id": "a", "title": "Fog"}], "shore")
    own = begin_draft(coast, "coast", "first", 1, document(2))
    assert drafts_told(coast, "shore") == []
    discard_draft(coast, "shore", own)
    assert len(drafts_told(coast, "coast")) == 1
    coast.rename_collection("coast", "bay")
    assert [draft.id for draft in drafts_told(coast, "bay")] == [own]


def test_a_draft_that_is_kept_is_none_any_more(coast: Workbench):
    own = begin_draft(coast, "coast", "first", 1, document(2))
    coast.put_ranker("coast", "first", ranker_document(document(2)), draft=own)
    assert drafts_told(coast, "coast") == []


def test_a_version_that_was_kept_meanwhile_is_told_before_another_takes_its_place(coast: Workbench):
    own = begin_draft(coast, "coast", "first", 1, document(2))
    coast.put_ranker("coast", "first", ranker_document(document(3)), "bells first")
    (draft,) = drafts_told(coast, "coast")
    assert (draft.version, draft.newest) == (1, 1)
    with pytest.raises(BadInput, match="first:2 was kept meanwhile: bells first"):
        coast.put_ranker("coast", "first", ranker_document(document(2)), newest_known=draft.newest, draft=own)
    assert len(drafts_told(coast, "coast")) == 1
    # Whoever knows of it may keep theirs all the same.
    assert coast.put_ranker("coast", "first", ranker_document(document(2)), newest_known=2, draft=own).version == 3
    # A name that is taken already is no new ranker.
    with pytest.raises(BadInput, match='a ranker "first" already, in version 3'):
        coast.put_ranker("coast", "first", ranker_document(document(7)), newest_known=0)
    assert coast.put_ranker("coast", "bells", ranker_document(document(7)), newest_known=0).title == "bells:1"


def test_what_a_colleague_kept_that_says_the_same_is_no_hindrance(coast: Workbench):
    coast.put_ranker("coast", "first", ranker_document(document(2)))
    assert coast.put_ranker("coast", "first", ranker_document(document(2)), newest_known=1).version == 2


def test_why_a_version_was_kept_is_said_in_other_words(coast: Workbench):
    with coast.pool.connection() as connection:
        row = connection.execute("select id from collections where name = 'coast'").fetchone()
        assert row is not None
        assert put_note(connection, row[0], "first", 1, "plain words").note == "plain words"
        with pytest.raises(NotFound):
            put_note(connection, row[0], "first", 2, "none")


def test_a_branch_reads_chains_in_the_versions_of_what_it_was_branched_from(coast: Workbench):
    coast.put_chain("coast", "english", "words > lower")
    coast.put_ranker("coast", "own", ranker_document(document(1, "@english")))
    coast.put_chain("coast", "english", "words > lower > stem(en)")
    branch = ranker_document(document(2, "@english"))
    kept = coast.put_ranker("coast", "branch", branch, based_on=RankerChoice("own", 1), newest_known=0)
    assert kept.chain_versions == {"english": 1}
