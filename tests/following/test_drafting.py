"""A query drafted from foreign keys: each row is a record, and changed rows are known by their owners."""

import random
from typing import Any

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.formats.following.document import following_document
from pale_harbor.store.database import Pool
from pale_harbor.work.following import connecting
from tests.following.conftest import SEALING, keep_newsroom
from tests.following.newsroom import Newsroom
from tests.following.test_ways import caught_up, kept

MORE = """
create table publishers (id int primary key, name text);
alter table authors add column publisher_id int references publishers;
create table tags (id int primary key, label text);
create table article_tags (
    article_id bigint references articles on delete cascade, tag_id int references tags on delete cascade,
    primary key (article_id, tag_id)
);
create table "Order lines" (
    "line no" int primary key, "article" bigint references articles on delete cascade, note text, raw bytea
);
insert into publishers values (1, 'Quay Press'), (2, 'Mole & Co');
update authors set publisher_id = 1 + id % 2;
insert into tags values (1, 'tides'), (2, 'ropes'), (3, 'fog');
insert into article_tags select id, 1 + id % 3 from articles;
insert into "Order lines" select id, id, 'line ' || id, '\\x00' from articles where id < 20;
grant select on all tables in schema public to reader;
"""


@pytest.fixture
def wide(pool: Pool, newsroom: Newsroom) -> Newsroom:
    newsroom.run_script(MORE)
    keep_newsroom(pool, newsroom)
    return newsroom


def test_what_belongs_to_a_record_is_joined_by_itself(pool: Pool, wide: Newsroom):
    found = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", None)
    assert [(one.table, one.how_many) for one in found.reachable if one.name in found.joins] == [
        ("authors", "one"),
        ('"Order lines"', "several"),
        ("comments", "several"),
        ("tags", "several"),
    ]
    assert found.drafted.key == "id"
    assert {one.name for one in found.drafted.tables} == {
        "articles", "authors", "comments", '"Order lines"', "article_tags", "tags",
    }  # fmt: skip


def test_a_draft_gives_one_row_a_record_with_all_that_belongs_to_it(pool: Pool, wide: Newsroom):
    found = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", None).drafted
    looked = connecting.look(pool, SEALING, "articles", "newsroom", found.query, found.key, found.tables, None)
    assert (looked.looked_at, looked.rejected, looked.problem, looked.unheard) == (60, 0, "", [])
    # What is no value of a record is left out: numbers that lead elsewhere, and bytes.
    assert [one.name for one in looked.columns] == [
        "id", "title", "body", "author_id", "changed", "author", "Order lines_note", "comments_body", "tags",
    ]  # fmt: skip
    row = next(one.values for one in looked.rows if one.key == "3")
    assert row["tags"] == ["tides"]
    assert row["Order lines_note"] == ["line 3"]


CHANGES = [
    "update publishers set name = name || '!' where id = 1",
    "update authors set name = name || '!', publisher_id = 1 where id = 2",
    "update authors set publisher_id = 3 - publisher_id where id = 3",
    "update articles set author_id = 1 where id in (5, 6)",
    "insert into comments (body, article_id) values ('new', 7)",
    "update comments set article_id = 8 where id = (select max(id) from comments)",
    "delete from comments where id = (select min(id) from comments)",
    "update tags set label = 'lines' where id = 2",
    "delete from article_tags where article_id = 9",
    "insert into article_tags select 10, id from tags on conflict do nothing",
    "delete from tags where id = 3",
    'update "Order lines" set article = 30 where "line no" = 4',
    "delete from articles where id = 11",
    "update articles set id = 1000 where id = 59",
]


