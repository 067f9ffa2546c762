"""What is made beside the requests for it: once, as long as somebody wants it, and told while it goes on."""

from concurrent.futures import ThreadPoolExecutor
from threading import Event

import pytest

from pale_harbor.errors import BadInput, Cancelled
from pale_harbor.work.running import aside as room
from pale_harbor.work.running.aside import Aside, Told, UnderWay
from pale_harbor.work.running.wanted import still_wanted, wanted_while


def test_whoever_asks_meanwhile_joins_in():
    aside, go_on, began = Aside(), Event(), Event()
    made: list[int] = []

    def make(_told: Told) -> int:
        began.set()
        assert go_on.wait(10)
        made.append(1)
        return 7

    with ThreadPoolExecutor(2) as pool:
        asked = pool.submit(aside.made, "it", make, None)
        assert began.wait(10)
        # While it is being made it is not begun again.
        assert isinstance(aside.made("it", make, 0), UnderWay)
        go_on.set()
        assert asked.result(10) == 7
    assert made == [1]
    # It is kept nowhere here: whoever asks later has it made anew.
    assert aside.made("it", make, None) == 7
    assert made == [1, 1]


def test_the_impatient_are_told_how_far_it_is():
    aside, go_on, told_of = Aside(), Event(), Event()

    def make(told: Told) -> int:
        told("phrases", 2, 5)
        told_of.set()
        assert go_on.wait(10)
        return 7

    assert isinstance(aside.made("it", make, 0), UnderWay)
    assert told_of.wait(10)
    under = aside.made("it", make, 0)
    assert isinstance(under, UnderWay)
    assert (under.doing, under.done, under.of) == ("phrases", 2, 5)
    go_on.set()
    assert aside.made("it", make, None) == 7


def test_what_goes_wrong_is_told_to_whoever_waits_and_is_tried_again_later():
    aside = Aside()

    def fail(_told: Told) -> int:
        raise BadInput("no such field")

    with pytest.raises(BadInput, match="no such field"):
        aside.made("it", fail, None)
    assert aside.made("it", lambda _told: 7, None) == 7


def test_it_goes_on_for_a_while_after_nobody_waits_and_then_ends(monkeypatch: pytest.MonkeyPatch):
    aside, looked, go_on, ended = Aside(), Event(), Event(), Event()
    seen: list[bool] = []

    def make(_told: Told) -> None:
        seen.append(still_wanted())
        looked.set()
        assert go_on.wait(10)
        seen.append(still_wanted())
        ended.set()

    assert isinstance(aside.made("it", make, 0), UnderWay)
    assert looked.wait(10)
    # So long ago that nobody wants it any more.
    monkeypatch.setattr(room, "WANTED_S", 0.0)
    go_on.set()
    assert ended.wait(10)
    assert seen == [True, False]


def test_a_visitor_who_went_away_waits_no_more_and_it_goes_on_for_the_next_one():
    aside, go_on = Aside(), Event()
    made: list[int] = []

    def make(_told: Told) -> int:
        assert go_on.wait(10)
        assert still_wanted()
        made.append(1)
        return 7

    with wanted_while(lambda: False), pytest.raises(Cancelled):
        aside.made("it", make, None)
    assert isinstance(aside.made("it", make, 0), UnderWay)
    go_on.set()
    assert aside.made("it", make, None) == 7
    assert made == [1]
