"""What would help: queries grouped by what ails them, and changes tried on all of them, in a collection made for it."""

import json
from collections.abc import Generator
from typing import Any
from uuid import uuid4

import pytest

from pale_harbor.core.tuning.ailments import Ails
from pale_harbor.errors import Cancelled, NotFound
from pale_harbor.formats.judged_files import FileJudgment, judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.judging.made_up import MADE_UP
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.running.worker import do_job
from pale_harbor.work.tuning import ailing, found_synonyms, remedies
from pale_harbor.work.tuning.found_synonyms import tells
from pale_harbor.work.tuning.remedies import (
    RemediesTold,
    RemedyGroup,
    begin_remedies,
    end_remedies,
    remedies_done,
    remedies_now,
    remedies_told,
)
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

LANTERNS = ["Lantern of brass", "Lantern of tin", "Lantern of horn"]
ROWS: list[dict[str, Any]] = [
    *({"id": f"l{i}", "name": name, "about": "Burns oil", "kind": "light"} for i, name in enumerate(LANTERNS)),
    {"id": "post", "name": "Lamp post", "about": "Iron", "kind": "light"},
    {"id": "buoy", "name": "Marker", "about": "Painted", "kind": "spar"},
    {"id": "kedge", "name": "Kedge anchor", "about": "Iron", "kind": "anchor"},
    {"id": "secret", "name": "Forbidden chart", "about": "Drawn", "kind": "hidden"},
    # Loud records: their short names outrank a long one.
    *({"id": f"n{i}", "name": "Net", "about": f"Mended {i}", "kind": "net"} for i in range(12)),
    {"id": "net", "name": "Long account of the day on which the drift was lost", "about": "net net net", "kind": "net"},
    *({"id": f"z{i}", "name": f"Label {i}", "about": "Paper", "kind": "label"} for i in range(40)),
]
# By query: the records that are good for it.
WANTED = {
    "lamp": ["l0", "l1", "l2"],
    "ancor": ["kedge"],
    "spar": ["buoy"],
    "forbidden": ["secret"],
    "net": ["net"],
    "label 7": ["z7"],
}
OFF_TOPIC = {"lamp": ["post"], "net": [f"n{i}" for i in range(12)], "label 7": [f"z{i}" for i in range(40) if i != 7]}
DOCUMENT: dict[str, Any] = {
    "readings": [
        {"field": "name", "chain": "words > lower", "weight": 4},
        {"field": "about", "chain": "words > lower"},
    ],
    "filters": [{"field": "kind", "one_of": ["light", "anchor", "net", "label", "spar"]}],
}


@pytest.fixture
def quay(cluster: Cluster, tmp_path: Any) -> Generator[Workbench]:
    name = f"remedies_{uuid4().hex[:12]}"
    make_database(cluster, name)
    grades = [f"{query} 0 {key} 3\n" for query, keys in WANTED.items() for key in keys]
    grades += [f"{query} 0 {key} 0\n" for query, keys in OFF_TOPIC.items() for key in keys]
    queries = [{"query_id": query.replace(" ", "-"), "query": query} for query in WANTED]
    with open_pool(cluster.address(name)) as pool:
        bench = Workbench(pool, tmp_path / "indexes")
        load_rows(pool, tmp_path, ROWS, "quay")
        bench.put_ranker("quay", "own", ranker_document(DOCUMENT))
        put_judged_set(
            bench,
            "quay",
            "asked",
            queries_in("".join(json.dumps(one) + "\n" for one in queries), "the queries"),
            judgments_in("".join(grades).replace("label 7", "label-7"), "the grades"),
            locked_share=0,
        )
        yield bench


PLAN = RankerPlan(ranker="own", version=1)


@pytest.fixture
def found(quay: Workbench) -> RemediesTold:
    return remedies_now(quay, "quay", "asked", PLAN)


def group(found: RemediesTold, ails: Ails) -> RemedyGroup:
    (own,) = [one for one in found.groups if one.ails is ails]
    return own


