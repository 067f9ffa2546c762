"""Connections kept, looked through and tried; following begun, changed, paused and ended."""

import time
from dataclasses import dataclass
from typing import Any, Final, Literal

from pale_harbor.errors import BadInput, NotFound
from pale_harbor.formats.following.connection import PASSWORD, database_address
from pale_harbor.formats.following.document import FollowedTable, FollowingDocument, Way, following_document
from pale_harbor.formats.records.conversion import Unfit, readable_values, record_of
from pale_harbor.formats.records.guessing import TOLERANCE, guessed_plan
from pale_harbor.formats.records.plan import FieldPlan, ImportPlan, Kind
from pale_harbor.store.collections.collections import (
    Collection,
    CollectionField,
    collection_named,
    fields_of,
    make_collection,
)
from pale_harbor.store.database import Pool
from pale_harbor.store.following.connections import (
    KeptConnection,
    connection_called,
    connections_of,
    drop_connection,
    put_connection,
)
from pale_harbor.store.following.drafting import Drafted, Reachable, draft, reachable_from, usual_joins
from pale_harbor.store.following.live.catalogue import Catalogue, catalogue_of
from pale_harbor.store.following.live.owners import known_tables, try_owners
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.queue import queue_removal
from pale_harbor.store.following.live.rows import (
    LiveColumn,
    LiveRow,
    Planned,
    SourceAway,
    SourceRefuses,
    check_columns,
)
from pale_harbor.store.following.live.slot import slot_removal
from pale_harbor.store.following.sources import (
    State,
    agree_to,
    end_following,
    followed_by,
    put_followed,
    set_state,
    want_whole,
)
from pale_harbor.store.measuring.outside_rankers import outside_rankers_of
from pale_harbor.work.following.offered import WayOffered, ways_offered
from pale_harbor.work.following.reaching import reach, reach_at, reach_postgresql
from pale_harbor.work.following.ways import way_of
from pale_harbor.work.running.sealing import Sealing

_FIRST_ROWS: Final = 200
_ROWS_SHOWN: Final = 20


@dataclass(frozen=True, slots=True)
class ConnectionTold:
    """A connection without what is secret. has_password: whether one is kept; followed: whether records follow it."""

    name: str
    document: dict[str, Any]
    title: str
    has_password: bool
    followed: bool


@dataclass(frozen=True, slots=True)
class Reached:
    """A database that answered: what it calls itself and how long it took, in milliseconds."""

    version: str
    elapsed_ms: float
    kind: Literal["postgresql", "mysql", "sqlite"]


@dataclass(frozen=True, slots=True)
class JoinDrafted:
    """A draft, and what else could be joined. joins: the ways that are in it."""

    drafted: Drafted
    reachable: list[Reachable]
    joins: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowLooked:
    """A row as it would become a record; reason: why it cannot."""

    key: str | None
    values: dict[str, Any]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """What a query gives before it is followed. planned: how the database would answer it; elapsed_ms: until its first
    rows were here; unheard: tables that it reads and of which nothing would be heard; ways: how it could be followed;
    problem: what is wrong with what is said of its tables, "" where nothing is."""

    columns: list[LiveColumn]
    fields: list[FieldPlan]
    rows: list[RowLooked]
    looked_at: int
    rejected: int
    planned: Planned
    elapsed_ms: float
    unheard: list[str]
    ways: list[WayOffered]
    problem: str


def keep_connection(
    pool: Pool, sealing: Sealing, collection: str, name: str, document: dict[str, Any], password: str | None
) -> None:
    """Keeps how a database is reached; the collection is made where there is none.

    password: the one that is kept stays where it is None, unless somebody else is reached now. Raises BadInput.
    """
    address = database_address(document)
    with pool.connection() as connection, connection.transaction():
        make_collection(connection, collection)
        kept = collection_named(connection, collection)
        before = next((one for one in connections_of(connection, kept.id) if one.name == name), None)
        secrets: dict[str, str] = {}
        # A password that was meant for one server is never sent to another one.
        if password is None and before is not None and database_address(before.document).reached == address.reached:
            secrets = before.secrets
        elif password:
            secrets = sealing.sealed({PASSWORD: password})
        put_connection(connection, kept.id, name, address.model_dump(), secrets)


