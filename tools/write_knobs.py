"""Writes what follows from the declared knobs of a ranker: the page's table, and the tables of docs.

PYTHONPATH=. python tools/write_knobs.py
"""

import json
import re
from pathlib import Path

from pale_harbor.formats.ranker.tables import PARTS, UNIONS, markdown_of, page_knobs

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "frontend/src/api/knobs.gen.ts"
DOCS = [ROOT / "docs" / name for name in ("ranking.md", "typing.md", "vectors.md")]


def page_text() -> str:
    """The page's table of knobs as it is committed."""
    table = json.dumps(page_knobs(), indent=2, ensure_ascii=False)
    return (
        f"// Written by tools/write_knobs.py: what each knob of a ranker is.\nexport const KNOBS = {table} as const\n"
    )


def docs_text(text: str) -> str:
    """The page of docs with its tables as they should be."""
    tables = {part.__name__: part for part in PARTS} | {union.name: union for union in UNIONS}
    return re.sub(
        r"<!-- knobs of (\w+) -->\n.*?<!-- end -->",
        lambda found: f"<!-- knobs of {found[1]} -->\n{markdown_of(tables[found[1]])}\n<!-- end -->",
        text,
        flags=re.DOTALL,
    )


if __name__ == "__main__":
    PAGE.write_text(page_text(), "utf-8")
    for page in DOCS:
        page.write_text(docs_text(page.read_text("utf-8")), "utf-8")
