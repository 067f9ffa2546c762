"""Following a live database over HTTP: connections, drafts, looks, and how it stands."""

from typing import Annotated

from fastapi import Path, Query

from pale_harbor.api.following.models import (
    AgreeToFollowingRequest,
    CompareWithSourceRequest,
    ConnectionRequest,
    DraftRequest,
    FollowRequest,
    LookRequest,
    UnfitPage,
)
from pale_harbor.api.models import MOST
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.following.live.catalogue import Catalogue
from pale_harbor.store.following.sources import followed_by, unfit_rows
from pale_harbor.work.following import connecting
from pale_harbor.work.following.connecting import (
    ConnectionTold,
    EndedFollowing,
    JoinDrafted,
    Looked,
    Reached,
    connections_told,
)
from pale_harbor.work.following.told import FollowingTold, following_told

router = guarded_router()

ConnectionName = Annotated[str, Path(min_length=1, max_length=63)]


@router.get("/collections/{name}/connections")
def connections(name: str, bench: Bench) -> list[ConnectionTold]:
    """Databases that a collection may be read from. What is secret of them is never told."""
    return connections_told(bench.pool, name)


@router.put("/collections/{name}/connections/{connection}")
def put_connection(
    name: str, connection: ConnectionName, request: ConnectionRequest, bench: Bench
) -> list[ConnectionTold]:
    """Keeps how a database is reached."""
    connecting.keep_connection(bench.pool, bench.sealing, name, connection, request.document, request.password)
    return connections_told(bench.pool, name)


@router.delete("/collections/{name}/connections/{connection}", status_code=204)
def drop_connection(name: str, connection: ConnectionName, bench: Bench) -> None:
    """Forgets a connection that nothing follows by."""
    connecting.drop(bench.pool, name, connection)


@router.post("/collections/{name}/connections/{connection}/try")
def try_connection(name: str, connection: ConnectionName, bench: Bench) -> Reached:
    """Whether a database answers."""
    return connecting.reached(bench.pool, bench.sealing, name, connection)


@router.get("/collections/{name}/connections/{connection}/catalogue")
def catalogue_of_connection(name: str, connection: ConnectionName, bench: Bench) -> Catalogue:
    """The tables that may be read, and which refer to which."""
    return connecting.catalogue(bench.pool, bench.sealing, name, connection)


@router.post("/collections/{name}/connections/{connection}/draft")
def draft_query(name: str, connection: ConnectionName, request: DraftRequest, bench: Bench) -> JoinDrafted:
    """A query drafted for a table from its foreign keys."""
    return connecting.drafted(bench.pool, bench.sealing, name, connection, request.table, request.joins)


@router.post("/collections/{name}/connections/{connection}/look")
def look_at_query(name: str, connection: ConnectionName, request: LookRequest, bench: Bench) -> Looked:
    """The first rows of a query, what it costs, and how it could be followed. Nothing is kept of it."""
    return connecting.look(
        bench.pool,
        bench.sealing,
        name,
        connection,
        request.query,
        request.key,
        request.tables,
        request.changed_at,
    )


@router.get("/collections/{name}/following")
def following(name: str, bench: Bench) -> FollowingTold | None:
    """How a collection's following stands; null where it follows nothing."""
    return following_told(bench.pool, name)


@router.put("/collections/{name}/following")
def put_following(name: str, request: FollowRequest, bench: Bench) -> FollowingTold | None:
    """Has a collection follow a database, or says anew how."""
    connecting.follow(bench.pool, bench.sealing, name, request.document)
    return following_told(bench.pool, name)


@router.post("/collections/{name}/following/pause")
def pause_following(name: str, bench: Bench) -> FollowingTold | None:
    """Follows no more until told to go on."""
    connecting.pause(bench.pool, name)
    return following_told(bench.pool, name)


@router.post("/collections/{name}/following/go-on")
def go_on_following(name: str, bench: Bench) -> FollowingTold | None:
    """Goes on from where it stood."""
    connecting.go_on(bench.pool, name)
    return following_told(bench.pool, name)


@router.post("/collections/{name}/following/compare")
def compare_with_source(name: str, request: CompareWithSourceRequest, bench: Bench) -> FollowingTold | None:
    """Has everything read once more."""
    connecting.compare_everything(bench.pool, name, take_columns=request.take_columns)
    return following_told(bench.pool, name)


@router.post("/collections/{name}/following/agree")
def agree_to_following(name: str, request: AgreeToFollowingRequest, bench: Bench) -> FollowingTold | None:
    """Lets what was read delete so many records."""
    connecting.agree(bench.pool, name, request.deletions)
    return following_told(bench.pool, name)


@router.delete("/collections/{name}/following")
def end_following(name: str, bench: Bench) -> EndedFollowing:
    """Follows no more; the records stay."""
    return connecting.end(bench.pool, bench.sealing, name)


@router.get("/collections/{name}/following/unfit")
def unfit_rows_of_source(
    name: str,
    bench: Bench,
    first: Annotated[int, Query(ge=0, le=MOST)] = 0,
    count: Annotated[int, Query(ge=1, le=1_000)] = 100,
) -> UnfitPage:
    """Rows of the source that cannot become records, with the reason."""
    with bench.pool.connection() as connection:
        kept = collection_named(connection, name)
        source = followed_by(connection, kept.id)
        rows = unfit_rows(connection, kept.id, first, count)
    return UnfitPage(rows=rows, found=0 if source is None else source.unfit)
