"""What is told of a collection that follows a database."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal

from pale_harbor.formats.following.connection import database_address
from pale_harbor.formats.following.document import following_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import Pool
from pale_harbor.store.following.connections import connection_called
from pale_harbor.store.following.sources import FollowedSource, followed_by
from pale_harbor.store.imports.incoming import Outlook

# in step: nothing waits; behind: changes are known that are not kept here yet; reading: everything is read; undecided:
# somebody is to decide about what that would do; not in step: it goes no further, and why is told; quiet: nobody
# follows just now, though somebody should.
Standing = Literal["in step", "behind", "reading", "undecided", "not in step", "paused", "beginning", "quiet"]

# It is looked at all the time; where nothing was noted for so long, nobody looks.
_SECONDS_QUIET = 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowingTold:
    """How a following stands. title: of the database; waiting, behind_s: changes that wait, and since when the oldest
    does; unfit: rows that cannot become records; see the document for the rest."""

    standing: Standing
    title: str
    document: dict[str, Any]
    columns: list[str]
    waiting: int
    behind_s: float
    phase: str
    done: int
    problem: str
    problem_since: datetime | None
    outlook: Outlook | None
    changes: int
    added: int
    updated: int
    deleted: int
    unfit: int
    kept_bytes: int
    heard_at: datetime | None
    in_step_at: datetime | None
    compared_at: datetime | None
    swept_at: datetime | None
    by_person: str | None
    made_at: datetime


def following_told(pool: Pool, collection: str) -> FollowingTold | None:
    """How a collection's following stands; None where it follows nothing. Raises NotFound."""
    with pool.connection() as connection:
        kept = collection_named(connection, collection)
        source = followed_by(connection, kept.id)
        if source is None:
            return None
        title = database_address(connection_called(connection, kept.id, source.connection).document).title
    now = datetime.now(UTC)
    standing = standing_of(source, now)
    behind_s = source.behind_s
    if standing in ("not in step", "quiet") and source.in_step_at is not None:
        # What it does not tell may have changed since.
        behind_s = (now - source.in_step_at).total_seconds()
    return FollowingTold(
        standing=standing,
        title=title,
        document=source.document,
        columns=source.columns or [],
        waiting=source.waiting,
        behind_s=behind_s,
        phase=source.phase,
        done=source.done,
        problem=source.problem or "",
        problem_since=source.problem_since,
        outlook=None if source.outlook is None else Outlook(**source.outlook),
        changes=source.changes,
        added=source.added,
        updated=source.updated,
        deleted=source.deleted,
        unfit=source.unfit,
        kept_bytes=source.kept_bytes,
        heard_at=source.heard_at,
        in_step_at=source.in_step_at,
        compared_at=source.compared_at,
        swept_at=source.swept_at,
        by_person=source.by_person,
        made_at=source.made_at,
    )


def standing_of(source: FollowedSource, now: datetime) -> Standing:
    """How a source stands at a moment."""
    if source.state == "paused":
        return "paused"
    if source.state == "undecided":
        return "undecided"
    if source.problem:
        return "not in step"
    quiet_s = _SECONDS_QUIET + following_document(source.document).every_s
    if source.heard_at is not None and (now - source.heard_at).total_seconds() > quiet_s:
        return "quiet"
    if source.phase:
        return "reading"
    if source.compared_at is None or source.whole_wanted:
        return "beginning"
    return "behind" if source.waiting else "in step"
