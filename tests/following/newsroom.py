"""A made-up newsroom's database: authors, articles and their comments, changed at random by whoever works there."""

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import psycopg
from psycopg import Connection, sql

from pale_harbor.formats.following.document import FollowingDocument, following_document

READER = "reader"
PASSWORD = "only to look"

QUERY = """
select articles.id, title, articles.body, authors.name as author,
    (select array_agg(comments.body order by comments.id) from comments where article_id = articles.id) as comments,
    articles.changed
from articles join authors on authors.id = author_id
"""

TABLES = [
    {"name": "articles", "owners": "select {id}"},
    {"name": "authors", "owners": "select id from articles where author_id = {id}"},
    {"name": "comments", "owners": "select {article_id}"},
]

_SCHEMA = """
create table authors (id int generated always as identity primary key, name text not null);
create table articles (
    id bigint generated always as identity primary key, title text not null, body text not null default '',
    author_id int not null references authors, changed timestamptz not null default clock_timestamp()
);
create index on articles (author_id);
create table comments (
    id int generated always as identity primary key, body text not null,
    article_id bigint not null references articles on delete cascade
);
create index on comments (article_id);
"""

WORDS = (
    "harbour ferry tide lantern herring quay rope mist pilot anchor chart bell net gull keel buoy storm sand ebb mole "
    "wharf dredger salt oar cargo crane signal fog sluice dune"
).split()
NAMES = "Ada Orde;Bram Coyle;Ines Marram;Tove Hallow;Jon Kestrel;Mirel Swash;Olle Tidewick;Runa Vane".split(";")


def following(**also: Any) -> FollowingDocument:
    """A document that follows the newsroom."""
    return following_document({"connection": "newsroom", "query": QUERY, "key": "id", "tables": TABLES} | also)


@dataclass
class Newsroom:
    """address: as its owner; name: of the database."""

    address: str
    name: str
    rng: random.Random = field(default_factory=lambda: random.Random(20))

    def connect(self) -> "Connection[Any]":
        return psycopg.connect(self.address, autocommit=True)

    def do(self, statement: str, *values: Any) -> list[tuple[Any, ...]]:
        """Does something as the owner; what it gives, if anything."""
        with self.connect() as connection:
            cursor = connection.execute(statement.encode(), list(values))
            return cursor.fetchall() if cursor.description else []

    def run_script(self, script: str) -> None:
        """Runs what was shown, as the owner."""
        with self.connect() as connection:
            connection.execute(script.encode())

    def records(self) -> dict[str, dict[str, Any]]:
        """What the query gives now, by key, as records hold it."""
        with self.connect() as connection:
            connection.execute("set timezone = 'UTC'")
            cursor = connection.execute(QUERY)
            names = [column.name for column in cursor.description or []]
            rows = [dict(zip(names, row, strict=True)) for row in cursor.fetchall()]
        for row in rows:
            row["changed"] = row["changed"].isoformat()
        return {str(row["id"]): {name: value for name, value in row.items() if value is not None} for row in rows}


def make_newsroom(keepers: str, name: str, articles: int) -> None:
    """Makes the tables in an empty database, and a role that may only read them."""
    rng = random.Random(articles)
    with psycopg.connect(keepers, autocommit=True) as connection:
        connection.execute(_SCHEMA.encode())
        exists = connection.execute("select 1 from pg_roles where rolname = %s", [READER]).fetchone()
        if exists is None:
            connection.execute(
                sql.SQL("create role {} login password {}").format(sql.Identifier(READER), sql.Literal(PASSWORD))
            )
        connection.execute(sql.SQL("grant usage on schema public to {}").format(sql.Identifier(READER)))
        connection.execute(sql.SQL("grant select on authors, articles, comments to {}").format(sql.Identifier(READER)))
        for author in NAMES:
            connection.execute("insert into authors (name) values (%s)", [author])
        with connection.cursor().copy("copy articles (title, body, author_id) from stdin") as copy:
            for _ in range(articles):
                copy.write_row((words(rng, 3), words(rng, 12), rng.randint(1, len(NAMES))))
        with connection.cursor().copy("copy comments (body, article_id) from stdin") as copy:
            for _ in range(articles // 2):
                copy.write_row((words(rng, 5), rng.randint(1, articles)))
        connection.execute("analyze")


def words(rng: random.Random, count: int) -> str:
    """Some words."""
    return " ".join(rng.choice(WORDS) for _ in range(count))


def change_something(connection: "Connection[Any]", rng: random.Random, ids: Sequence[int] | None = None) -> None:
    """One change as a newsroom makes it: mostly to one article or comment, now and then to many."""
    article = rng.choice(ids) if ids else _some(connection, rng, "articles")
    match rng.choices(range(8), [30, 15, 12, 10, 10, 5, 2, 3])[0]:
        case 0:
            connection.execute(
                "update articles set title = %s, changed = clock_timestamp() where id = %s", [words(rng, 3), article]
            )
        case 1:
            connection.execute(
                "insert into comments (body, article_id) select %s, id from articles where id = %s",
                [words(rng, 5), article],
            )
        case 2:
            connection.execute(
                "insert into articles (title, body, author_id) values (%s, %s, %s)",
                [words(rng, 3), words(rng, 12), rng.randint(1, len(NAMES))],
            )
        case 3:
            connection.execute(
                "delete from comments where id = (select id from comments order by id offset %s limit 1)",
                [rng.randint(0, 30)],
            )
        case 4:
            # A comment goes to another article: both are otherwise.
            connection.execute(
                """
                update comments set article_id = (select id from articles where id >= %s order by id limit 1)
                where id = (select id from comments order by id desc offset %s limit 1)
                    and exists (select from articles where id >= %s)
                """,
                [article, rng.randint(0, 30), article],
            )
        case 5:
            connection.execute("delete from articles where id = %s", [article])
        case 6:
            connection.execute(
                "update authors set name = %s where id = %s",
                [f"{rng.choice(NAMES)} {rng.randint(2, 99)}", rng.randint(1, len(NAMES))],
            )
        case _:
            connection.execute(
                "update articles set author_id = %s, changed = clock_timestamp() where id between %s and %s",
                [rng.randint(1, len(NAMES)), article, article + 3],
            )


def _some(connection: "Connection[Any]", rng: random.Random, table: str) -> int:
    row = connection.execute(
        sql.SQL("select id from {} where id >= %s order by id limit 1").format(sql.Identifier(table)),
        [rng.randint(1, 60)],
    ).fetchone()
    return 1 if row is None else int(row[0])