def tried(own: RemedyGroup, words: str) -> remedies.TriedChange:
    (change,) = [one for one in own.tried if one.words == words]
    return change


def test_each_query_stands_in_the_group_of_what_ails_it(found: RemediesTold):
    by_group = {(one.ails, one.part): [query.query for query in one.queries] for one in found.groups}
    assert by_group == {
        (Ails.LACKS, ""): ["lamp"],
        (Ails.UNKNOWN, ""): ["ancor", "spar"],
        (Ails.SHUT_OUT, ""): ["forbidden"],
        (Ails.OUTRANKED, "name"): ["net"],
    }
    assert found.well_served == 1
    assert found.state == "done"
    assert found.mean == pytest.approx(1 / 6)
    best = group(found, Ails.LACKS).queries[0].best
    assert (best.key, best.title, best.grade, best.rank, best.lacks) == ("l0", "Lantern of brass", 3, None, ["lamp"])
    outranked = group(found, Ails.OUTRANKED).queries[0].best
    assert (outranked.key, outranked.rank) == ("net", 13)


def test_a_synonym_is_found_in_the_words_of_good_records_and_tried_with_the_list_that_it_takes(found: RemediesTold):
    change = tried(group(found, Ails.LACKS), "“lamp” and “lantern” in name, by @synonyms")
    assert (change.gained, change.lost, change.gained_here) == (1, 0, 1)
    assert change.new_list is not None
    assert (change.new_list.name, change.new_list.version, change.new_list.row) == ("synonyms", 1, "lamp,lantern,both")
    assert [(one.query, one.before) for one in change.moved] == [("lamp", 0.0)]
    assert change.moved[0].after > 0.6
    # "brass" stands in one of the three records that lack the word: it tells nothing.
    assert not any("brass" in one.words for one in group(found, Ails.LACKS).tried)


def test_a_misspelling_is_met_by_slack_and_a_filter_by_dropping_it(found: RemediesTold):
    slack = tried(group(found, Ails.UNKNOWN), "spelling slack by the length of the word")
    assert (slack.gained_here, slack.lost_here, slack.new_list) == (1, 0, None)
    (dropped,) = group(found, Ails.SHUT_OUT).tried[:1]
    assert dropped.words.startswith("drop the filter")
    assert dropped.gain == pytest.approx(1 / 6)
    assert dropped.document["filters"] == []
    unknown = [one.words for one in group(found, Ails.UNKNOWN).tried]
    # A word that is only spelled otherwise is no synonym; one that nobody writes may be.
    assert "“spar” and “marker” in name, by @synonyms" in unknown
    assert not any("“ancor”" in one for one in unknown)
    # A word that other records hold is no misspelling.
    assert not any("slack" in one.words for one in group(found, Ails.LACKS).tried)


def test_what_outranks_is_made_lighter_and_what_is_tried_is_measured_on_all_queries(
    quay: Workbench, found: RemediesTold
):
    own = group(found, Ails.OUTRANKED)
    assert {"name weight 4 to 2", "about weight 1 to 2", "readings pooled"} <= {one.words for one in own.tried}
    assert [one.gain for one in own.tried] == sorted((one.gain for one in own.tried), reverse=True)
    change = own.tried[0]
    again = remedies_now(quay, "quay", "asked", RankerPlan(document=ranker_document(change.document)))
    assert again.mean is not None
    assert found.mean is not None
    assert again.mean - found.mean == pytest.approx(change.gain)


def test_what_is_built_for_a_try_is_let_go(quay: Workbench, found: RemediesTold):
    (kept,) = quay.with_collection("quay", lambda opened: opened.readings_on_disk())
    assert any(one.words == "a reading of kind" for own in found.groups for one in own.tried)
    assert len(kept - {"keys"}) == len(DOCUMENT["readings"])


