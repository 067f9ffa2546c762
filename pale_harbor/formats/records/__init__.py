"""Records from files. To add a format: one file here, one line in the table below."""

from typing import Final

from pale_harbor.errors import BadInput
from pale_harbor.formats.records.delimited import Delimited
from pale_harbor.formats.records.json_array import JsonArray
from pale_harbor.formats.records.json_lines import JsonLines
from pale_harbor.formats.records.opening import Source
from pale_harbor.formats.records.parquet import Parquet
from pale_harbor.formats.records.plan import FieldPlan, ImportPlan, import_plan
from pale_harbor.formats.records.rows import LONGEST_ROW, RawRow, RecordFormat
from pale_harbor.formats.records.scanned_pages import ScannedPages
from pale_harbor.formats.records.text_files import TextFiles

# Asked in this order; the last one takes any text.
FORMATS: Final[tuple[RecordFormat, ...]] = (
    Parquet(),
    ScannedPages(),
    TextFiles(),
    JsonLines(),
    JsonArray(),
    Delimited(),
)

__all__ = [
    "FORMATS",
    "LONGEST_ROW",
    "FieldPlan",
    "ImportPlan",
    "RawRow",
    "RecordFormat",
    "Source",
    "format_of",
    "import_plan",
]


def format_of(source: Source, plan: ImportPlan) -> RecordFormat:
    """The format that a plan names, or that a source's content tells. Raises BadInput."""
    names = [one.name for one in FORMATS]
    if plan.format is not None:
        if plan.format not in names:
            raise BadInput(f'There is no format "{plan.format}". Known: {", ".join(names)}.')
        return FORMATS[names.index(plan.format)]
    head = source.head()
    for one in FORMATS:
        if one.recognises(source, head):
            return one
    titles = "; ".join(one.title for one in FORMATS)
    raise BadInput(f"{source.name} is of no kind that can be read. These are: {titles}; each may be gzipped.")
