"""The ledger: what each part of a ranker earns on a judged set, what it costs, and what is let go afterwards."""

import json
from typing import Any
from uuid import uuid4

import pytest

from pale_harbor.core.tuning.earning import Earns, earning
from pale_harbor.errors import BadInput, Cancelled, NotFound
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.tuning_plan import RankerPlan
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.running.worker import do_job
from pale_harbor.work.tuning import ledger
from pale_harbor.work.tuning.ledger import LedgerTold, begin_ledger, end_ledger, ledger_now, ledgers_done, ledgers_told
from pale_harbor.work.tuning.ranker_parts import ListVersion
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

SHIPS = ["Petrel", "Tern", "Gannet", "Plover", "Dunlin", "Curlew", "Avocet", "Knot"]
DOCUMENT: dict[str, Any] = {
    "readings": [
        {"field": "name", "chain": "nfc > words > lower"},
        {"field": "text", "chain": "words", "weight": 1},
        {"field": "noise", "chain": "words > lower", "weight": 3},
        {"field": "unread", "chain": "words", "weight": 0},
    ],
    "spelling": {"edits": 1},
}


@pytest.fixture
def quay(cluster: Cluster, tmp_path: Any):
    """Ships asked for in small letters: names answer, texts in capitals add nothing, noise ranks another ship first."""
    name = f"ledger_{uuid4().hex[:12]}"
    make_database(cluster, name)
    rows = [
        {"id": name, "name": f"{name} of Saltmere", "text": "A sloop", "noise": "", "unread": name} for name in SHIPS
    ] + [{"id": f"x{name}", "name": "", "text": "A label", "noise": name, "unread": ""} for name in SHIPS]
    queries = [{"query_id": name, "query": name.lower()} for name in SHIPS]
    with open_pool(cluster.address(name)) as pool:
        bench = Workbench(pool, tmp_path / "indexes")
        load_rows(pool, tmp_path, rows, "quay")
        bench.put_ranker("quay", "own", ranker_document(DOCUMENT))
        put_judged_set(
            bench,
            "quay",
            "asked",
            queries_in("".join(json.dumps(one) + "\n" for one in queries), "the queries"),
            judgments_in("".join(f"{name} 0 {name} 3\n" for name in SHIPS), "the grades"),
            locked_share=0,
        )
        yield bench


def made(bench: Workbench, **more: Any) -> LedgerTold:
    return ledger_now(bench, "quay", "asked", RankerPlan(ranker="own", version=1, **more))


def test_every_part_is_left_out_once_and_told_with_what_it_earns(quay: Workbench):
    told = made(quay)
    assert (told.state, told.done) == ("done", told.in_all)
    assert told.is_current
    # A chain without its tokenizer is none.
    assert told.needed == ["stage name: words", "stage noise: words"]
    found = {(one.kind, one.name): one for one in told.lines}
    assert set(found) == {
        ("reading", "name"),
        ("stage", "name: nfc"),
        ("stage", "name: lower"),
        ("reading", "text"),
        ("reading", "noise"),
        ("stage", "noise: lower"),
        ("spelling slack", ""),
    }
    # Noise has short values, so that it ranks another ship first.
    noise = found["reading", "noise"]
    assert noise.earning.earns is Earns.HARMS
    assert (noise.earning.saved, noise.earning.harmed) == (0, 8)
    assert noise.moved[0].without == 1.0
    assert noise.moved[0].value == pytest.approx(told.mean)
    name = found["reading", "name"]
    assert name.earning.earns is Earns.EARNS
    assert name.earning.loses == pytest.approx(told.mean)
    assert name.index_bytes > 0
    assert found["stage", "name: nfc"].earning.earns is Earns.NOTHING
    assert found["stage", "name: nfc"].moved == []
    assert found["reading", "text"].earning.earns is Earns.NOTHING
    # What wants a decision stands first, what earns the most needs none.
    assert told.lines[0].earning.earns is Earns.HARMS
    assert [one.earning.earns for one in told.lines] == sorted(
        (one.earning.earns for one in told.lines), key=list(Earns).index
    )


def test_a_field_that_is_read_twice_has_its_readings_told_apart(quay: Workbench):
    twice = [{"field": "name", "chain": chain} for chain in ("words > lower", "words > lower > prefixes(2, 8)")]
    told = made(quay, document=ranker_document({"readings": twice}))
    assert {one.name for one in told.lines if one.kind == "reading"} == {"name (1)", "name (2)"}


def test_a_ledger_of_other_judgments_says_so(quay: Workbench):
    assert made(quay).is_current
    queries = queries_in("".join(f"{name}\t{name.lower()}\n" for name in SHIPS), "the queries")
    put_judged_set(quay, "quay", "asked", queries, judgments_in("Tern 0 xTern 3\n", "the grades"), locked_share=0)
    (told,) = ledgers_told(quay, "quay")
    assert not told.is_current


def test_what_was_built_to_leave_parts_out_is_let_go_and_what_was_there_stays(quay: Workbench, tmp_path: Any):
    def folders() -> set[str]:
        return {str(one) for one in (tmp_path / "indexes").rglob("*") if one.is_dir()}

    quay.with_collection("quay", lambda opened: [opened.indexes(field, chain) for field, chain in kept(quay, opened)])
    before = folders()
    made(quay)
    assert folders() == before


