"""What goes wrong at a source is said, the rest goes on, and nothing is half taken or lost."""

from collections.abc import Callable
from threading import Event
from typing import Any

import psycopg
import pytest
from psycopg.types.json import Json

from pale_harbor.errors import BadInput
from pale_harbor.formats.following.document import FollowingDocument
from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import Pool
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.rows import ColumnsChanged, SourceAway, SourceRefuses, Unheard
from pale_harbor.store.following.live.slot import lacking_for_decoding
from pale_harbor.store.following.sources import FollowedSource, UnfitRow, followed_by, unfit_rows
from pale_harbor.store.imports.incoming import Outlook
from pale_harbor.store.measuring.outside_rankers import put_outside
from pale_harbor.store.records.records import earlier_states
from pale_harbor.work.backups.restoring import RESTORED
from pale_harbor.work.following import connecting
from pale_harbor.work.following.follower import Follower
from pale_harbor.work.following.taking import deletes_most
from pale_harbor.work.following.told import following_told, standing_of
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import database_source
from pale_harbor.work.records.changes import put_records, remove_records, restore_deleted
from pale_harbor.work.workbench import Workbench
from tests.following.conftest import SEALING, readers_address
from tests.following.newsroom import QUERY, TABLES, Newsroom, following
from tests.following.test_ways import caught_up, install, kept

Connected = Callable[[FollowingDocument], int]


def source_of(pool: Pool, collection_id: int) -> FollowedSource:
    with pool.connection() as connection:
        found = followed_by(connection, collection_id)
    assert found is not None
    return found


def unfit(pool: Pool, collection_id: int) -> list[UnfitRow]:
    with pool.connection() as connection:
        return unfit_rows(connection, collection_id, 0, 100)


@pytest.fixture
def told(pool: Pool, newsroom: Newsroom, connected: Connected) -> int:
    """A collection in step by triggers."""
    document = following(way="triggers")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    return collection_id


def test_before_its_script_was_run_it_says_so_and_takes_nothing(pool: Pool, connected: Connected):
    collection_id = connected(following(way="triggers"))
    with pytest.raises(SourceRefuses, match="have the script run"):
        caught_up(pool, collection_id)
    assert kept(pool, collection_id) == {}


def test_records_that_follow_are_not_changed_here(pool: Pool, bench: Workbench, newsroom: Newsroom, told: int):
    with pytest.raises(BadInput, match='follow the database "newsroom"'):
        put_records(pool, "articles", [{"id": "1", "title": "by hand"}])
    with pytest.raises(BadInput, match="follow the database"):
        remove_records(pool, "articles", ["1"])
    with pytest.raises(BadInput, match="follow the database"):
        restore_deleted(pool, "articles")
    source = database_source(pool, "articles", readers_address(newsroom), QUERY, None)
    with pytest.raises(BadInput, match="follow the database"):
        import_now(pool, "articles", source, ImportPlan(key="id"))
    connecting.end(pool, SEALING, "articles")
    assert put_records(pool, "articles", [{"id": "1", "title": "by hand"}]).updated == 1


