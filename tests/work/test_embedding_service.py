"""The service on its bad days: slow, refusing, limiting, wrong. Nothing is lost, all is said."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import orjson
import pytest

from pale_harbor.api.spaces.embedder import Moods
from pale_harbor.core.vectors import Fault
from pale_harbor.errors import Unavailable
from pale_harbor.formats.judged_files import queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.space_document import ServiceSource
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.spaces import making
from pale_harbor.work.spaces.embedding_service import EmbeddingService, ServiceFailed
from pale_harbor.work.spaces.filling import cost_of_filling
from pale_harbor.work.spaces.looks import Wanted, neighbours
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows
from tests.spaces import COLLECTION, embedder, filled, made, refilled

ROWS: list[dict[str, Any]] = [
    {"id": f"r{i}", "title": f"Thing {i}", "text": f"It is the {i}th of the harbor."} for i in range(12)
]


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Workbench:
    monkeypatch.setattr("pale_harbor.work.spaces.embedding_service._FIRST_WAIT", 0.01)
    load_rows(bench.pool, tmp_path, ROWS)
    return bench


def source(address: str, **more: Any) -> dict[str, Any]:
    return {"kind": "service", "address": address, "batch": 4, "tries": 3, **more}


def counted(bench: Workbench, space_id: int) -> int:
    with bench.pool.connection() as connection:
        kept = connection.execute(
            "select count(*) from vectors where space_id = %s and about = 'text' and octet_length(vector) > 1",
            [space_id],
        ).fetchone()
    assert kept is not None
    return int(kept[0])


def test_a_service_fills_a_space_after_its_cost_was_counted(coast: Workbench):
    moods = Moods(price=2.0)
    with embedder(moods) as address:
        space = made(coast, "asked", source(address))
        assert space.state == "new"
        cost = cost_of_filling(coast, COLLECTION, "asked")
        assert (cost.records, cost.texts, cost.known, cost.requests) == (12, 12, 0, 3)
        assert cost.price == 2.0 * cost.words / 1_000
        assert cost.words == sum(len(f"{row['title']} {row['text']}".split()) for row in ROWS)
        assert moods.texts == 0
        space = refilled(coast, space)
        assert space.report is not None
        assert (space.state, space.report["whole"], moods.texts) == ("done", 12, 12)
        found = coast.with_collection(COLLECTION, lambda opened: neighbours(opened, "asked", Wanted("thing 7"), 1))
        assert (found[0].key, moods.texts) == ("r7", 13)
        # The query's vector is kept: nobody is asked twice.
        coast.with_collection(COLLECTION, lambda opened: neighbours(opened, "asked", Wanted("thing 7"), 1))
        assert moods.texts == 13


def test_what_a_filling_made_is_searched_as_it_is(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    with embedder() as address:
        filled(coast, "asked", source(address))

        def never(*_: Any) -> Any:
            raise AssertionError("vectors were read anew")

        monkeypatch.setattr("pale_harbor.work.spaces.open_space.OpenSpace.made", never)
        assert coast.with_collection(COLLECTION, lambda opened: neighbours(opened, "asked", Wanted("thing 7"), 1))


def test_a_filling_that_broke_off_goes_on_where_it_stood(coast: Workbench):
    moods = Moods(refuse_after=6)
    with embedder(moods) as address:
        space = filled(coast, "asked", source(address))
        assert space.state == "failed"
        assert space.problem == f"{address}/texts refuses with 403: The budget is used up."
        assert counted(coast, space.id) == 4
        moods.refuse_after = None
        space = refilled(coast, space)
        assert (space.state, counted(coast, space.id), moods.texts) == ("done", 12, 12)


def test_what_changed_is_asked_for_and_nothing_else(coast: Workbench):
    moods = Moods()
    with embedder(moods) as address:
        space = filled(coast, "asked", source(address))
        put_records(coast.pool, COLLECTION, [ROWS[3] | {"title": "Another"}, ROWS[4]])
        space = refilled(coast, space)
        assert moods.texts == 13
        assert space.report is not None
        assert space.report["whole"] == 12


def test_a_limited_rate_is_waited_for(coast: Workbench):
    with embedder(Moods(per_second=30)) as address:
        space = filled(coast, "asked", source(address, tries=10))
        assert (space.state, counted(coast, space.id)) == ("done", 12)


def test_a_slow_service_is_given_up_in_words(coast: Workbench):
    with embedder(Moods(delay=5)) as address:
        space = filled(coast, "asked", source(address, seconds=0.2, tries=2))
    assert space.problem == f"{address}/texts did not answer within 0.2 s. It was asked 2 times."


def test_a_service_that_is_not_there(coast: Workbench):
    space = filled(coast, "asked", source("http://127.0.0.1:9"))
    assert space.state == "failed"
    said = "http://127.0.0.1:9/model cannot be reached: nobody answers there."
    assert space.problem == f"{said} It was asked 3 times."
    space = filled(coast, "once", source("http://127.0.0.1:9", tries=1))
    assert space.problem == said


def test_a_wrong_dimension_is_refused_whole(coast: Workbench):
    with embedder(Moods(dimensions=100)) as address:
        space = filled(coast, "asked", source(address))
    assert (
        space.problem == f"{address}/texts gives vectors of 100 numbers, but the model has 256. None of them was kept."
    )
    assert counted(coast, space.id) == 0


def test_zeros_are_told_with_their_records_and_asked_for_again(coast: Workbench):
    moods = Moods(forget=5)
    with embedder(moods) as address:
        space = filled(coast, "asked", source(address))
        assert space.report is not None
        said = "has a vector of nothing but zeros, which points nowhere"
        assert (space.state, space.report["faults"]) == ("done", {said: 2})
        assert [one["what"] for one in space.report["examples"]] == [said, said]
        assert {one["key"] for one in space.report["examples"]} < {row["id"] for row in ROWS}
        moods.forget = None
        space = refilled(coast, space)
        assert space.report is not None
        assert (space.report["faults"], moods.texts) == ({}, 14)


def test_a_changed_model_is_never_mixed_in(coast: Workbench):
    moods = Moods()
    with embedder(moods) as address:
        space = filled(coast, "asked", source(address))
        moods.model = "another"
        put_records(coast.pool, COLLECTION, [ROWS[3] | {"title": "Another"}])
        space = refilled(coast, space)
        assert space.state == "failed"
        assert "never mixed" in (space.problem or "")
        assert counted(coast, space.id) == 12
        making.fill(coast, COLLECTION, "asked", anew=True)
        space = refilled(coast, space)
        assert (space.state, space.model) == ("done", "another")


def test_a_measurement_is_exact_or_none(coast: Workbench, tmp_path: Path):
    from pale_harbor.core.measures import measure
    from pale_harbor.work.judging.set_files import load_judged_set
    from pale_harbor.work.measuring.measuring import measure_ranker
    from pale_harbor.work.workbench import RankerChoice

    (tmp_path / "q.tsv").write_text("1\tthing 7\n2\tharbor\n")
    (tmp_path / "g.txt").write_text("1 0 r7 3\n2 0 r1 1\n")
    assert len(queries_in((tmp_path / "q.tsv").read_text("utf-8"), "q.tsv")) == 2
    load_judged_set(coast, COLLECTION, "set", tmp_path / "q.tsv", tmp_path / "g.txt")
    document = ranker_document(
        {"readings": [{"field": "title", "chain": "words > lower"}], "spaces": [{"space": "asked"}]}
    )
    moods = Moods()
    with embedder(moods) as address:
        space = filled(coast, "asked", source(address, seconds=1))
        moods.refuse_after = 0
        with pytest.raises(Unavailable, match="refuses with 403"):
            measure_ranker(coast, COLLECTION, RankerChoice(document=document), "set", [measure("ndcg@10")])
        moods.refuse_after = None
        found = measure_ranker(coast, COLLECTION, RankerChoice(document=document), "set", [measure("ndcg@10")])
        assert found.made_of.spaces == [space.identity]
        assert moods.texts == 14


def asking(answer: Callable[[httpx.Request], httpx.Response], tries: int = 3) -> tuple[EmbeddingService, list[float]]:
    waits: list[float] = []
    given = ServiceSource(address="http://service.test/api", tries=tries)
    return EmbeddingService(given, waits.append, httpx.MockTransport(answer)), waits


def test_waits_double_unless_the_service_says_how_long():
    answers = iter([httpx.Response(503), httpx.Response(429, headers={"Retry-After": "7"}), httpx.Response(503)])
    service, waits = asking(lambda _: next(answers, httpx.Response(500)), tries=4)
    with pytest.raises(ServiceFailed, match=r"refuses with 500: Internal Server Error\. It was asked 4 times"):
        service.model()
    assert waits == [0.5, 7.0, 2.0]


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"<html>", "something that is no JSON"),
        (b"[]", "must answer with a JSON object"),
        (b'{"model": "m", "vectors": [[1, 0]]}', "was asked for 2 vectors and gave 1 vectors"),
        (b'{"model": "m"}', "gave no list of vectors"),
        (b'{"model": "n", "vectors": []}', 'now answers with the model "n"'),
    ],
)
def test_an_answer_is_looked_at_before_it_is_believed(content: bytes, said: str):
    service, waits = asking(lambda _: httpx.Response(200, content=content))
    with pytest.raises(ServiceFailed, match=said):
        service.vectors(["a", "b"], "records", "m", 2)
    assert waits == []


def test_single_wrong_vectors_are_told_from_the_rest():
    def answer(request: httpx.Request) -> httpx.Response:
        asked = orjson.loads(request.content)
        assert asked == {"texts": ["a", "b", "c", "d"], "about": "queries"}
        return httpx.Response(200, content=b'{"model": "m", "vectors": [[1, 2], [1], [0, 0], ["x", 1]]}')

    service, _ = asking(answer)
    first, *others = service.vectors(["a", "b", "c", "d"], "queries", "m", 2)
    assert isinstance(first, np.ndarray)
    assert others == [Fault.WRONG_DIMENSION, Fault.ZERO, Fault.NOT_FINITE]


def test_the_token_comes_from_a_variable_and_is_never_kept(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setenv("PALE_HARBOR_TEST_TOKEN", "secret")
    seen: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        seen.append(request.headers["Authorization"])
        return httpx.Response(200, content=b'{"model": "m", "dimensions": 2}')

    given = ServiceSource(address="http://service.test", token_variable="PALE_HARBOR_TEST_TOKEN")
    # It goes to the host that it is meant for and to no other, whatever address a space names.
    with pytest.raises(ServiceFailed, match=r"meant for no host yet, so it is not sent to service\.test"):
        EmbeddingService(given, lambda _: None)
    for host in ("other.test", "service.test:8080", ".service.test", "test"):
        monkeypatch.setenv("PALE_HARBOR_TEST_TOKEN_HOST", host)
        with pytest.raises(ServiceFailed, match=f"meant for {host}, so it is not sent to service.test"):
            EmbeddingService(given, lambda _: None)
    monkeypatch.setenv("PALE_HARBOR_TEST_TOKEN_HOST", "service.test")
    EmbeddingService(given, lambda _: None, httpx.MockTransport(answer)).model()
    assert seen == ["Bearer secret"]
    monkeypatch.delenv("PALE_HARBOR_TEST_TOKEN")
    with pytest.raises(ServiceFailed, match="The variable PALE_HARBOR_TEST_TOKEN is not set"):
        EmbeddingService(given, lambda _: None)