def drop(pool: Pool, collection: str, name: str) -> None:
    """Forgets a connection. Raises NotFound, BadInput where the collection follows by it or a ranker is asked by it."""
    with pool.connection() as connection:
        kept = collection_named(connection, collection)
        found = connection_called(connection, kept.id, name)
        asked = [
            one.name
            for one in outside_rankers_of(connection, kept.id)
            if one.document.get("kind") == "database" and one.document.get("connection") == name
        ]
        if asked:
            raise BadInput(
                f'The outside ranker "{asked[0]}" is asked by "{name}". Remove it or have it asked otherwise first.'
            )
        drop_connection(connection, found)


def connections_told(pool: Pool, collection: str) -> list[ConnectionTold]:
    """A collection's connections, by name."""
    with pool.connection() as connection:
        kept = collection_named(connection, collection)
        source = followed_by(connection, kept.id)
        return [
            ConnectionTold(
                name=one.name,
                document=one.document,
                title=database_address(one.document).title,
                has_password=PASSWORD in one.secrets,
                followed=source is not None and source.connection_id == one.id,
            )
            for one in connections_of(connection, kept.id)
        ]


def try_connection(document: dict[str, Any], password: str | None) -> Reached:
    """Whether a database answers, before anything of it is kept. Raises SourceAway, SourceRefuses, BadInput."""
    begun = time.perf_counter()
    with reach_at(document, {PASSWORD: password} if password else {}) as live:
        return Reached(live.version(), 1_000 * (time.perf_counter() - begun), database_address(document).kind)


def reached(pool: Pool, sealing: Sealing, collection: str, name: str) -> Reached:
    """Whether a kept connection's database answers. Raises SourceAway, SourceRefuses, NotFound."""
    begun = time.perf_counter()
    kind = _kept(pool, collection, name).document["kind"]
    with reach(_kept(pool, collection, name), sealing) as live:
        return Reached(live.version(), 1_000 * (time.perf_counter() - begun), kind)


def catalogue(pool: Pool, sealing: Sealing, collection: str, name: str) -> Catalogue:
    """The tables of a kept connection's database. Raises SourceAway, SourceRefuses, NotFound, BadInput."""
    with reach_postgresql(_kept(pool, collection, name), sealing) as live:
        return catalogue_of(live)


def drafted(
    pool: Pool, sealing: Sealing, collection: str, name: str, table: str, joins: list[str] | None
) -> JoinDrafted:
    """A query drafted for a table. Raises SourceAway, SourceRefuses, NotFound, BadInput."""
    tables = catalogue(pool, sealing, collection, name)
    found = draft(tables, table, joins)
    return JoinDrafted(
        found, reachable_from(tables, table), list(joins) if joins is not None else usual_joins(tables, table)
    )


def look(
    pool: Pool,
    sealing: Sealing,
    collection: str,
    connection_name: str,
    query: str,
    key: str,
    tables: list[FollowedTable],
    changed_at: str | None,
) -> Looked:
    """What a query gives, what it costs and how it could be followed.

    Raises SourceAway, SourceRefuses, NotFound, BadInput.
    """
    kept = _kept(pool, collection, connection_name)
    with pool.connection() as connection:
        mark = mark_of(collection_named(connection, collection))
    with reach(kept, sealing) as live:
        columns = live.columns(query)
        check_columns([one.name for one in columns], key, changed_at)
        if isinstance(live, LivePostgreSQL):
            live.key_type(query, key)
        planned = live.planned(query)
        begun = time.perf_counter()
        rows = list(live.rows(query, key, _FIRST_ROWS))
        elapsed_ms = 1_000 * (time.perf_counter() - begun)
        fields = guessed_fields(rows, columns, key)
        shown = [_row_looked(row, key, fields) for row in rows]
        problem, ways, unheard = "", list[WayOffered](), list[str]()
        try:
            ways = ways_offered(live, mark, tables, changed_at)
            if isinstance(live, LivePostgreSQL):
                known = known_tables(live, tables)
                for one in known:
                    try_owners(live, one)
                unheard = sorted(set(planned.tables) - {one.table.full_name for one in known})
        except SourceRefuses as error:
            # The rows are shown all the same: what is said of tables is mended beside them.
            problem = str(error)
    return Looked(
        columns=columns,
        fields=fields,
        rows=shown[:_ROWS_SHOWN],
        looked_at=len(rows),
        rejected=sum(bool(one.reason) for one in shown),
        planned=planned,
        elapsed_ms=elapsed_ms,
        unheard=unheard,
        ways=ways,
        problem=problem,
    )


