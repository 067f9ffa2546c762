"""What visitors were answered before, when the vectors of a space are made anew."""

from pathlib import Path

import pytest

from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.space_document import space_document
from pale_harbor.store.spaces.spaces import Space
from pale_harbor.work.delivery import publishing
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.spaces import making
from pale_harbor.work.workbench import Workbench
from tests.delivery import READINGS, key_for, open_market
from tests.spaces import refilled

WANTED = WantedList(query="eel")


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    return open_market(bench, tmp_path)


@pytest.fixture
def names(market: Workbench) -> Space:
    """A space of what stalls are called."""
    document = space_document({"source": {"kind": "packaged"}, "fields": ["name"]})
    return refilled(market, making.make(market, "market", "names", document))


def listed_twice(delivery: Delivery, token: str) -> Known:
    """Whoever asks, with what was made for them in memory."""
    delivery.keys.forget()
    who = delivery.keys.of(token, "market")
    for _ in range(2):
        delivery.listed(who, WANTED)
    assert delivery.listed_before(who, WANTED) is not None
    return who


def test_a_ranker_of_words_goes_by_what_it_has_when_a_space_is_filled(market: Workbench, names: Space):
    delivery, token = Delivery(market), key_for(market, {})
    former = listed_twice(delivery, token)
    refilled(market, names)
    delivery.keys.forget()
    now = delivery.keys.of(token, "market")
    assert now.states(["names"]) != former.states(["names"])
    assert delivery.listed_before(now, WANTED) is not None


@pytest.mark.parametrize(
    "asks",
    [
        {"spaces": [{"space": "names"}]},
        {"second_stage": {"space": "names", "first": 3, "weight": 1}},
    ],
    ids=["beside the words", "in a second stage"],
)
def test_a_ranker_that_asks_the_space_answers_by_its_new_vectors(
    market: Workbench, names: Space, asks: dict[str, object]
):
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS, **asks}))
    publishing.publish(market, "market", "stalls", 2, "")
    delivery, token = Delivery(market), key_for(market, {})
    listed_twice(delivery, token)
    refilled(market, names)
    delivery.keys.forget()
    assert delivery.listed_before(delivery.keys.of(token, "market"), WANTED) is None
    listed_twice(delivery, token)


def test_what_is_spared_because_nothing_changed_is_sent_again_after_a_filling(market: Workbench, names: Space):
    delivery, token = Delivery(market), key_for(market, {})

    def state() -> str:
        delivery.keys.forget()
        return delivery.answering.state_of(delivery.keys.of(token, "market"), WANTED)

    first = state()
    assert state() == first
    refilled(market, names)
    assert state() != first


def test_a_space_that_is_made_or_is_gone_makes_another_answer(market: Workbench, names: Space):
    delivery, token = Delivery(market), key_for(market, {})
    with_it = listed_twice(delivery, token)
    assert with_it.states(["names", "nothing"]) == with_it.states(["names"])
    making.drop(market, "market", "names")
    delivery.keys.forget()
    without = delivery.keys.of(token, "market")
    assert without.recipe != with_it.recipe
    assert without.states(["names"]) == ()