def kept(bench: Workbench, opened: Any) -> list[Any]:
    from pale_harbor.work.workbench import RankerChoice

    ranker = bench.choose(opened.collection, RankerChoice("own")).ranker
    return [(one.field, one.chain) for one in ranker.readings if one.weight > 0]


def test_a_draft_has_a_ledger_of_its_own_and_signals_rules_and_saved_chains_have_lines(quay: Workbench):
    document = ranker_document(
        {
            "readings": [
                {"field": "name", "chain": "words > lower", "query_chain": "nfkc > words > lower", "nearness": {}}
            ],
            "rules": [{"when": {"query": "tern"}, "do": {"hide": ["Tern"]}}],
        }
    )
    told = made(quay, document=document)
    assert [(one.kind, one.name) for one in told.lines if one.kind != "stage"] == [
        ("nearness", "name"),
        ("rule", "number 1"),
    ]
    assert {one.name for one in told.lines if one.kind == "stage"} == {
        *("name: lower", "name, query: nfkc", "name, query: lower"),
    }
    hidden = next(one.earning for one in told.lines if one.kind == "rule")
    assert (hidden.saved, hidden.harmed) == (0, 1)


def test_each_entry_of_a_synonym_list_has_a_line_with_the_list_as_it_would_be(quay: Workbench):
    put_list(quay, "quay", "birds", "words,means,way\npetrel,stormbird,both\nstorm,gale,both\n", None)
    reading = {"field": "name", "chain": "words > lower", "query_chain": "words > lower > synonyms(@birds)"}
    put_judged_set(
        quay,
        "quay",
        "otherwise",
        queries_in('{"query_id": "a", "query": "stormbird"}\n{"query_id": "b", "query": "tern"}\n', "the queries"),
        judgments_in("a 0 Petrel 3\nb 0 Tern 3\n", "the grades"),
        locked_share=0,
    )
    plan = RankerPlan(document=ranker_document({"readings": [reading]}))
    told = ledger_now(quay, "quay", "otherwise", plan)
    assert told.state == "done"
    assert told.done == told.in_all
    own = {line.name: line for line in told.lines if line.kind == "synonym"}
    assert own.keys() == {"petrel = stormbird, name", "storm = gale, name"}
    earns, nothing = own["petrel = stormbird, name"], own["storm = gale, name"]
    assert (earns.earning.loses, earns.earning.saved, earns.earning.harmed) == (0.5, 1, 0)
    assert (nothing.earning.loses, nothing.earning.saved) == (0, 0)
    assert earns.new_list == ListVersion("birds", 2, "words,means,way\nstorm,gale,both\n")
    assert earns.new_list is not None
    assert "synonyms(@birds:2)" in earns.without["readings"][0]["query_chain"]
    # Kept as it says, the list gives just what the ledger told.
    put_list(quay, "quay", "birds", earns.new_list.csv, None)
    again = ledger_now(quay, "quay", "otherwise", RankerPlan(document=ranker_document(earns.without)))
    assert told.mean is not None
    assert again.mean == told.mean - 0.5
    # Of its one entry nothing is told by itself: the stage that reads it has a line.
    assert not any(line.kind == "synonym" for line in again.lines)


def test_a_ledger_that_nobody_wants_ends_with_what_it_has_told(quay: Workbench, monkeypatch: pytest.MonkeyPatch):
    job_id = begin_ledger(quay, "quay", "asked", RankerPlan(ranker="own"), by_server=False)

    asked = 0

    def earning_of(*values: Any) -> Any:
        nonlocal asked
        asked += 1
        if asked == 3:
            end_ledger(quay, "quay", job_id)
        return earning(*values)

    monkeypatch.setattr(ledger, "earning", earning_of)
    with pytest.raises(Cancelled):
        do_job(quay.pool, job_id, ledgers_done(quay))
    (told,) = ledgers_told(quay, "quay")
    assert told.state == "cancelled"
    assert 2 <= len(told.lines) < told.in_all
    with pytest.raises(NotFound):
        end_ledger(quay, "quay", job_id + 1)


def test_without_judgments_there_is_nothing_to_tell(quay: Workbench):
    put_judged_set(quay, "quay", "bare", queries_in("1\ttern\n", "the queries"), None, locked_share=0)
    with pytest.raises(BadInput, match="nothing can be told"):
        begin_ledger(quay, "quay", "bare", RankerPlan(ranker="own"), by_server=False)


def test_a_part_earns_or_harms_only_where_the_interval_is_on_one_side_of_nothing():
    def verdict(*gains: float) -> Earns:
        before = {str(i): 0.5 for i in range(len(gains))}
        return earning(before, {str(i): 0.5 + gain for i, gain in enumerate(gains)}).earns

    assert verdict(0.1, 0.1, 0.2) is Earns.EARNS
    assert verdict(-0.1, -0.1, -0.2) is Earns.HARMS
    assert verdict(0.1, -0.1, 0.1, -0.1) is Earns.LUCK
    assert verdict(0.0, 0.0) is Earns.NOTHING
    # Below what shows as 0.000 is nothing; from there it is some.
    assert verdict(0.00049, 0.0) is Earns.NOTHING
    assert verdict(0.00051, 0.0) is Earns.LUCK
    # Of one query alone nothing can be told but that it moves.
    assert verdict(0.5) is Earns.LUCK
    assert verdict(0.5, 0.5) is Earns.EARNS
    # A single query that it saves may be luck: half of the samples leave it out.
    assert verdict(0.5, 0.0) is Earns.LUCK
