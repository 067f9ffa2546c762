"""What visitors are answered where records change while nothing is ready."""

from pathlib import Path

import pytest

from pale_harbor.errors import RecordsChanged
from pale_harbor.store.collections.collections import Collection
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.workbench import Workbench
from tests.delivery import key_for, open_market


def test_records_that_changed_since_they_were_looked_at_are_answered_from_as_they_stand(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    market = open_market(bench, tmp_path)
    delivery, token = Delivery(market), key_for(market, {})
    known = delivery.keys.of(token, "market")
    opened_as, times = market.opened_as, [0]

    def changed_at_first(collection: Collection) -> OpenCollection:
        times[0] += 1
        if times[0] == 1:
            raise RecordsChanged
        return opened_as(collection)

    monkeypatch.setattr(market, "opened_as", changed_at_first)
    found = delivery.listed(known, WantedList(query="eel"))
    assert [row.key for row in found.results] == ["s1", "s2", "s3"]
    assert times[0] > 1