def test_a_column_that_is_gone_takes_nothing_away_until_somebody_agrees(
    pool: Pool, newsroom: Newsroom, connected: Connected
):
    everything = "select * from articles"
    document = following(way="triggers", query=everything, tables=TABLES[:1])
    collection_id = connected(document)
    install_for(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("alter table articles drop column body")
    newsroom.do("update articles set title = 'seen' where id = 1")
    with pytest.raises(ColumnsChanged, match="no longer the column body"):
        caught_up(pool, collection_id)
    assert kept(pool, collection_id)["1"]["body"]
    connecting.compare_everything(pool, "articles", take_columns=True)
    caught_up(pool, collection_id)
    assert kept(pool, collection_id)["1"]["title"] == "seen"
    assert "body" not in kept(pool, collection_id)["1"]


def test_a_new_column_is_read_for_every_record(pool: Pool, newsroom: Newsroom, connected: Connected):
    document = following(way="triggers", query="select * from articles", tables=TABLES[:1])
    collection_id = connected(document)
    install_for(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("alter table articles add column place text default 'Tidewick'")
    newsroom.do("update articles set title = 'seen' where id = 1")
    follower = Follower(pool, SEALING, collection_id, Event())
    try:
        follower.catch_up()
    except ColumnsChanged as error:
        assert (error.missing, error.new) == ([], ["place"])
        follower.take_columns(error)
    caught_up(pool, collection_id)
    assert {one["place"] for one in kept(pool, collection_id).values()} == {"Tidewick"}


def install_for(pool: Pool, newsroom: Newsroom, document: FollowingDocument) -> None:
    looked = connecting.look(
        pool, SEALING, "articles", "newsroom", document.query, document.key, document.tables, document.changed_at
    )
    newsroom.run_script(next(one.script for one in looked.ways if one.way == document.way))


def test_a_value_that_does_not_fit_is_told_and_the_rest_goes_on(pool: Pool, newsroom: Newsroom, connected: Connected):
    fields = [{"name": "id", "kind": "exact", "role": "key"}, {"name": "title", "kind": "number"}]
    newsroom.do("update articles set title = id::text")
    document = following(way="triggers", query="select id, title from articles", tables=TABLES[:1], fields=fields)
    collection_id = connected(document)
    install_for(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("update articles set title = 'not a number' where id = 3")
    newsroom.do("update articles set title = '400' where id = 4")
    caught_up(pool, collection_id)
    assert [(one.key, "must be a number" in one.reason) for one in unfit(pool, collection_id)] == [("3", True)]
    # What was taken of it before stays.
    assert kept(pool, collection_id)["3"]["title"] == 3
    assert kept(pool, collection_id)["4"]["title"] == 400
    newsroom.do("update articles set title = '33' where id = 3")
    caught_up(pool, collection_id)
    assert unfit(pool, collection_id) == []
    assert kept(pool, collection_id)["3"]["title"] == 33


def test_a_row_that_is_unfit_from_the_start_keeps_nobody_else_out(pool: Pool, newsroom: Newsroom, connected: Connected):
    fields = [{"name": "id", "kind": "exact", "role": "key"}, {"name": "title", "kind": "number"}]
    newsroom.do("update articles set title = id::text where id <> 7")
    document = following(way="triggers", query="select id, title from articles", tables=TABLES[:1], fields=fields)
    collection_id = connected(document)
    install_for(pool, newsroom, document)
    caught_up(pool, collection_id)
    assert len(kept(pool, collection_id)) == 59
    assert [one.key for one in unfit(pool, collection_id)] == ["7"]


def test_a_key_that_stands_twice_is_told(pool: Pool, newsroom: Newsroom, connected: Connected):
    joined = "articles left join comments on article_id = articles.id"
    query = f"select articles.id, title, comments.body as comment from {joined}"
    document = following(way="triggers", query=query, tables=[TABLES[0], TABLES[2]])
    newsroom.do("delete from comments")
    collection_id = connected(document)
    install_for(pool, newsroom, document)
    caught_up(pool, collection_id)
    assert unfit(pool, collection_id) == []
    newsroom.do("insert into comments (body, article_id) values ('one', 5), ('two', 5), ('alone', 6)")
    caught_up(pool, collection_id)
    assert [(one.key, "2 rows" in one.reason) for one in unfit(pool, collection_id)] == [("5", True)]
    assert kept(pool, collection_id)["6"]["comment"] == "alone"


def test_triggers_that_are_switched_off_are_noticed_and_everything_is_compared_afterwards(
    pool: Pool, newsroom: Newsroom, told: int
):
    newsroom.do("alter table comments disable trigger all")
    newsroom.do("insert into comments (body, article_id) values ('unheard', 9)")
    with pytest.raises(Unheard, match="gone or switched off"):
        caught_up(pool, told)
    install(pool, newsroom, following(way="triggers"))
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_what_is_noted_does_not_depend_on_how_whoever_writes_looks_names_up(pool: Pool, newsroom: Newsroom, told: int):
    """A writer's own functions and operators are never run with the rights of the tables' owner."""
    newsroom.do("""
        create schema theirs;
        create function theirs.never(text, text) returns boolean language plpgsql as
            $$ begin raise exception 'not this one'; end $$;
        create operator theirs.= (function = theirs.never, leftarg = text, rightarg = text);
        create function theirs.jsonb_build_object(text, bigint) returns jsonb language sql as
            $$ select '{"id": 1}'::jsonb $$;
        create function theirs.pg_try_advisory_lock_shared(int, int) returns boolean language plpgsql as
            $$ begin raise exception 'nor this one'; end $$;
    """)
    newsroom.do("""
        set search_path = theirs, pg_catalog, public;
        insert into public.comments (body, article_id) values ('a writer of their own', 9);
        update public.comments set article_id = 8 where article_id = 7;
        delete from public.articles where id = 6;
    """)
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_a_table_that_is_emptied_at_once_is_heard_of(pool: Pool, newsroom: Newsroom, told: int):
    newsroom.do("truncate comments")
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()
    assert all("comments" not in one for one in kept(pool, told).values())


@pytest.mark.parametrize(("left", "asks"), [(30, False), (29, True)])
def test_whatever_would_delete_most_records_waits_for_a_word(
    pool: Pool, newsroom: Newsroom, told: int, left: int, asks: bool
):
    """Half of sixty may go by themselves; one more waits."""
    # Nobody hears of it, as where rights were taken away.
    newsroom.do("alter table articles disable trigger all; alter table comments disable trigger all")
    newsroom.do(f"delete from comments; delete from articles where id > {left}")
    newsroom.do("alter table articles enable trigger all; alter table comments enable trigger all")
    connecting.compare_everything(pool, "articles")
    source = caught_up(pool, told)
    assert (source.state == "undecided") == asks
    if not asks:
        assert kept(pool, told) == newsroom.records()
        return
    assert len(kept(pool, told)) == 60
    with pytest.raises(BadInput, match="you agreed to 30"):
        connecting.agree(pool, "articles", 30)
    connecting.agree(pool, "articles", 31)
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_paused_nothing_is_taken_and_nothing_lost(pool: Pool, newsroom: Newsroom, told: int):
    connecting.pause(pool, "articles")
    newsroom.do("update articles set title = 'meanwhile' where id = 2")
    caught_up(pool, told)
    assert kept(pool, told)["2"]["title"] != "meanwhile"
    connecting.go_on(pool, "articles")
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_what_was_taken_from_the_queue_by_a_later_state_of_our_data_is_compared(
    pool: Pool, newsroom: Newsroom, told: int
):
    """Our database is put back to an older backup: what was acknowledged since is known to nobody."""
    before = source_of(pool, told).position
    newsroom.do("update articles set title = 'once' where id = 2")
    caught_up(pool, told)
    newsroom.do("update articles set title = 'twice' where id = 3")
    caught_up(pool, told)
    with pool.connection() as connection:
        # As it was before both.
        connection.execute("update followed_sources set position = %s", [Json(before)])
        connection.execute("update records set field_values = '{\"id\": 2}', content_hash = '\\x00' where key = '2'")
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_a_slot_that_was_dropped_is_made_again_and_everything_compared(
    pool: Pool, newsroom: Newsroom, connected: Connected
):
    document = following(way="decoding")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do(
        "select pg_drop_replication_slot(slot_name) from pg_replication_slots where database = current_database()"
    )
    newsroom.do("update articles set title = 'unread' where id = 4")
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()


def test_a_slot_goes_with_the_following_and_its_queue_by_what_is_shown(
    pool: Pool, newsroom: Newsroom, connected: Connected
):
    document = following(way="decoding")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    slots = "select count(*) from pg_replication_slots where database = current_database()"
    assert newsroom.do(slots) == [(1,)]
    ended = connecting.end(pool, SEALING, "articles")
    assert (newsroom.do(slots), ended.problem) == ([(0,)], "")
    newsroom.run_script(ended.removal)
    assert newsroom.do("select count(*) from pg_publication") == [(0,)]
    assert following_told(pool, "articles") is None
    assert len(kept(pool, collection_id)) == 60


def test_a_slot_goes_with_the_collection(pool: Pool, bench: Workbench, newsroom: Newsroom, connected: Connected):
    document = following(way="decoding")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    Workbench(pool, bench.index_folder, sealing=SEALING).drop_collection("articles")
    assert newsroom.do("select count(*) from pg_replication_slots where database = current_database()") == [(0,)]


def test_triggers_are_not_left_behind_with_a_collection_that_goes(
    pool: Pool, bench: Workbench, newsroom: Newsroom, told: int
):
    with pytest.raises(BadInput, match=r'follows "newsroom" by triggers.* End the following first'):
        bench.drop_collection("articles")
    assert len(kept(pool, told)) == 60
    newsroom.run_script(connecting.end(pool, SEALING, "articles").removal)
    assert newsroom.do("select count(*) from pg_trigger where tgname like 'pale\\_harbor%'") == [(0,)]
    bench.drop_collection("articles")


def test_a_connection_that_somebody_asks_by_stays(pool: Pool, connected: Connected):
    collection_id = connected(following(way="asking"))
    with pytest.raises(BadInput, match="follows by"):
        connecting.drop(pool, "articles", "newsroom")
    connecting.end(pool, SEALING, "articles")
    asked = {"kind": "database", "connection": "newsroom", "statement": "select id from articles where title = {query}"}
    with pool.connection() as connection:
        put_outside(connection, collection_id, "theirs", asked, {})
    with pytest.raises(BadInput, match='"theirs" is asked by "newsroom"'):
        connecting.drop(pool, "articles", "newsroom")
    with pool.connection() as connection:
        put_outside(connection, collection_id, "theirs", asked | {"connection": "another"}, {})
    connecting.drop(pool, "articles", "newsroom")
    assert connecting.connections_told(pool, "articles") == []


def test_of_the_log_no_more_is_held_back_than_was_said(pool: Pool, newsroom: Newsroom, connected: Connected):
    document = following(way="decoding", most_kept_mb=16)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("create table noise as select repeat(md5(i::text), 20) as text from generate_series(1, 40000) as i")
    newsroom.do("update articles set title = 'behind the noise' where id = 5")
    newsroom.do("select pg_switch_wal()")
    caught_up(pool, collection_id)
    caught_up(pool, collection_id)
    kept_bytes = newsroom.do(
        "select pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn)::bigint from pg_replication_slots "
        "where database = current_database()"
    )[0][0]
    assert kept_bytes < 16 * 1_048_576
    assert kept(pool, collection_id) == newsroom.records()


def test_a_role_that_may_write_still_only_reads(pool: Pool, newsroom: Newsroom, connected: Connected):
    newsroom.do("grant all on all tables in schema public to reader")
    for sly in (
        "select id, title from articles; delete from articles",
        "select 1 as id) as a; delete from articles; select * from (select 1 as id",
        "with gone as (delete from articles returning id) select id from gone",
    ):
        with pytest.raises(BadInput):
            connected(following(query=sly, tables=TABLES[:1]))
    assert newsroom.do("select count(*) from articles") == [(60,)]


@pytest.mark.parametrize(
    ("also", "told"),
    [
        ({"key": "nothing"}, "gives no column 'nothing'"),
        ({"query": "select changed as id, title from articles"}, "is not written in one way alone"),
        ({"tables": [{"name": "articles", "owners": "select {nothing}"}]}, 'has no column "nothing"'),
        ({"tables": [{"name": "nowhere", "owners": "select {id}"}]}, "There is no table nowhere"),
        ({"tables": [{"name": "articles", "owners": "select x from y where z = {id}"}]}, "cannot be asked for"),
        ({"query": "select id from articles where"}, "syntax error"),
    ],
)
def test_what_cannot_be_followed_is_refused_before_it_is_kept(
    pool: Pool, connected: Connected, also: dict[str, Any], told: str
):
    with pytest.raises(BadInput, match=told):
        connected(following(**also))
    assert following_told(pool, "articles") is None


def test_a_source_that_is_away_is_told_as_that(pool: Pool, elsewhere: Cluster, newsroom: Newsroom, told: int):
    with psycopg.connect(elsewhere.keepers_address(), autocommit=True) as connection:
        connection.execute(f"alter database {newsroom.name} allow_connections false".encode())
        connection.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = %s", [newsroom.name])
        try:
            with pytest.raises((SourceAway, SourceRefuses)):
                caught_up(pool, told)
        finally:
            connection.execute(f"alter database {newsroom.name} allow_connections true".encode())
    caught_up(pool, told)
    assert kept(pool, told) == newsroom.records()


def test_what_records_were_is_forgotten_in_time_and_what_was_deleted_stays(
    pool: Pool, newsroom: Newsroom, connected: Connected
):
    from pale_harbor.store.following.sources import forget_earlier_of_followed

    document = following(way="triggers", kept_days=0)
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    newsroom.do("update articles set title = 'later' where id = 1")
    newsroom.do("delete from comments; delete from articles where id = 2")
    caught_up(pool, collection_id)
    with pool.connection() as connection:
        assert forget_earlier_of_followed(connection) > 0
        assert earlier_states(connection, collection_id, "1") == []
        assert [one.ended_by for one in earlier_states(connection, collection_id, "2")][:1] == ["deletion"]


def test_a_backup_that_is_restored_follows_nothing_until_it_is_told_to(pool: Pool, told: int):
    from pale_harbor.store.following.sources import pause_all

    with pool.connection() as connection:
        pause_all(connection, RESTORED)
    source = source_of(pool, told)
    assert (source.state, source.whole_wanted, source.problem) == ("paused", True, RESTORED)


def test_the_password_is_told_to_nobody(pool: Pool, newsroom: Newsroom, told: int):
    shown = str(connecting.connections_told(pool, "articles"))
    assert "only to look" not in shown
    with pool.connection() as connection:
        rows = connection.execute("select document::text, secrets::text from connections").fetchall()
    assert "only to look" not in str(rows)


def test_a_password_is_never_sent_to_another_server(pool: Pool, newsroom: Newsroom, told: int):
    (before,) = connecting.connections_told(pool, "articles")
    assert before.has_password
    elsewhere = before.document | {"host": "other.example.org"}
    connecting.keep_connection(pool, SEALING, "articles", "newsroom", elsewhere, None)
    assert not connecting.connections_told(pool, "articles")[0].has_password


def test_how_it_stands_is_told_in_one_word(pool: Pool, newsroom: Newsroom, told: int):
    from dataclasses import replace
    from datetime import UTC, datetime, timedelta

    now = datetime.now(UTC)
    source = replace(source_of(pool, told), heard_at=now, problem=None, phase="", waiting=0)
    cases = {
        "in step": source,
        "behind": replace(source, waiting=3),
        "reading": replace(source, phase="reading everything"),
        "not in step": replace(source, problem="it does not answer"),
        "paused": replace(source, state="paused", problem="said before"),
        "undecided": replace(source, state="undecided"),
        "beginning": replace(source, whole_wanted=True),
        # Looked at every ten seconds where it is asked, and fifteen more are patience.
        "quiet": replace(source, heard_at=now - timedelta(seconds=25.1)),
    }
    assert {name: standing_of(one, now) for name, one in cases.items()} == {name: name for name in cases}
    assert standing_of(replace(source, heard_at=now - timedelta(seconds=24.9)), now) == "in step"


@pytest.mark.parametrize(
    ("records", "deleted", "asks"),
    [(60, 30, False), (60, 31, True), (12, 10, False), (12, 11, True), (11, 11, True), (10, 10, False)],
)
def test_somebody_is_asked_where_more_than_half_and_more_than_ten_would_go(records: int, deleted: int, asks: bool):
    assert deletes_most(Outlook(records, 0, 0, records - deleted, deleted, {})) == asks


@pytest.mark.parametrize(("hours", "compared"), [(23.9, False), (24.1, True)])
def test_everything_is_compared_once_a_day_however_often_it_was_begun_again(
    pool: Pool, newsroom: Newsroom, told: int, hours: float, compared: bool
):
    newsroom.do("alter table articles disable trigger all")
    newsroom.do("update articles set title = 'unheard' where id = 6")
    newsroom.do("alter table articles enable trigger all")
    with pool.connection() as connection:
        connection.execute(
            "update followed_sources set compared_at = now() - make_interval(secs => %s)", [3_600 * hours]
        )
    caught_up(pool, told)
    assert (kept(pool, told)["6"]["title"] == "unheard") == compared


def test_a_slot_goes_where_it_is_followed_otherwise_from_now_on(pool: Pool, newsroom: Newsroom, connected: Connected):
    document = following(way="decoding")
    collection_id = connected(document)
    install(pool, newsroom, document)
    caught_up(pool, collection_id)
    slots = "select count(*) from pg_replication_slots where database = current_database()"
    connected(following(way="decoding", whole_hours=1))
    assert newsroom.do(slots) == [(1,)]
    connected(following(way="asking"))
    assert newsroom.do(slots) == [(0,)]
    caught_up(pool, collection_id)
    assert kept(pool, collection_id) == newsroom.records()


def test_a_log_that_is_not_written_in_utf_8_is_not_read(elsewhere: Cluster):
    with psycopg.connect(elsewhere.keepers_address(), autocommit=True) as connection:
        connection.execute("create database latin encoding 'LATIN1' template template0")
        try:
            with LivePostgreSQL(elsewhere.keepers_address("latin")) as live:
                told = [one.what for one in lacking_for_decoding(live, "0" * 12, [])]
            with LivePostgreSQL(elsewhere.keepers_address()) as live:
                none = lacking_for_decoding(live, "0" * 12, [])
        finally:
            connection.execute("drop database latin with (force)")
    assert told == ["its log is written in LATIN1, and read here as UTF-8 alone"]
    assert none == []
