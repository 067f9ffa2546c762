"""Whether the demo is still to be loaded: told without all that loading needs, so that a start is quick."""

from typing import Final

from pale_harbor.store.collections.collections import START_RANKER, all_collections
from pale_harbor.store.database import Pool

COLLECTION: Final = "saltmere"
LOGBOOKS: Final = "logbooks"


def demo_is_wanted(pool: Pool) -> bool:
    """Whether anything of the demo's catalogue is missing. Once it has a ranker of its own, or somebody else's, all is
    there."""
    return _is_wanted(pool, COLLECTION)


def logbooks_are_wanted(pool: Pool) -> bool:
    """The same of its scanned pages."""
    return _is_wanted(pool, LOGBOOKS)


def _is_wanted(pool: Pool, name: str) -> bool:
    with pool.connection() as connection:
        kept = next((one for one in all_collections(connection) if one.name == name), None)
    return kept is None or kept.default_ranker in (None, START_RANKER)