def guessed_fields(rows: list[LiveRow], columns: list[LiveColumn], key: str) -> list[FieldPlan]:
    """What the columns of a query become: by their types where these say so, else by the first rows."""
    values = readable_values(row.row for row in rows)
    from_rows = guessed_plan(ImportPlan(format="postgresql", key=key), values, TOLERANCE).fields or []
    fields: list[FieldPlan] = []
    for column in columns:
        inner = [one for one in from_rows if one.name.startswith(f"{column.name}.")]
        seen = next((one for one in from_rows if one.name == column.name), None)
        if inner and seen is None:
            # What is nested in its values is spread out.
            fields += inner
            continue
        role = seen.role if seen else None
        kind: Kind = column.kind or (seen.kind if seen else "text")
        if column.written and column.kind is None and kind not in ("text", "exact"):
            # A text that says a number in the first rows need not in all.
            kind = "exact"
        if role == "key" or column.name == key:
            kind, role = "exact", "key"
        several = column.written.endswith("[]") or bool(seen and seen.several)
        fields.append(FieldPlan(name=column.name, kind=kind, several=several, role=role))
    return fields


def follow(pool: Pool, sealing: Sealing, collection: str, document: dict[str, Any]) -> None:
    """Has a collection follow a database, or says anew how: everything is read once, and then what changes.

    Raises SourceAway, SourceRefuses where it cannot be followed so, NotFound, BadInput.
    """
    wanted = following_document(document)
    with pool.connection() as connection:
        kept_collection = collection_named(connection, collection)
        kept = connection_called(connection, kept_collection.id, wanted.connection)
        _check_key(collection, fields_of(connection, kept_collection.id), wanted.key)
    with reach(kept, sealing) as live:
        columns = live.columns(wanted.query)
        check_columns([one.name for one in columns], wanted.key, wanted.changed_at)
        if isinstance(live, LivePostgreSQL):
            live.key_type(wanted.query, wanted.key)
            for one in known_tables(live, wanted.tables):
                try_owners(live, one)
        # Whether the database knows the way at all; what is still to be installed there is waited for.
        way_of(live, mark_of(kept_collection), wanted)
        if wanted.fields is None:
            rows = list(live.rows(wanted.query, wanted.key, _FIRST_ROWS))
            wanted = wanted.model_copy(update={"fields": guessed_fields(rows, columns, wanted.key)})
    _let_go_of_former(pool, sealing, kept_collection, wanted)
    with pool.connection() as connection, connection.transaction():
        put_followed(connection, kept_collection.id, kept.id, mark_of(kept_collection), wanted.model_dump())


def _let_go_of_former(pool: Pool, sealing: Sealing, collection: Collection, wanted: FollowingDocument) -> None:
    """Drops the slot of a former following that the new one does not read. Raises SourceAway where it cannot be."""
    with pool.connection() as connection:
        before = followed_by(connection, collection.id)
        if before is None:
            return
        document = following_document(before.document)
        if document.way != "decoding" or (wanted.way, wanted.connection) == (document.way, document.connection):
            return
        reached_by = connection_called(connection, collection.id, before.connection)
        set_state(connection, collection.id, "paused")
    problem = _let_go(reached_by, sealing, before.mark, document)
    if problem:
        raise SourceAway(problem)


def mark_of(collection: Collection) -> str:
    """What a collection's things in other databases are called by: of this collection alone."""
    return collection.uid.hex[:12]


def _check_key(name: str, fields: list[CollectionField], key: str) -> None:
    now = next((one.name for one in fields if one.is_key), None)
    if fields and now != key:
        what = f'the field "{now}"' if now else "the number of the row"
        raise BadInput(
            f'The key of "{name}" is {what}, not "{key}". Name the column so (as), or make another collection.'
        )


def _kept(pool: Pool, collection: str, name: str) -> KeptConnection:
    with pool.connection() as connection:
        return connection_called(connection, collection_named(connection, collection).id, name)


