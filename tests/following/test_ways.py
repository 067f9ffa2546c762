"""Whatever happens in a database, the collection that follows it comes to what its query gives, in every way."""

from collections.abc import Callable
from threading import Event
from typing import Any

import pytest

from pale_harbor.formats.following.document import FollowedTable, FollowingDocument
from pale_harbor.store.database import Pool
from pale_harbor.store.following.live import queue, slot
from pale_harbor.store.following.sources import FollowedSource, followed_by
from pale_harbor.store.records.records import all_keys, records_with_keys
from pale_harbor.work.following.connecting import look
from pale_harbor.work.following.follower import Follower
from tests.following.conftest import SEALING, keep_newsroom
from tests.following.newsroom import QUERY, READER, Newsroom, change_something, following

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
    source = caught_up(pool, collection_id)
    for _ in range(5):
        with newsroom.connect() as connection:
            for _ in range(20):
                change_something(connection, newsroom.rng)
        source = caught_up(pool, collection_id)
        assert kept(pool, collection_id) == newsroom.records()
    assert source.changes >= 50


@pytest.mark.parametrize("way", WAYS[2:])
def test_what_is_asked_for_comes_in_and_what_is_gone_goes(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int], way: dict[str, Any]
):
    collection_id = connected(following(**way | {"overlap_s": 60}))
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()
    newsroom.do("update articles set title = 'later', changed = clock_timestamp() where id in (3, 4)")
    newsroom.do("insert into articles (title, author_id) values ('new', 1)")
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()
    newsroom.do("delete from comments where article_id = 5; delete from articles where id = 5")
    Follower(pool, SEALING, collection_id, Event(), sweeps_at_once=True).catch_up()
    assert kept(pool, collection_id) == newsroom.records()


def test_asking_by_transaction_sees_what_joined_tables_say(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int]
):
    collection_id = connected(following(way="asking"))
    caught_up(pool, collection_id)
    newsroom.do("update authors set name = 'Another Name' where id = 2")
    newsroom.do("insert into comments (body, article_id) values ('heard', 7)")
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()


def test_a_long_transaction_is_not_passed_over(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int]
):
    """What was written before it was asked for, and could be seen only afterwards."""
    collection_id = connected(following(way="asking"))
    caught_up(pool, collection_id)
    with newsroom.connect() as slow:
        slow.execute("begin")
        slow.execute("update articles set title = 'slow' where id = 8")
        newsroom.do("update articles set title = 'quick' where id = 9")
        caught_up(pool, collection_id)
        assert kept(pool, collection_id)["9"]["title"] == "quick"
        slow.execute("commit")
    caught_up(pool, collection_id)
    assert kept(pool, collection_id)["8"]["title"] == "slow"


@pytest.mark.parametrize(("overlap_s", "seen"), [(60.0, True), (0.0, False)])
def test_what_was_stamped_before_is_found_within_the_overlap(
    pool: Pool,
    newsroom: Newsroom,
    connected: Callable[[FollowingDocument], int],
    overlap_s: float,
    seen: bool,
):
    collection_id = connected(following(way="asking", changed_at="changed", overlap_s=overlap_s))
    caught_up(pool, collection_id)
    newsroom.do("update articles set title = 'now', changed = clock_timestamp() where id = 8")
    caught_up(pool, collection_id)
    newsroom.do("update articles set title = 'of before', changed = clock_timestamp() - interval '30 s' where id = 9")
    caught_up(pool, collection_id)
    assert (kept(pool, collection_id)["9"]["title"] == "of before") == seen
    # By its stamp the comparison of keys finds it in any case.
    Follower(pool, SEALING, collection_id, Event(), sweeps_at_once=True).catch_up()
    assert kept(pool, collection_id)["9"]["title"] == "of before"


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_what_is_taken_twice_is_there_once(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int], way: str
):
    """Our side kept it, and was cut off before the source was told."""
    document = following(way=way)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("insert into articles (title, author_id) values ('once', 1)")
    with pytest.MonkeyPatch.context() as patched:
        for name in ("Queue.take_away", "Slot.go_on"):
            patched.setattr(f"pale_harbor.work.following.ways.{name}", cut_off)
        with pytest.raises(CutOff):
            caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()
    before = revision_of(pool)
    source = caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()
    assert revision_of(pool) == before
    assert not source.whole_wanted


class CutOff(Exception):
    """A moment that is tried."""


def cut_off(*_: object, **__: object) -> None:
    raise CutOff


def revision_of(pool: Pool) -> int:
    with pool.connection() as connection:
        row = connection.execute("select revision from collections").fetchone()
    assert row is not None
    return int(row[0])


