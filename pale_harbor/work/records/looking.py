"""Looks at records: profiles of fields, pages of records, what readings made of one, previews of passages."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from psycopg import Connection

from pale_harbor.core.ranking import Ranker, Reading
from pale_harbor.core.records import FieldProfile, Profiler
from pale_harbor.core.text import Chain, Token, record_chain_of
from pale_harbor.core.text.passages import PassageRule, passages
from pale_harbor.errors import NotFound
from pale_harbor.formats.passages import passage_rule
from pale_harbor.store.collections.collections import Collection, CollectionField, collection_named, fields_of
from pale_harbor.store.database import Pool, in_one_state
from pale_harbor.store.records.records import (
    Record,
    all_records,
    first_key,
    keys_around,
    record_count,
    record_with_key,
    sample_of_field,
    sampled_records,
)
from pale_harbor.work.records.values import language_in, texts_of
from pale_harbor.work.running.caches import Memory

# Larger collections are profiled by a sample of so many records, and it is said so.
MOST_PROFILED: Final = 20_000
_PREVIEWED: Final = 200


@dataclass(frozen=True, slots=True)
class Profile:
    """Profiles of all fields. looked_at: records that were read, out of `records`."""

    revision: int
    records: int
    looked_at: int
    fields: list[FieldProfile]


class Profiles:
    """Profiles by collection and revision; the latest are remembered."""

    def __init__(self, pool: Pool, memory: Memory) -> None:
        self.pool = pool
        self.memory = memory

    def of(self, collection_name: str) -> Profile:
        """The profile of a collection as it is now."""
        with self.pool.connection() as connection:
            in_one_state(connection)
            collection = collection_named(connection, collection_name)
            fields = fields_of(connection, collection.id)
            name = (collection.uid, collection.revision, *((field.name, field.kind) for field in fields))
            return self.memory.profiles.get_or_make(name, lambda: _profile(connection, collection, fields))


def _profile(connection: Connection[Any], collection: Collection, fields: Sequence[CollectionField]) -> Profile:
    count = record_count(connection, collection.id)
    whole = count <= MOST_PROFILED
    records = (
        all_records(connection, collection.id) if whole else sampled_records(connection, collection.id, MOST_PROFILED)
    )
    profilers = {field.name: Profiler(name=field.name, is_date=field.kind == "date") for field in fields}
    looked_at = 0
    for record in records:
        looked_at += 1
        for field_name, profiler in profilers.items():
            profiler.add(record.key, record.field_values.get(field_name))
    return Profile(collection.revision, count, looked_at, [profiler.finish() for profiler in profilers.values()])


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordAmongOthers:
    """A record and its neighbours in the order of keys."""

    key: str
    revision: int
    field_values: dict[str, Any]
    key_before: str | None
    key_after: str | None


def record_among_others(pool: Pool, collection_name: str, key: str | None) -> RecordAmongOthers:
    """A record by its key, the first one where it is None. Raises NotFound."""
    with pool.connection() as connection:
        collection = collection_named(connection, collection_name)
        wanted = key if key is not None else first_key(connection, collection.id)
        if wanted is None:
            raise NotFound(f'The collection "{collection_name}" has no records yet.')
        found = record_with_key(connection, collection, wanted)
        before, after = keys_around(connection, collection.id, found.key)
    return RecordAmongOthers(
        key=found.key,
        revision=found.revision,
        field_values=found.field_values,
        key_before=before,
        key_after=after,
    )


@dataclass(frozen=True, slots=True)
class ReadingTokens:
    """What a reading made of one record: the tokens of each value of its field."""

    field: str
    chain: str
    weight: float
    values: list[tuple[str, list[Token]]]


def tokens_of(record: Record, ranker: Ranker) -> list[ReadingTokens]:
    """What each reading of a ranker made of a record, token by token."""
    return [
        ReadingTokens(
            reading.field,
            reading.chain.notation,
            reading.weight,
            [(text, _chain(reading, record).run(text)) for text in texts_of(record.field_values.get(reading.field))],
        )
        for reading in ranker.readings
    ]


def _chain(reading: Reading, record: Record) -> Chain:
    by = None if isinstance(reading.chain, Chain) else language_in(record.field_values.get(reading.chain.by))
    return record_chain_of(reading.chain, by)


@dataclass(frozen=True, slots=True)
class CutValue:
    """A value and its passages: start and end in code points."""

    text: str
    stretches: list[tuple[int, int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class PassagePreview:
    """What a rule does to a field's values: how many it was tried on, how many it cut, and some of them.

    passages: in all; longest: in code points.
    """

    tried: int
    cut: int
    passages: int
    longest: int
    values: list[CutValue]


def preview_passages(pool: Pool, collection_name: str, field: str, rule: PassageRule, shown: int = 3) -> PassagePreview:
    """Tries a rule on values from all over the collection; shows the longest ones."""
    with pool.connection() as connection:
        collection: Collection = collection_named(connection, collection_name)
        sample = sample_of_field(connection, collection.id, field, _PREVIEWED)
    cut = [CutValue(text, passages(text, rule)) for value in sample for text in texts_of(value)]
    stretches = [stretch for value in cut for stretch in value.stretches]
    longest = sorted(cut, key=lambda value: -len(value.text))[:shown]
    return PassagePreview(
        tried=len(cut),
        cut=sum(len(value.stretches) > 1 for value in cut),
        passages=len(stretches),
        longest=max((end - start for start, end in stretches), default=0),
        values=longest,
    )


def passages_of(record: Record, fields: list[CollectionField]) -> dict[str, list[CutValue]]:
    """The passages of a record's fields that are cut."""
    return {
        field.name: [CutValue(text, passages(text, rule)) for text in texts_of(record.field_values.get(field.name))]
        for field in fields
        if field.passages is not None and (rule := passage_rule(field.passages))
    }
