"""What a key stands for, as it was a moment ago: looked up in the database once a second, not with every request."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from hashlib import sha256
from threading import Lock
from time import monotonic
from typing import Final

from cachetools import TTLCache
from psycopg import Connection

from pale_harbor.core.fields import Filter
from pale_harbor.errors import BadInput, NotFound, NotSignedIn
from pale_harbor.formats.ranker.reading import filter_of
from pale_harbor.formats.visitor_terms import VisitorTerms, visitor_terms
from pale_harbor.store.collections.collections import CollectionField, fields_of
from pale_harbor.store.database import Pool
from pale_harbor.store.delivery.keys import DeliveryKey, key_with, note_used, origins_allowed
from pale_harbor.store.delivery.publications import Publication, PublishedAs, published_now
from pale_harbor.store.ranking.past_queries import past_query_list
from pale_harbor.store.ranking.ranker_parts import Standing, standing_and_records
from pale_harbor.work.delivery.audience import Audience, audience_of
from pale_harbor.work.people.tokens import hash_of
from pale_harbor.work.spaces.open_space import OpenSpace
from pale_harbor.work.workbench import Workbench

# So long nothing is looked up anew.
SECONDS_KNOWN: Final = 1.0
# A key that was revoked, and a version that was published, are heard of no later than this: while one request looks it
# up, the others go by what was known.
SECONDS_HEARD: Final = 2.0
_MOST_KNOWN: Final = 10_000
_MOST_COLLECTIONS: Final = 1_000
NO_KEY: Final = (
    "This needs a key for this collection, sent as `Authorization: Bearer KEY` or as `key` in the address. An owner of "
    "the collection makes one in Delivery; one that was revoked is good for nothing any more."
)


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Known:
    """A visitor's key with all that its answers depend on, beside the records. spaces: of the collection, by name.
    recipe: names all of it but which version answers and the vectors of the spaces: where it and these are the same,
    the same version makes the same lists.
    """

    key: DeliveryKey
    terms: VisitorTerms
    standing: Standing
    fields: list[CollectionField]
    audience: Audience
    published: dict[PublishedAs, Publication]
    spaces: dict[str, OpenSpace]
    recipe: str

    def states(self, spaces: Iterable[str]) -> tuple[str, ...]:
        """Names the vectors of some of the spaces as they are now. Spaces that are not there have none."""
        return tuple(self.spaces[name].space.identity for name in spaces if name in self.spaces)

    @property
    def live(self) -> Publication:
        """What is live. Raises NotFound where nothing is."""
        live = self.published.get("live")
        if live is None:
            raise NotFound(
                f'No version of a ranker is published for "{self.key.collection}" yet, so there is nothing to answer '
                "with. Publish one in Delivery."
            )
        return live


class KnownKeys:
    """Keys as they are shown. Safe to use from several threads. clock: in seconds, only forward."""

    def __init__(self, bench: Workbench, clock: Callable[[], float] = monotonic) -> None:
        self._bench = bench
        self._known: TTLCache[bytes, Known] = TTLCache(_MOST_KNOWN, SECONDS_KNOWN, clock)
        self._former: TTLCache[bytes, Known] = TTLCache(_MOST_KNOWN, SECONDS_HEARD, clock)
        # Keys that somebody looks up at present.
        self._looking: set[bytes] = set()
        self._origins: TTLCache[str, set[str]] = TTLCache(_MOST_COLLECTIONS, SECONDS_KNOWN, clock)
        self._lock = Lock()

    def of(self, token: str, collection: str) -> Known:
        """What is known of the key that is shown for a collection.

        Raises NotSignedIn where it is none, or none for that collection.
        """
        known = self.known(token, collection)
        if known is None:
            hash_ = hash_of(token)
            with self._lock:
                self._looking.add(hash_)
            try:
                known = self._looked_up(hash_)
                with self._lock:
                    self._known[hash_] = self._former[hash_] = known
            finally:
                with self._lock:
                    self._looking.discard(hash_)
        return _of_collection(known, collection)

    def known(self, token: str, collection: str) -> Known | None:
        """The same where it was looked up a moment ago, or is being looked up anew, else None. Raises NotSignedIn."""
        hash_ = hash_of(token)
        with self._lock:
            known = self._known.get(hash_)
            if known is None and hash_ in self._looking:
                known = self._former.get(hash_)
        return None if known is None else _of_collection(known, collection)

    def lets_ask(self, origin: str, collection: str) -> bool:
        """Whether some key of a collection lets pages of a site ask: all that can be told before a key is shown."""
        with self._lock:
            allowed = self._origins.get(collection)
        if allowed is None:
            with self._bench.pool.connection() as connection:
                allowed = origins_allowed(connection, collection)
            with self._lock:
                self._origins[collection] = allowed
        return origin.lower() in allowed or "*" in allowed

    def forget(self) -> None:
        """Something about keys or what is published was changed here: all is looked up anew."""
        with self._lock:
            self._known.clear()
            self._former.clear()
            self._origins.clear()

    def _looked_up(self, hash_: bytes) -> Known:
        pool: Pool = self._bench.pool
        with pool.connection() as connection:
            key = key_with(connection, hash_)
            if key is None or key.terms is None:
                raise NotSignedIn(NO_KEY)
            note_used(connection, key.id)
            return self._known_of(connection, key, visitor_terms(key.terms))

    def _known_of(self, connection: Connection[tuple[object, ...]], key: DeliveryKey, terms: VisitorTerms) -> Known:
        published = published_now(connection, key.collection_id)
        name = terms.ranker or (published["live"].ranker if "live" in published else None)
        standing, _ = standing_and_records(connection, key.collection, name, [])
        fields = fields_of(connection, key.collection_id)
        filters: list[Filter] = [filter_of(one) for one in terms.filters]
        spaces = self._bench.spaces_of(connection, key.collection_id)
        # What each is made of says whether it may be asked; its vectors matter only to versions that ask it.
        covered = sorted((name, one.covered.fields) for name, one in spaces.items())
        # Suggestions and corrections read them.
        past = past_query_list(connection, key.collection_id)
        parts = (standing.parts, past and past.state)
        depends = (standing.collection.uid, parts, key.id, terms.model_dump_json(), fields, covered)
        return Known(
            key=key,
            terms=terms,
            standing=standing,
            fields=fields,
            audience=audience_of(
                # Where words stand is told with pages, and means nothing to anybody as a value.
                [one.name for one in fields if one.role != "places"],
                terms.shown,
                terms.searched,
                filters,
            ),
            published=published,
            spaces=spaces,
            recipe=sha256(repr(depends).encode()).hexdigest()[:32],
        )


def _of_collection(known: Known, collection: str) -> Known:
    if known.key.collection != collection:
        # The same words as for no key at all: it says nothing of what there is.
        raise NotSignedIn(NO_KEY)
    return known


def check_terms(terms: VisitorTerms, fields: list[str]) -> None:
    """Raises BadInput for terms that name fields which the collection does not have."""
    named = [("shown", terms.shown or []), ("searched", terms.searched or [])]
    problems = [
        (where, f'the collection has no field "{name}". There are: {", ".join(fields)}.')
        for where, names in (*named, ("filters", [one.whole["field"] for one in terms.filters]))
        for name in names
        if name not in fields
    ]
    if problems:
        raise BadInput("These terms cannot be used.", problems)