def test_more_than_half_unjudged_is_told_and_nothing_is_tried(quay: Workbench):
    put_judged_set(
        quay,
        "quay",
        "new",
        queries_in('{"query_id": "net", "query": "net"}\n', "the queries"),
        judgments_in("net 0 net 3\n", "the grades"),
        locked_share=0,
    )
    found = remedies_now(quay, "quay", "new", PLAN)
    (own,) = found.groups
    assert own.ails is Ails.UNJUDGED
    assert own.tried == []


def test_in_a_made_up_set_unjudged_records_are_known_not_to_be_good(quay: Workbench):
    queries = queries_in('{"query_id": "net", "query": "net"}\n', "the queries")
    judgments = [FileJudgment(query_id="net", record="net", grade=3, judge=MADE_UP)]
    put_judged_set(quay, "quay", "made", queries, judgments, locked_share=0)
    found = remedies_now(quay, "quay", "made", PLAN)
    assert [one.ails for one in found.groups] == [Ails.OUTRANKED]


def test_an_index_of_its_own_is_not_built_in_a_large_collection(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(remedies, "MOST_INDEXED", len(ROWS))
    most = remedies_now(quay, "quay", "asked", PLAN)
    monkeypatch.setattr(remedies, "MOST_INDEXED", len(ROWS) - 1)
    few = remedies_now(quay, "quay", "asked", PLAN)
    assert sum(one.untried for one in most.groups) == 0
    assert sum(one.untried for one in few.groups) > 0


def test_it_is_ended_and_says_when_it_is_of_the_past(quay: Workbench, tmp_path: Any):
    number = begin_remedies(quay, "quay", "asked", PLAN, by_server=False)
    end_remedies(quay, "quay", number)
    with pytest.raises(Cancelled):
        do_job(quay.pool, number, remedies_done(quay))
    with pytest.raises(NotFound, match="no remedies 77"):
        end_remedies(quay, "quay", 77)
    assert remedies_now(quay, "quay", "asked", PLAN).is_current
    load_rows(quay.pool, tmp_path, [{"id": "more", "name": "More", "about": "", "kind": ""}], "quay")
    assert [one.is_current for one in remedies_told(quay, "quay") if one.mean is not None] == [False]


def named(found: RemediesTold) -> list[str]:
    return sorted(query.query for group in found.groups for query in group.queries)


def test_a_query_that_comes_out_at_the_bound_is_served_well_enough(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    # "net" has its one record at rank 13: by reciprocal rank that is 1/13.
    plan = PLAN.model_copy(update={"measure": "rr"})
    monkeypatch.setattr(ailing, "WELL_SERVED", 1 / 13)
    assert "net" not in named(remedies_now(quay, "quay", "asked", plan))
    monkeypatch.setattr(ailing, "WELL_SERVED", 1 / 13 + 1e-9)
    assert "net" in named(remedies_now(quay, "quay", "asked", plan))


def test_of_many_only_the_worst_are_looked_into(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(ailing, "MOST_AILING", 2)
    # Of the five that come out at nothing the first two by id.
    assert named(remedies_now(quay, "quay", "asked", PLAN)) == ["ancor", "forbidden"]


def test_no_more_changes_are_tried_for_a_group_than_it_may_have(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(remedies, "MOST_CHANGES", 2)
    monkeypatch.setattr(remedies, "MOST_SYNONYMS", 1)
    found = remedies_now(quay, "quay", "asked", PLAN)
    assert max(len(one.tried) for one in found.groups if one.ails is Ails.OUTRANKED) == 2
    assert max(sum(change.new_list is not None for change in one.tried) for one in found.groups) == 1


def test_common_words_and_more_meanings_than_enough_are_no_synonyms(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    # Three records of sixty say "lantern".
    def meanings() -> list[str]:
        own = group(remedies_now(quay, "quay", "asked", PLAN), Ails.LACKS)
        return [one.words for one in own.tried if one.words.startswith("“lamp” and")]

    monkeypatch.setattr(found_synonyms, "MOST_COMMON", 3 / len(ROWS))
    assert any("“lantern”" in one for one in meanings())
    monkeypatch.setattr(found_synonyms, "MOST_COMMON", 2.9 / len(ROWS))
    assert not any("“lantern”" in one for one in meanings())
    monkeypatch.setattr(found_synonyms, "FEW", 3)
    assert any("“lantern”" in one for one in meanings())
    monkeypatch.setattr(found_synonyms, "MOST_MEANINGS", 0)
    assert meanings() == []


def test_a_word_tells_by_how_much_more_often_missed_records_hold_it():
    assert tells(2, 2, 10, 1_000) == pytest.approx(2 * 4.60517, abs=1e-4)
    # No more often than records at large.
    assert tells(1, 10, 100, 1_000) == 0
    assert tells(1, 20, 100, 1_000) < 0


# Three queries ask for a picture, two for a drawing, one for an engraving.
PICTURES = {
    "picture kedge": "kedge",
    "Picture lamp": "post",
    "picture of marker": "buoy",
    "drawing lamp": "post",
    "drawing kedge": "kedge",
    "engraving lamp": "post",
}


@pytest.fixture
def pictures(quay: Workbench) -> Workbench:
    """Visitors who say what no record says: that they want a picture."""
    queries = [{"query_id": f"p{number}", "query": query} for number, query in enumerate(PICTURES)]
    put_judged_set(
        quay,
        "quay",
        "pictures",
        queries_in("".join(json.dumps(one) + "\n" for one in queries), "the queries"),
        judgments_in("".join(f"p{n} 0 {key} 3\n" for n, key in enumerate(PICTURES.values())), "the grades"),
        locked_share=0,
    )
    quay.put_ranker("quay", "all", ranker_document(DOCUMENT | {"need": "all", "filters": []}))
    return quay


def test_a_word_that_several_queries_had_better_do_without_is_found_and_tried_in_a_list(pictures: Workbench):
    found = remedies_now(pictures, "quay", "pictures", RankerPlan(ranker="all", version=1))
    own = group(found, Ails.UNKNOWN)
    # "engraving" is the affair of one query.
    said = "left out of queries, by @left-out"
    assert {one.words for one in own.tried if "left out" in one.words} == {f"“picture” {said}", f"“drawing” {said}"}
    change = tried(own, f"“picture” {said}")
    assert change.new_list is not None
    assert (change.new_list.version, change.new_list.columns, change.new_list.row) == (1, "word", "picture")
    chains = {one["query_chain"] for one in change.document["readings"]}
    assert chains == {"words > lower > stopwords(@left-out:1)"}
    # "of" stands in no name of a marker: with all words needed that query is missed still.
    assert sorted(one.query for one in change.moved) == ["Picture lamp", "picture kedge"]
    # Kept, it is what the figures said.
    put_list(pictures, "quay", "left-out", "word\npicture\n", None)
    pictures.put_ranker("quay", "without", ranker_document(change.document))
    again = remedies_now(pictures, "quay", "pictures", RankerPlan(ranker="without", version=1))
    assert found.mean is not None
    assert again.mean == pytest.approx(found.mean + change.gain)


def test_a_list_of_words_to_leave_out_grows_by_a_version(pictures: Workbench):
    put_list(pictures, "quay", "left-out", "word\nsketch\n", None)
    document = DOCUMENT | {
        "need": "all",
        "filters": [],
        "readings": [one | {"query_chain": "words > lower > stopwords(@left-out)"} for one in DOCUMENT["readings"]],
    }
    pictures.put_ranker("quay", "some", ranker_document(document))
    found = remedies_now(pictures, "quay", "pictures", RankerPlan(ranker="some", version=1))
    change = tried(group(found, Ails.UNKNOWN), "“picture” left out of queries, by @left-out")
    assert change.new_list is not None
    assert (change.new_list.name, change.new_list.version) == ("left-out", 2)
    assert change.document["readings"][0]["query_chain"] == "words > lower > stopwords(@left-out:2)"
    assert change.gained == 2
