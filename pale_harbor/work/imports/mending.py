"""Rejected rows that somebody has mended are read again, by the plan of the import that rejected them."""

import csv
import io
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from pale_harbor.errors import BadInput
from pale_harbor.formats import records
from pale_harbor.formats.records import ImportPlan, RawRow, Source, format_of, import_plan
from pale_harbor.formats.records.conversion import RecordRow, Unfit, record_of
from pale_harbor.formats.storable import unstorable
from pale_harbor.store.database import Pool
from pale_harbor.store.imports.imports import (
    Import,
    RejectedRow,
    add_rejected,
    drop_rejected,
    import_with_id,
    note_revision,
    refresh_rejected,
)
from pale_harbor.work.records.changes import Changed, keep_records


@dataclass(frozen=True, slots=True)
class Mended:
    """What became of mended rows. still_rejected: those that cannot be read yet, with the reason now."""

    changed: Changed | None
    mended: list[int]
    still_rejected: list[RejectedRow]


def mend_rows(pool: Pool, job_id: int, rows: list[tuple[int, str]]) -> Mended:
    """Reads rows (row number, text) again; good ones become records, the others stay rejected.

    Raises BadInput for files whose rows are not mended one by one.
    """
    with pool.connection() as connection:
        job = import_with_id(connection, job_id)
    plan = import_plan(job.plan)
    if _mended_by(plan) is None:
        raise BadInput("Rows of text and PDF files are mended in the files themselves; import those again.")
    good: dict[int, RecordRow] = {}
    bad: list[RejectedRow] = []
    for row_number, text in rows:
        try:
            record = record_of(_read_again(text, plan), row_number, plan)
            if any(record.key == other.key for other in good.values()):
                raise Unfit(f'the key "{record.key}" stands in another mended row.')
            good[row_number] = record
        except Unfit as unfit:
            raw = text if unstorable(text) is None else repr(text)
            bad.append(RejectedRow(row_number, row_number, str(unfit), raw))
    changed = keep_records(pool, job.collection, list(good.values()), plan) if good else None
    with pool.connection() as connection, connection.transaction():
        if changed is not None and changed.added + changed.updated > 0:
            note_revision(connection, job_id, changed.revision)
        drop_rejected(connection, job_id, list(good))
        add_rejected(connection, job_id, bad)
        refresh_rejected(connection, job_id)
    return Mended(changed, list(good), bad)


def rejected_as_file(job: Import, rows: list[RejectedRow]) -> tuple[str, str]:
    """Name and content of a file of rejected rows that can be mended in an editor and imported."""
    plan = import_plan(job.plan)
    stem = Path(str(job.source.get("name", "rows"))).name.split(".")[0]
    lines = [row.raw if row.raw.endswith("\n") else f"{row.raw}\n" for row in rows]
    match _mended_by(plan):
        case "delimited":
            return f"{stem}-rejected.csv", _header(plan) + "".join(lines)
        case "json_lines" | None:
            return f"{stem}-rejected.jsonl", "".join(lines)
        case _:
            # Called as its source is, since a kind may be told by that; with a blank line between rows.
            return f"{stem}-rejected{_ending(job)}", "\n".join(lines)


def _ending(job: Import) -> str:
    endings = [one for one in Path(str(job.source.get("name", ""))).suffixes if one not in (".gz", ".zip")]
    return endings[-1] if endings else ".txt"


def _mended_by(plan: ImportPlan) -> str | None:
    """The format by which one of the plan's rows is read alone."""
    # Rows of a database are kept as JSON.
    found = {"postgresql": "json_lines"} | {one.name: one.mended_by for one in records.FORMATS}
    return found.get(plan.format or "")


def _read_again(text: str, plan: ImportPlan) -> RawRow:
    """The one row that a text describes. Raises Unfit."""
    content = text.strip("\r\n")
    plan = plan.model_copy(update={"format": _mended_by(plan), "encoding": "utf-8"})
    if plan.format == "delimited":
        content = f"{_header(plan)}{content}\n"
    elif plan.format == "json_lines":
        content = content.replace("\n", " ").replace("\r", " ")
    with TemporaryDirectory() as folder:
        path = Path(folder) / "row"
        path.write_bytes(content.encode("utf-8", "surrogatepass"))
        source = Source(path)
        rows = list(format_of(source, plan).rows(source, plan))
    if len(rows) != 1:
        raise Unfit(f"these are {len(rows)} rows; one must stand here." if rows else "there is nothing here.")
    return rows[0]


def _header(plan: ImportPlan) -> str:
    text = io.StringIO()
    csv.writer(text, delimiter=plan.delimiter or ",", quotechar=plan.quote, lineterminator="\n").writerow(
        plan.columns or []
    )
    return text.getvalue()
