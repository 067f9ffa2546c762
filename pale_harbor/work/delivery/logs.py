"""Takes in the log of another search: what was asked there is looked at beside what is asked here."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime
from typing import Final
from uuid import UUID, uuid5

from pale_harbor.formats.asked_logs import LoggedQuery, logged_queries
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.asked import AskedQuery, EventKind, add_asked, add_events
from pale_harbor.work.workbench import Workbench

_AT_ONCE: Final = 5_000
# Any number of our own: rows of logs are named within it.
_LOGS: Final = UUID("0b6f0a4e-6c0a-4d6b-8f0e-5d7c1b2a9e31")


@dataclass(frozen=True, slots=True, kw_only=True)
class LogLoaded:
    """What a log came to. added: queries that were not known; first_at, last_at: of all of its queries."""

    queries: int
    added: int
    first_at: datetime
    last_at: datetime


def load_log(bench: Workbench, collection: str, text: str, source: str) -> LogLoaded:
    """Keeps what a log tells, whole or not at all; what is loaded twice counts once. Raises BadInput, NotFound."""
    logged = logged_queries(text, source)
    # The same query in the same moment of the same session, so often.
    before: Counter[tuple[object, ...]] = Counter()
    added = 0
    with bench.pool.connection() as connection:
        own = collection_named(connection, collection)
        for first in range(0, len(logged), _AT_ONCE):
            asked: list[AskedQuery] = []
            events: list[tuple[UUID, EventKind, str, datetime]] = []
            for one in logged[first : first + _AT_ONCE]:
                name = (one.at.isoformat(), one.session, one.query, one.language)
                before[name] += 1
                id_ = uuid5(_LOGS, repr((str(own.uid), *name, before[name])))
                asked.append(_asked(own.id, id_, one))
                events.extend((id_, "click", key, one.at) for key in one.clicked)
                events.extend((id_, "success", key, one.at) for key in one.succeeded)
            added += add_asked(connection, asked)
            add_events(connection, own.id, events)
    moments = [one.at for one in logged]
    return LogLoaded(queries=len(logged), added=added, first_at=min(moments), last_at=max(moments))


def _asked(collection_id: int, id_: UUID, one: LoggedQuery) -> AskedQuery:
    return AskedQuery(
        id=id_,
        collection_id=collection_id,
        at=one.at,
        key_id=None,
        session=one.session,
        query=one.query,
        language=one.language,
        found=one.found,
        elapsed_ms=None,
        ranker=None,
        version=None,
        # What else was shown nobody knows: clicks on it say nothing of where it stood.
        shown=[],
    )
