"""Whatever happens in a database, the collection that follows it comes to what its query gives, in every way."""

from collections.abc import Callable
from threading import Event
from typing import Any

import pytest

from pale_harbor.formats.following.document import FollowingDocument
from pale_harbor.store.database import Pool
from pale_harbor.store.following.sources import FollowedSource
from pale_harbor.store.records.records import all_keys, records_with_keys
from pale_harbor.work.following.connecting import look
from pale_harbor.work.following.follower import Follower
from tests.following.conftest import SEALING
from tests.following.newsroom import QUERY, Newsroom, change_something, following

WAYS = [
    {"way": "triggers"},
    {"way": "decoding"},
    {"way": "asking", "every_s": 0.2, "sweep_s": 1},
    {"way": "asking", "changed_at": "changed", "every_s": 0.2, "sweep_s": 1},
]


def caught_up(pool: Pool, collection_id: int) -> FollowedSource:
    return Follower(pool, SEALING, collection_id, Event()).catch_up()


def kept(pool: Pool, collection_id: int) -> dict[str, dict[str, Any]]:
    with pool.connection() as connection:
        keys = list(all_keys(connection, collection_id))
        return {key: one.field_values for key, one in records_with_keys(connection, collection_id, keys).items()}


def install(pool: Pool, newsroom: Newsroom, document: FollowingDocument) -> None:
    """Runs what a way has its tables' owner run."""
    looked = look(pool, SEALING, "articles", "newsroom", QUERY, "id", document.tables, document.changed_at)
    by = "column" if document.changed_at else None
    for one in looked.ways:
        if one.way == document.way and (by is None or one.by == by) and one.script:
            newsroom.run_script(one.script)


@pytest.mark.parametrize("way", WAYS[:2])
def test_what_is_told_is_taken_and_nothing_is_lost(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int], way: dict[str, Any]
):
    document = following(**way)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()
    for _ in range(5):
        with newsroom.connect() as connection:
            for _ in range(20):
                change_something(connection, newsroom.rng)
        source = caught_up(pool, collection_id)
        assert kept(pool, collection_id) == newsroom.records()
    assert source.changes >= 50