def test_nothing_is_acknowledged_before_it_is_kept(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int]
):
    document = following(way="triggers")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("insert into articles (title, author_id) values ('kept first', 1)")
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr("pale_harbor.work.following.taking.note_taken", cut_off)
        with pytest.raises(CutOff):
            caught_up(pool, collection_id)
    (schema,) = newsroom.do("select nspname::text from pg_namespace where nspname like 'pale_harbor_%'")[0]
    assert newsroom.do(f"select count(*) from {schema}.changes") == [(1,)]
    caught_up(pool, collection_id)
    assert newsroom.do(f"select count(*) from {schema}.changes") == [(0,)]
    assert kept(pool, collection_id) == newsroom.records()


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_rows_written_straight_into_a_partition_are_heard_of(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int], way: str
):
    newsroom.do(f"""
        create table calls (number bigint, day date, body text, primary key (number, day)) partition by range (day);
        create table calls_in_july partition of calls for values from ('2026-07-01') to ('2026-08-01');
        insert into calls values (1, '2026-07-01', 'a lamp is out'), (2, '2026-07-02', 'fog'), (3, '2026-07-03', 'ice');
        grant select on calls, calls_in_july to {READER};
    """)
    tables = [{"name": "calls", "owners": "select {number}"}]
    document = following(way=way, query="select number, body from calls", key="number", tables=tables)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    assert sorted(kept(pool, collection_id)) == ["1", "2", "3"]
    newsroom.do("insert into calls_in_july values (4, '2026-07-04', 'a bell is heard')")
    newsroom.do("update calls_in_july set body = 'the lamp is lit' where number = 1")
    newsroom.do("delete from calls_in_july where number = 2")
    caught_up(pool, collection_id)
    now = {key: one["body"] for key, one in kept(pool, collection_id).items()}
    assert now == {"1": "the lamp is lit", "3": "ice", "4": "a bell is heard"}


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_more_than_is_read_at_once_is_read_all_the_same(
    pool: Pool,
    newsroom: Newsroom,
    connected: Callable[[FollowingDocument], int],
    monkeypatch: pytest.MonkeyPatch,
    way: str,
):
    monkeypatch.setattr(queue, "_CHANGES_AT_ONCE", 20)
    monkeypatch.setattr(slot, "_MESSAGES_AT_ONCE", 20)
    document = following(way=way)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    with newsroom.connect() as connection:
        for _ in range(100):
            change_something(connection, newsroom.rng)
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_what_is_nested_in_a_column_is_spread_out_and_followed(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int], way: str
):
    newsroom.do("""
        create table wares (code uuid primary key, said jsonb);
        insert into wares values ('00000000-0000-4000-8000-000000000001', '{"name": "rope", "size": {"m": 12}}'),
            ('00000000-0000-4000-8000-000000000002', '{"name": "bell"}');
        grant select on wares to reader;
    """)
    query, tables = "select code, said from wares", [{"name": "wares", "owners": "select {code}"}]
    keep_newsroom(pool, newsroom)
    looked = look(pool, SEALING, "articles", "newsroom", query, "code", [FollowedTable(**one) for one in tables], None)
    assert [(one.name, one.kind) for one in looked.fields] == [
        ("code", "exact"),
        ("said.name", "exact"),
        ("said.size.m", "number"),
    ]
    document = following(way=way, query=query, key="code", tables=tables)
    collection_id = connected(document)
    newsroom.run_script(next(one.script for one in looked.ways if one.way == way))
    caught_up(pool, collection_id)
    newsroom.do("update wares set said = said || '{\"name\": \"hawser\"}' where said ->> 'name' = 'rope'")
    caught_up(pool, collection_id)
    assert list(kept(pool, collection_id).values()) == [
        {"code": "00000000-0000-4000-8000-000000000001", "said.name": "hawser", "said.size.m": 12},
        {"code": "00000000-0000-4000-8000-000000000002", "said.name": "bell"},
    ]


class SetAtTheThirdLook(Event):
    """An event that is set while somebody is at work."""

    def __init__(self) -> None:
        super().__init__()
        self._looks = 0

    def is_set(self) -> bool:
        self._looks += 1
        return self._looks >= 3


def test_whoever_is_told_to_end_ends_and_tells_of_no_trouble(
    pool: Pool, newsroom: Newsroom, connected: Callable[[FollowingDocument], int]
):
    document = following(way="triggers")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    Follower(pool, SEALING, collection_id, SetAtTheThirdLook()).run()
    with pool.connection() as connection:
        source = followed_by(connection, collection_id)
    assert source is not None
    assert (source.added, source.problem) == (60, None)