@pytest.mark.parametrize("way", ["triggers", "decoding"])
def test_whatever_changes_in_any_table_is_known_by_its_owners(pool: Pool, wide: Newsroom, way: str):
    wide.do(
        "alter table comments drop constraint comments_article_id_fkey, "
        "add foreign key (article_id) references articles on delete cascade on update cascade"
    )
    for table, column in (("article_tags", "article_id"), ('"Order lines"', "article")):
        name = wide.do(
            "select conname::text from pg_constraint "
            "where conrelid = %s::regclass and confrelid = 'articles'::regclass",
            table,
        )[0][0]
        wide.do(
            f'alter table {table} drop constraint "{name}", '
            f"add foreign key ({column}) references articles on delete cascade on update cascade"
        )
    ways = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", None)
    every = [one.name for one in ways.reachable if one.table != "articles"]
    # The publisher of an article's author too, which is two steps away.
    assert any("publishers" in name for name in every)
    found = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", every).drafted
    tables = [one.model_dump() for one in found.tables]
    document = {"connection": "newsroom", "query": found.query, "key": found.key, "tables": tables, "way": way}
    looked = connecting.look(pool, SEALING, "articles", "newsroom", found.query, found.key, found.tables, None)
    wide.run_script(next(one.script for one in looked.ways if one.way == way))
    connecting.follow(pool, SEALING, "articles", document)
    with pool.connection() as connection:
        (collection_id,) = connection.execute("select id from collections").fetchone() or (0,)
    caught_up(pool, collection_id)
    random.Random(7).shuffle(CHANGES)
    for change in CHANGES:
        wide.do(change)
        caught_up(pool, collection_id)
        assert kept(pool, collection_id) == rows_of(wide, found.query), change


def rows_of(newsroom: Newsroom, query: str) -> dict[str, dict[str, Any]]:
    with newsroom.connect() as connection:
        connection.execute("set timezone = 'UTC'")
        cursor = connection.execute(query.encode())
        names = [column.name for column in cursor.description or []]
        rows = [dict(zip(names, row, strict=True)) for row in cursor.fetchall()]
    for row in rows:
        row["changed"] = row["changed"].isoformat()
    return {str(row["id"]): {name: value for name, value in row.items() if value is not None} for row in rows}


def test_a_table_whose_rows_no_column_names_is_not_drafted(pool: Pool, wide: Newsroom):
    with pytest.raises(BadInput, match="No single column names the rows of article_tags"):
        connecting.drafted(pool, SEALING, "articles", "newsroom", "public.article_tags", None)


def test_a_way_that_is_not_there_is_named(pool: Pool, wide: Newsroom):
    with pytest.raises(BadInput, match='is called "elsewhere"'):
        connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", ["elsewhere"])


def test_what_a_role_may_not_read_is_not_offered(pool: Pool, wide: Newsroom):
    wide.do("revoke select on tags from reader")
    found = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", None)
    assert "tags" not in [one.table for one in found.reachable]


def test_what_is_read_and_not_heard_of_is_told(pool: Pool, wide: Newsroom):
    found = connecting.drafted(pool, SEALING, "articles", "newsroom", "public.articles", None).drafted
    looked = connecting.look(pool, SEALING, "articles", "newsroom", found.query, found.key, found.tables[:2], None)
    assert looked.unheard == ["public.Order lines", "public.article_tags", "public.comments", "public.tags"]


def test_ways_say_what_stands_in_their_way(pool: Pool, wide: Newsroom):
    query = "select id, title from articles"
    looked = connecting.look(pool, SEALING, "articles", "newsroom", query, "id", [], None)
    assert [(one.way, one.by, one.is_ready) for one in looked.ways] == [
        ("decoding", None, False), ("triggers", None, False),
        ("asking", "transaction", False), ("asking", "column", False),
    ]  # fmt: skip
    tables = following_document(
        {"connection": "x", "query": query, "key": "id", "tables": [{"name": "articles", "owners": "select {id}"}]}
    ).tables
    looked = connecting.look(pool, SEALING, "articles", "newsroom", query, "id", tables, "title")
    ready = {(one.way, one.by): one.is_ready for one in looked.ways}
    assert ready == {
        ("decoding", None): False, ("triggers", None): False,
        ("asking", "transaction"): True, ("asking", "column"): True,
    }  # fmt: skip
