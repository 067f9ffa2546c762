"""Records found by what they are called: the beginning of a key, or words of a title, the last one begun.

Keys are looked up in their sorted order and titles in an index, so that nothing grows with the collection while
somebody types; the first to ask after a title waits for its index.
"""

import re
from dataclasses import dataclass
from itertools import islice
from typing import Final

from pale_harbor.core.ranking import Need, Ranker, Reading
from pale_harbor.core.text import chain_of
from pale_harbor.store.collections.collections import fields_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.titles import titles_of
from pale_harbor.work.workbench import Workbench, display_of

_CHAIN: Final = "nfkc > words > lower > accents"
# Words of a title that are looked for; nobody types more to find a record.
_MOST_WORDS: Final = 8


@dataclass(frozen=True, slots=True)
class CalledRecord:
    """A record by what it is called; the key where it has no title."""

    key: str
    title: str


def records_called(bench: Workbench, collection_name: str, words: str, most: int) -> list[CalledRecord]:
    """Records whose key begins so, the one whose key it is first, then those with these words in their title."""
    wanted = words.replace("\x00", "").strip()
    if not wanted:
        return []

    def work(opened: OpenCollection) -> list[CalledRecord]:
        keys = [*_keys_beginning(opened, wanted, most), *_by_title(opened, wanted, most)]
        keys = list(dict.fromkeys(keys))[:most]
        with opened.pool.connection() as connection:
            titles = titles_of(connection, opened.collection, keys)
        return [CalledRecord(key, titles.get(key, key)) for key in keys]

    return bench.with_collection(collection_name, work)


def _keys_beginning(opened: OpenCollection, wanted: str, most: int) -> list[str]:
    """As they are written, in small letters or in capitals; those of a slab in their order, and all in order."""
    keys: set[str] = set()
    for form in {wanted, wanted.lower(), wanted.upper()}:
        for live in opened.slabs:
            numbers = live.slab.keys.numbers_beginning(form)
            keys.update(live.slab.keys.term(one) for one in islice((n for n in numbers if live.lives(n)), most))
    return sorted(keys, key=lambda key: (key.lower() != wanted.lower(), key))[:most]


def _by_title(opened: OpenCollection, wanted: str, most: int) -> list[str]:
    with opened.pool.connection() as connection:
        title = display_of(opened.collection, fields_of(connection, opened.collection.id)).title
    # Without the signs of the query language: nobody who looks for a record means them.
    said = re.findall(r"\w+", wanted.lower())[:_MOST_WORDS]
    if title is None or not said:
        return []
    chain = chain_of(_CHAIN)
    all_of_them = Need(((1, None),))
    ranker = Ranker(readings=(Reading(field=title, chain=chain, query_chain=chain),), need=all_of_them)
    begun = " ".join([*said[:-1], f"{said[-1]}*"])
    return [result.key for result in find(opened, ranker, Question(begun), most).results]
