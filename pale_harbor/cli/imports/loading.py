"""`load` and `export`: records in and out."""

import sys
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from time import monotonic
from typing import TYPE_CHECKING, Annotated, Any

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_json
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.formats.records import ImportPlan
    from pale_harbor.store.imports.imports import Import
    from pale_harbor.store.imports.incoming import Outlook
    from pale_harbor.work.imports.sources import RowSource
    from pale_harbor.work.workbench import Workbench

_KINDS = ("text", "exact", "number", "date", "flag")
_EXPORTS = {".jsonl": "jsonl", ".csv": "csv", ".parquet": "parquet"}


def add_to(app: typer.Typer) -> None:
    app.command()(load)
    app.command()(export)


def load(
    source: Annotated[
        str,
        typer.Argument(
            help="A file or folder, a connection string (postgresql://…), or a repository's address (https://…)."
        ),
    ],
    collection: Annotated[str, typer.Option(help="The collection; made where there is none.")],
    key: Annotated[
        str | None,
        typer.Option(help="The field that names a record; guessed where it is left out, '' for the number of the row."),
    ] = None,
    replace: Annotated[bool, typer.Option("--replace", help="Delete records that the source does not name.")] = False,
    fill_in: Annotated[
        bool, typer.Option("--fill-in", help="Change only the fields that a row fills; its record keeps the others.")
    ] = False,
    deletes: Annotated[
        int | None,
        typer.Option(help="How many records may go where more than a tenth would; else it is asked."),
    ] = None,
    kind: Annotated[
        list[str] | None, typer.Option("--type", help="FIELD=KIND: text, exact, number, date, flag.")
    ] = None,
    split: Annotated[list[str] | None, typer.Option(help="FIELD=TEXT between several values in one cell.")] = None,
    delimiter: Annotated[str | None, typer.Option(help="Of delimited text; told from the content.")] = None,
    encoding: Annotated[str | None, typer.Option(help="Of delimited text; told from the content.")] = None,
    file_format: Annotated[str | None, typer.Option("--format", help="Told from the content.")] = None,
    query: Annotated[str | None, typer.Option(help="For a connection string: the SELECT that gives the rows.")] = None,
    changed_at: Annotated[
        str | None, typer.Option(help="The query's column that tells when a row changed: reads what is new.")
    ] = None,
    metadata: Annotated[
        str | None, typer.Option(help="For a repository: the form of its records; oai_dc where it is left out.")
    ] = None,
    of_set: Annotated[str | None, typer.Option("--set", help="For a repository: which of its sets.")] = None,
    anew: Annotated[
        bool, typer.Option("--anew", help="Of a repository read everything, and not only what changed since last time.")
    ] = False,
    tune_start: Annotated[
        bool,
        typer.Option(
            "--tune-start",
            help="Make up queries from the records, and tune the ranker that they come with on them; about a minute.",
        ),
    ] = False,
    preview: Annotated[
        bool, typer.Option("--preview", help="Show the first rows as they would be read; store nothing.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Loads records into a collection: CSV, JSON, Parquet, text, PDF, scanned pages, gzipped or zipped, a database's
    rows, or the records of a repository (OAI-PMH)."""
    from pale_harbor.formats.records import ImportPlan
    from pale_harbor.work.imports.importing import import_now, weigh_import

    with workbench() as bench:
        if source.startswith(("http://", "https://")):
            from pale_harbor.work.imports.harvesting import repository_source

            # What is not read would be deleted.
            whole = anew or replace
            chosen: RowSource = repository_source(bench.pool, collection, source, metadata, of_set, anew=whole)
        else:
            chosen = _source(bench.pool, source, collection, query, changed_at)
        plan = ImportPlan(
            format=file_format,
            encoding=encoding,
            delimiter="\t" if delimiter in ("\\t", "tab") else delimiter,
            key=key or None,
            replace=replace,
            fill_in=fill_in,
        )
        plan = _with_types(chosen, plan, kind or [], split or [])
        if key == "":
            plan = _numbered(chosen, plan)
        if preview:
            _print_preview(chosen, plan, weigh_import(bench.pool, collection, chosen, plan), as_json)
            return
        progress = None if as_json else _Progress()
        deciding = _Deciding(collection, deletes, as_json)
        report = import_now(bench.pool, collection, chosen, plan, progress, deciding)
        tuned = _tuned_start(bench, collection) if tune_start else None
    if as_json:
        rejects = [asdict(reject) for reject in report.rejects]
        more = {} if tuned is None else {"tuned": tuned}
        print_json(asdict(report) | {"rejects": rejects, "emptied": deciding.emptied} | more)
        return
    deleted = f"{report.deleted} deleted, " if replace or report.deleted else ""
    print(
        f"{report.read} read: {report.added} added, {report.updated} updated, "
        f"{report.unchanged} unchanged, {deleted}{report.rejected} rejected."
    )
    for reject in report.rejects[:20]:
        print(f"  line {reject.line}: {reject.reason}")
    if report.rejected > 20:
        print(f"  … and {report.rejected - 20} more. All: ./paleharbor collection rejected {collection}")
    if tuned is not None:
        from pale_harbor.cli.tuning.tuning import print_first_tuning

        print_first_tuning(tuned)


def _tuned_start(bench: "Workbench", collection: str) -> dict[str, Any]:
    from pale_harbor.cli.tuning.tuning import first_tuning
    from pale_harbor.work.tuning.simulating import simulate_queries

    return first_tuning(bench, collection, simulate_queries(bench, collection).judged_set)


def export(
    collection: str,
    file: Annotated[Path, typer.Argument(help="Ends with .jsonl, .csv or .parquet, which tells the format.")],
) -> None:
    """Writes a collection's records as JSON Lines, CSV or Parquet; loading the file gives the same records."""
    from pale_harbor.work.records.exporting import export_to

    file_format: Any = _EXPORTS.get(file.suffix.lower())
    if file_format is None:
        raise BadInput(f'"{file.name}" does not tell a format: it must end with {", ".join(_EXPORTS)}.')
    with workbench() as bench:
        size = export_to(bench.pool, collection, file_format, file)
    print(f"{file}: {size:,} bytes.")


def _source(pool: Any, source: str, collection: str, query: str | None, changed_at: str | None) -> "RowSource":
    from pale_harbor.formats.records import Source
    from pale_harbor.work.imports.sources import FileSource, database_source

    if source.startswith(("postgresql://", "postgres://")):
        if query is None:
            raise BadInput("A database needs --query 'SELECT …'.")
        return database_source(pool, collection, source, query, changed_at)
    path = Path(source)
    if not path.exists():
        raise BadInput(f"{source} cannot be read: there is no such file or folder.")
    return FileSource(Source(path))


def _numbered(source: "RowSource", plan: "ImportPlan") -> "ImportPlan":
    """The plan whose rows are named by their numbers."""
    from pale_harbor.work.imports.sources import guessed_from_all

    if plan.fields is None:
        plan = guessed_from_all(source, source.complete_plan(plan))
    fields = [field.model_copy(update={"role": None}) if field.role == "key" else field for field in plan.fields or []]
    return plan.model_copy(update={"key": None, "fields": fields})


def _with_types(source: "RowSource", plan: "ImportPlan", kinds: list[str], splits: list[str]) -> "ImportPlan":
    """The plan with types that were given; the other fields' are guessed from all rows."""
    from pale_harbor.work.imports.sources import guessed_from_all

    if not kinds and not splits:
        return plan
    plan = guessed_from_all(source, source.complete_plan(plan))
    fields = {field.name: field for field in plan.fields or []}
    for option, written in [("--type", text) for text in kinds] + [("--split", text) for text in splits]:
        name, equals, value = written.partition("=")
        if not equals or name not in fields:
            raise BadInput(f'{option} "{written}": before = stands a field. There are: {", ".join(fields)}.')
        if option == "--split":
            fields[name] = fields[name].model_copy(update={"split": value, "several": True})
        elif value in _KINDS:
            fields[name] = fields[name].model_copy(update={"kind": value, "split": None})
        else:
            raise BadInput(f'--type "{written}": a kind is one of {", ".join(_KINDS)}.')
    return plan.model_copy(update={"fields": list(fields.values())})


def _print_preview(source: "RowSource", plan: "ImportPlan", outlook: "Outlook | None", as_json: bool) -> None:
    from pale_harbor.work.imports.sources import preview

    seen = preview(source, plan)
    if as_json:
        rows = [asdict(row) for row in seen.rows]
        print_json({"plan": seen.plan.model_dump(), "rows": rows, "outlook": outlook and asdict(outlook)})
        return
    print(f"{seen.plan.format}; the key is {seen.plan.key or 'the number of the row'}")
    for field in seen.plan.fields or []:
        several = f", several values{f' parted by {field.split!r}' if field.split else ''}" if field.several else ""
        print(f"  {field.name}: {field.kind}{several}{f' ({field.role})' if field.role else ''}")
    for row in seen.rows[:5]:
        print(f"line {row.line}: {row.reason or row.values}")
    if outlook is not None:
        print(_outlook_text(outlook))


def _outlook_text(outlook: "Outlook") -> str:
    """What an import would do, in one line."""
    counts = [
        f"{count:,} {name}"
        for name, count in (
            ("new", outlook.added),
            ("changed", outlook.updated),
            ("unchanged", outlook.unchanged),
            ("deleted", outlook.deleted),
        )
        if count
    ]
    emptied = ", ".join(f"{name} {count:,}" for name, count in outlook.emptied.items())
    lost = f"; emptied: {emptied}" if emptied else ""
    records = f"{outlook.records:,} record{'s' * (outlook.records != 1)}"
    return f"To {records}: {', '.join(counts) or 'nothing'}{lost}."


class _Deciding:
    """Says what an import would do, and has it done, but asks once, by number, where more than a tenth goes."""

    def __init__(self, collection: str, deletes: int | None, as_json: bool) -> None:
        self.collection, self.deletes, self.as_json = collection, deletes, as_json
        self.emptied: dict[str, int] = {}

    def __call__(self, outlook: "Outlook") -> bool:
        self.emptied = outlook.emptied
        if not self.as_json:
            print(_outlook_text(outlook), flush=True)
        if not outlook.deletes_many or outlook.deleted <= (self.deletes or 0):
            return True
        if self.deletes is not None or self.as_json or not sys.stdin.isatty():
            raise BadInput(
                f"This would delete {outlook.deleted:,} of {outlook.records:,} records of {self.collection}; "
                f"nothing was done. Give --deletes {outlook.deleted} to have it so."
            )
        said = typer.prompt(f"{outlook.deleted:,} of {outlook.records:,} records go. Type {outlook.deleted} to go on")
        return str(said).strip() == str(outlook.deleted)


class _Progress:
    """A line on a terminal's standard error that says how far an import is."""

    def __init__(self) -> None:
        self.began = monotonic()
        self.first_bytes: int | None = None

    def __call__(self, job: "Import") -> None:
        if not sys.stderr.isatty():
            return
        if self.first_bytes is None:
            self.first_bytes = job.bytes_read
        elapsed = max(monotonic() - self.began, 1e-3)
        rate = job.rows_read / elapsed
        left = ""
        done = job.bytes_read - self.first_bytes
        if job.bytes_in_all and done > 0:
            seconds = (job.bytes_in_all - job.bytes_read) / (done / elapsed)
            left = f", about {seconds:.0f} s left"
        with suppress(OSError):
            end = "\n" if job.phase == "storing" else ""
            print(
                f"\r\033[K{job.phase}: {job.rows_read:,} rows, {rate:,.0f} a second{left}",
                end=end,
                file=sys.stderr,
                flush=True,
            )
