"""Loads the demo's scanned pages: log books and letters of the Saltmere museum, as a machine read them."""

from typing import Final

import orjson
import structlog

from pale_harbor.formats.display import DisplayDocument, ShownField
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.records import ImportPlan, Source
from pale_harbor.settings import ROOT
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.publications import add_publication, published_now
from pale_harbor.work.demo_wanted import LOGBOOKS, logbooks_are_wanted
from pale_harbor.work.imports.importing import import_now
from pale_harbor.work.imports.sources import FileSource
from pale_harbor.work.judging.set_files import load_judged_set
from pale_harbor.work.workbench import Workbench

FOLDER: Final = ROOT / "demo" / "logbooks"
JUDGED_SET: Final = "pages"
PLAIN: Final = "plain"
FORGIVING: Final = "forgiving"
_DISPLAY: Final = DisplayDocument(
    title="title",
    picture="picture",
    fields=[
        ShownField(field="text", length="short"),
        *(ShownField(field=name) for name in ("kind", "maker", "year", "place")),
    ],
)


def load_logbooks(workbench: Workbench) -> bool:
    """Loads what is missing of them; False where all of it was there, or somebody has made something else of it."""
    if not logbooks_are_wanted(workbench.pool):
        return False
    import_now(workbench.pool, LOGBOOKS, FileSource(Source(FOLDER / "pages")), ImportPlan(key="file"))
    workbench.change_display(LOGBOOKS, _DISPLAY)
    load_judged_set(workbench, LOGBOOKS, JUDGED_SET, FOLDER / "queries.jsonl", FOLDER / "grades.txt")
    for name, file, note in (
        (FORGIVING, "ranker.json", "What the machine takes for what made one, and spelling slack."),
        (PLAIN, "plain.json", "The same without both: words as they were read."),
    ):
        workbench.put_ranker(LOGBOOKS, name, ranker_document(orjson.loads((FOLDER / file).read_bytes())), note)
    with workbench.pool.connection() as connection:
        own = collection_named(connection, LOGBOOKS)
        if not published_now(connection, own.id):
            note = "Live from the start, so that there is a search box to try."
            add_publication(connection, own.id, "live", ranker=FORGIVING, version=1, note=note)
    structlog.get_logger().info("demo loaded", collection=LOGBOOKS)
    return True
