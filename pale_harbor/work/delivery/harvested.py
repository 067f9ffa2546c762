"""What harvesters get: records as a key may see them, in the order in which they changed, and those that went."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Final

from pale_harbor.core.fields import Filter, passing_records
from pale_harbor.core.fields.column import column_of
from pale_harbor.store.database import in_one_state
from pale_harbor.store.records.harvesting import (
    ChangedRecord,
    Span,
    change_of,
    changed_records,
    made_at,
    revision_now,
    values_before,
)
from pale_harbor.work.delivery.answering import Answering
from pale_harbor.work.delivery.known import Known
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.workbench import Workbench

_AT_ONCE: Final = 100
_OUT_OF_TIME: Final = "records"


@dataclass(frozen=True, slots=True)
class HarvestedRecord:
    """A record. values: what may be seen of it, None where it is gone for whoever has the key."""

    key: str
    revision: int
    at: datetime
    values: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class HarvestedPart:
    """A part of a list. after: the revision and key that it reaches to; is_last: whether nothing follows; up_to: the
    revision that the list is of."""

    records: list[HarvestedRecord]
    after: tuple[int, str]
    is_last: bool
    up_to: int


class Harvesting:
    """Records for harvesters, by key. Safe to use from several threads."""

    def __init__(self, bench: Workbench, answering: Answering) -> None:
        self._bench, self._answering = bench, answering

    def begun(self, known: Known) -> datetime | None:
        """When the collection was made: nothing in it changed before."""
        with self._bench.pool.connection() as connection:
            return made_at(connection, known.key.collection_id)

    def part(
        self,
        known: Known,
        since: datetime | None,
        before: datetime | None,
        after: tuple[int, str],
        up_to: int | None,
    ) -> HarvestedPart:
        """A hundred records behind a place, or as many as there is time for.

        up_to: the revision that the list is of; as it is now where it is None. Raises as `Answering.listed`.
        """
        hurry = Hurry(known.terms.time_ms / 1000)
        filters = self._answering.filters(known)
        told: list[HarvestedRecord] = []
        place = after
        with self._bench.pool.connection() as connection:
            # As they are now, not as they are ready to be searched: what is passed over would be missed for good.
            in_one_state(connection)
            last = up_to if up_to is not None else revision_now(connection, known.key.collection_id)
            span = Span(up_to=last, since=since, before=before)
            while True:
                changed = changed_records(connection, known.key.collection_id, span, place, _AT_ONCE)
                gone = [one.key for one in changed if not _is_seen(filters, one)]
                earlier = values_before(connection, known.key.collection_id, gone) if gone else {}
                for one in changed:
                    place = (one.revision, one.key)
                    own = _told(known, filters, one, one.key in gone, earlier)
                    if own is not None:
                        told.append(own)
                    if len(told) == _AT_ONCE:
                        break
                is_last = len(changed) < _AT_ONCE and (not changed or place == (changed[-1].revision, changed[-1].key))
                # Whatever the time, a part leads on from the one before.
                if is_last or len(told) == _AT_ONCE or not hurry.has_time_for(_OUT_OF_TIME):
                    return HarvestedPart(told, place, is_last, last)

    def record(self, known: Known, key: str) -> HarvestedRecord | None:
        """One record; None where there never was one that could be seen. Raises as `Answering.listed`."""
        filters = self._answering.filters(known)
        with self._bench.pool.connection() as connection:
            change = change_of(connection, known.key.collection_id, key)
            earlier = values_before(connection, known.key.collection_id, [key])
        if change is None:
            return None
        return _told(known, filters, change, not _is_seen(filters, change), earlier)


def _is_seen(filters: Sequence[Filter], one: ChangedRecord) -> bool:
    """Whether a record is there, and passes all filters."""
    return one.field_values is not None and _passed(one.field_values, filters)


def _told(
    known: Known,
    filters: Sequence[Filter],
    one: ChangedRecord,
    is_gone: bool,
    earlier: Mapping[str, Sequence[Mapping[str, Any]]],
) -> HarvestedRecord | None:
    """A record as it is told; None where whoever has the key could never see it."""
    if not is_gone:
        return HarvestedRecord(one.key, one.revision, one.at, known.audience.values(one.field_values or {}))
    if not any(_passed(values, filters) for values in earlier.get(one.key, ())):
        return None
    return HarvestedRecord(one.key, one.revision, one.at, None)


def _passed(values: Mapping[str, Any], filters: Sequence[Filter]) -> bool:
    return all(bool(passing_records(one, column_of([values.get(one.field)]))[0]) for one in filters)