def _following(pool: Pool, collection: str) -> Collection:
    """The collection. Raises NotFound where it follows nothing."""
    with pool.connection() as connection:
        kept = collection_named(connection, collection)
        if followed_by(connection, kept.id) is None:
            raise NotFound(f'"{collection}" follows no database.')
    return kept


def _set(pool: Pool, collection: str, state: State) -> None:
    kept = _following(pool, collection)
    with pool.connection() as connection:
        set_state(connection, kept.id, state)


def _row_looked(row: LiveRow, key: str, fields: list[FieldPlan]) -> RowLooked:
    try:
        record = record_of(row.row, 0, ImportPlan(key=key, fields=fields))
    except Unfit as unfit:
        return RowLooked(key=row.key, values={"": row.row.raw_text[:300]}, reason=str(unfit))
    return RowLooked(key=record.key, values=record.values, reason="")


def pause(pool: Pool, collection: str) -> None:
    """Follows no more until told to go on; what changes meanwhile waits at the source. Raises NotFound."""
    _set(pool, collection, "paused")


def go_on(pool: Pool, collection: str) -> None:
    """Goes on from where it stood. Raises NotFound."""
    _set(pool, collection, "following")


def compare_everything(pool: Pool, collection: str, *, take_columns: bool = False) -> None:
    """Has everything read once more. take_columns: whatever columns the query gives now are right. Raises NotFound."""
    with pool.connection() as connection, connection.transaction():
        kept = _following(pool, collection)
        want_whole(connection, kept.id, forget_columns=take_columns)


def agree(pool: Pool, collection: str, deletions: int) -> None:
    """Lets what was read delete so many records. Raises NotFound, BadInput where nothing waits for that."""
    with pool.connection() as connection, connection.transaction():
        kept = _following(pool, collection)
        source = followed_by(connection, kept.id)
        wanted = 0 if source is None or source.outlook is None else int(source.outlook["deleted"])
        if deletions < wanted:
            raise BadInput(f"This would delete {wanted:,} records; you agreed to {deletions:,}.")
        if not agree_to(connection, kept.id, deletions):
            raise BadInput("The following does not wait for anybody's word.")


@dataclass(frozen=True, slots=True)
class EndedFollowing:
    """removal: what may be run in the database to remove what was installed there, "" where there is nothing; problem:
    what could not be let go of there, "" where all was."""

    removal: str
    problem: str


def end(pool: Pool, sealing: Sealing, collection: str) -> EndedFollowing:
    """Follows no more; the records stay. What the database keeps for us alone is let go of. Raises NotFound."""
    kept = _following(pool, collection)
    with pool.connection() as connection:
        source = followed_by(connection, kept.id)
        assert source is not None
        reached_by = connection_called(connection, kept.id, source.connection)
        # First of all: whoever follows sees it, and lets go.
        set_state(connection, kept.id, "paused")
    document = following_document(source.document)
    problem = ""
    removal = _removal(source.mark, document.way)
    if document.way == "decoding":
        problem = _let_go(reached_by, sealing, source.mark, document)
    with pool.connection() as connection:
        end_following(connection, kept.id)
    return EndedFollowing(removal, problem)


def end_before_dropping(pool: Pool, sealing: Sealing, collection: str) -> None:
    """The same, of a collection that may follow nothing, and is dropped then.

    Raises BadInput where it follows by triggers: nobody would be shown what removes them.
    """
    with pool.connection() as connection:
        source = followed_by(connection, collection_named(connection, collection).id)
    if source is None:
        return
    if following_document(source.document).way == "triggers":
        raise BadInput(
            f'"{collection}" follows "{source.connection}" by triggers, which would go on noting there what changes. '
            "End the following first: it shows what removes them."
        )
    end(pool, sealing, collection)


def _let_go(kept: KeptConnection, sealing: Sealing, mark: str, document: FollowingDocument) -> str:
    problem = ""
    for _ in range(20):
        try:
            with reach(kept, sealing) as live:
                way_of(live, mark, document).end()
                return ""
        except (SourceAway, BadInput) as error:
            # Whoever followed may read by the slot for a moment yet.
            problem = f"Its slot pale_harbor_{mark} could not be dropped, and keeps its log: drop it there. {error}"
            time.sleep(0.25)
    return problem


def _removal(mark: str, way: Way) -> str:
    return {"asking": "", "triggers": queue_removal(mark), "decoding": slot_removal(mark)}[way]
