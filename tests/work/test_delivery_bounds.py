"""Where the endpoint's bounds lie: just below, at, and just above each."""

from pathlib import Path
from typing import Any

import pytest

from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.delivery import publishing
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.rates import Rates
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.workbench import Workbench
from tests.delivery import READINGS, key_for, open_market
from tests.loading import load_rows


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    return open_market(bench, tmp_path)


def shelves(bench: Workbench, folder: Path, rows: list[dict[str, Any]]) -> tuple[Delivery, Known]:
    """A collection of these rows, which a key without limits asks."""
    load_rows(
        bench.pool, folder, [{"id": f"r{number}", "name": "eel"} | row for number, row in enumerate(rows)], "market"
    )
    bench.put_ranker("market", "shelves", ranker_document({"readings": READINGS[:1]}))
    publishing.publish(bench, "market", "shelves", 1, "")
    delivery = Delivery(bench)
    return delivery, delivery.keys.of(key_for(bench, {}), "market")


def of_values(count: int, records: int) -> list[str]:
    """A value for each record, so that there are so many different ones."""
    return [f"B-{number % count}" for number in range(records)]


@pytest.mark.parametrize(
    ("records", "offered"),
    [
        # A value has to be shared by three records on average.
        (12, [2, 3, 4]),
        (11, [2, 3]),
        # Two are always worth a choice; one is none.
        (4, [2]),
    ],
)
def test_lists_are_narrowed_by_values_that_several_records_share(
    bench: Workbench, tmp_path: Path, records: int, offered: list[int]
):
    counts = [1, 2, 3, 4]
    columns = {f"of{count}": of_values(count, records) for count in counts}
    rows = [{name: values[number] for name, values in columns.items()} for number in range(records)]
    delivery, who = shelves(bench, tmp_path, rows)
    assert delivery.answering.values_repeat(who, list(columns)) == [f"of{count}" for count in offered]


def test_a_page_offers_six_facets_and_four_orders(bench: Workbench, tmp_path: Path):
    def row(number: int) -> dict[str, Any]:
        shelf = {f"shelf{one}": f"B-{number % 2}" for one in range(7)}
        return shelf | {f"weight{one}": number + one for one in range(5)}

    delivery, who = shelves(bench, tmp_path, [row(number) for number in range(12)])
    told = delivery.about(who)
    assert told.facets == [f"shelf{one}" for one in range(6)]
    assert told.sorts == [f"weight{one}" for one in range(4)]


@pytest.mark.parametrize(("skip", "is_mixed"), [(195, True), (196, True), (197, False)])
def test_lists_are_mixed_down_to_two_hundred_rows(market: Workbench, skip: int, is_mixed: bool):
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[1:]}))
    publishing.offer_candidate(market, "market", "stalls", 2, 1.0, "", mixed=True)
    delivery = Delivery(market)
    who = delivery.keys.of(key_for(market, {}), "market")
    found = delivery.listed(who, WantedList(query="eel", session="a-visitor", skip=skip, top=4))
    assert (found.asked.teams is not None) == is_mixed


def test_a_key_that_is_not_there_is_told_by_two_hundred_letters(market: Workbench):
    delivery = Delivery(market)
    who = delivery.keys.of(key_for(market, {}), "market")
    for letters in (199, 200, 201):
        with pytest.raises(NotFound, match=f'with the key "{"k" * min(letters, 200)}" here'):
            delivery.answering.record(who, "k" * letters)


@pytest.mark.parametrize(("others", "known"), [(199_997, True), (199_998, True), (199_999, False)])
def test_two_hundred_thousand_addresses_are_told_apart_in_a_minute(others: int, known: bool):
    rates = Rates(clock=lambda: 0.0)
    rates.count(1, "the first one", 10**9, 9)
    # One place is the key's own.
    for number in range(others):
        rates.count(1, f"{number}", 10**9, 9)
    each, _ = rates.count(1, "the first one", 10**9, 9).allowances
    assert each.left == (7 if known else 8)
