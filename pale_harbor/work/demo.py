"""Loads the demo: the Saltmere Museum of the Coast, its ranker, its judged set."""

from contextlib import suppress
from pathlib import Path
from typing import Final

import orjson
import structlog

from pale_harbor.core.judging import Settling
from pale_harbor.errors import BadInput
from pale_harbor.formats.display import DisplayDocument, ShownField
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.formats.space_document import space_document
from pale_harbor.settings import ROOT
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.publications import add_publication, published_now
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.demo_wanted import COLLECTION, demo_is_wanted
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.judging.sets import change_rules
from pale_harbor.work.measuring.outside import bring_run
from pale_harbor.work.ranking.past_queries import load_past_queries
from pale_harbor.work.records.pictures import load_pictures
from pale_harbor.work.spaces import making
from pale_harbor.work.workbench import Workbench

DEMO: Final = ROOT / "demo"
JUDGED_SET: Final = "visitors"
RANKER: Final = "first"
BLENDED: Final = "blended"
OLD_SEARCH_BOX: Final = "old-search-box"
_MEANINGS: Final = (
    "It has nothing to do with what was wanted. Asked for harpoons: a tide table.",
    "It belongs to the subject, but a visitor would go on looking. Asked for harpoons: a whaling song.",
    "A visitor would be glad of it, though it is not quite the thing. Asked for harpoons: a harpooner's letter.",
    "Exactly what was wanted. Asked for harpoons: a harpoon.",
)
_CHAINS: Final = {
    "english": "nfkc > words > lower > possessive > stopwords(en) > stem(en) > accents",
    "german": "nfkc > words > lower > stopwords(de) > stem(de) > accents",
    "plain": "nfkc > words > lower > accents",
    "prefixes": "nfkc > words > lower > accents > prefixes(1, 12)",
    "seafaring": "nfkc > words > lower > synonyms(@seafaring) > stem(en)",
}
_PASSAGES: Final = {"by": "paragraphs", "size": 1, "overlap": 0, "delimiter": ""}
_DISPLAY: Final = DisplayDocument(
    title="title",
    picture="picture",
    fields=[
        ShownField(field="description", length="short"),
        *(
            ShownField(field=name)
            for name in ("kind", "place", "maker", "year", "materials", "inventory_code", "language")
        ),
    ],
)


def load_demo(workbench: Workbench) -> bool:
    """Loads what is missing of the demo; False where all of it was there.

    A collection of that name that somebody has changed is left as it is.
    """
    if not demo_is_wanted(workbench.pool):
        return False
    import_now(workbench.pool, COLLECTION, FileSource(Source(DEMO / "records.jsonl")), ImportPlan(key="id"))
    load_pictures(workbench.pool, COLLECTION, DEMO / "pictures")
    # The oral histories are long; the other descriptions are a paragraph each.
    workbench.change_field(COLLECTION, "description", "text", None, _PASSAGES)
    workbench.change_display(COLLECTION, _DISPLAY)
    load_judged_set(workbench, COLLECTION, JUDGED_SET, DEMO / "queries.jsonl", DEMO / "judgments.csv")
    change_rules(workbench, COLLECTION, JUDGED_SET, Settling.MEDIAN, 0.2, _MEANINGS)
    for file in sorted((DEMO / "word-lists").glob("*.csv")):
        put_list(workbench, COLLECTION, file.stem, file.read_text("utf-8"), None)
    for name, notation in _CHAINS.items():
        workbench.put_chain(COLLECTION, name, notation)
    past = DEMO / "past-queries.tsv"
    load_past_queries(workbench, COLLECTION, past.read_text("utf-8"), past.name)
    for file in sorted((DEMO / "spaces").glob("*.json")):
        _make_space(workbench, file)
    document = ranker_document(orjson.loads((DEMO / "ranker.json").read_bytes()))
    workbench.put_ranker(COLLECTION, RANKER, document, "The demo's first ranker: title before all else.")
    blended = ranker_document(orjson.loads((DEMO / "blended.json").read_bytes()))
    workbench.put_ranker(COLLECTION, BLENDED, blended, "The first ranker's words, blended with two spaces.")
    old = (DEMO / "old-search-box.run.txt").read_text("utf-8")
    bring_run(workbench, COLLECTION, OLD_SEARCH_BOX, JUDGED_SET, old, "old-search-box.run.txt")
    _publish(workbench)
    structlog.get_logger().info("demo loaded", collection=COLLECTION)
    return True


def _publish(workbench: Workbench) -> None:
    """Its first ranker is live, so that there is a search box to try; nobody has a key yet."""
    with workbench.pool.connection() as connection:
        own = collection_named(connection, COLLECTION)
        if not published_now(connection, own.id):
            note = "The demo's first ranker, live from the start."
            add_publication(connection, own.id, "live", ranker=RANKER, version=1, note=note)


def _make_space(workbench: Workbench, file: Path) -> None:
    """A space of the demo, which the server fills; one that is there already is left as it is."""
    with suppress(BadInput):
        making.make(workbench, COLLECTION, file.stem, space_document(orjson.loads(file.read_bytes())))
