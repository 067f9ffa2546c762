"""`collection`: collections listed, copied, renamed, dropped; what was rejected."""

from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.work.records.reading_quality import DoubtTold

app = typer.Typer(help="Collections.", no_args_is_help=True)


@app.command("list")
def list_collections(as_json: AsJson = False) -> None:
    """Lists the collections."""
    from pale_harbor.store.collections.collections import all_collections
    from pale_harbor.store.records.records import record_count

    with database() as pool, pool.connection() as connection:
        rows = [
            {"name": one.name, "records": record_count(connection, one.id), "revision": one.revision}
            for one in all_collections(connection)
        ]
    if as_json:
        print_json(rows)
    else:
        print_columns([(row["name"], f"{row['records']} records", f"revision {row['revision']}") for row in rows])


@app.command()
def copy(collection: str, name: str) -> None:
    """Makes a copy under another name: records, fields, chains, rankers, judged sets."""
    with workbench() as bench:
        bench.copy_collection(collection, name)
    print(f"{collection} was copied to {name}.")


@app.command()
def rename(collection: str, name: str) -> None:
    """Gives a collection another name."""
    with workbench() as bench:
        bench.rename_collection(collection, name)
    print(f"{collection} is now {name}.")


@app.command()
def drop(
    collection: str,
    confirm: Annotated[str | None, typer.Option(help="The collection's name again, in place of the question.")] = None,
) -> None:
    """Drops a collection with all its records, rankers and judged sets. This cannot be undone."""
    said = confirm if confirm is not None else typer.prompt(f"This cannot be undone. Type {collection} to drop it")
    if said != collection:
        raise BadInput(f'"{said}" is not "{collection}": nothing was dropped.')
    with workbench() as bench:
        bench.drop_collection(collection)
    print(f"{collection} was dropped.")


@app.command()
def reading(
    collection: str,
    by: Annotated[str | None, typer.Option(help="The field that says what thing a page is of.")] = None,
    as_json: AsJson = False,
) -> None:
    """Shows how well pages were read by machine, the worst first."""
    from pale_harbor.work.records.reading_quality import as_stage, reading_quality

    with database() as pool:
        found = reading_quality(pool, collection, by)
    if as_json:
        print_json(asdict(found))
        return
    sample = (
        f" in a sample of {found.looked_at:,} of {found.records:,} records" if found.looked_at < found.records else ""
    )
    unfit = f"; of {found.unfit:,} pages the places are of another text, or not here" if found.unfit else ""
    print(f"{found.pages:,} pages{sample}: {found.doubtful:,} of {found.words:,} words are doubtful{unfit}.")
    print_columns(
        [
            ("page", "doubtful", "words", "sure", "such as"),
            *(
                (one.key, one.doubtful, one.words, _share(one.confidence), one.remark or _such_as(one.doubts))
                for one in found.worst[:20]
            ),
        ]
    )
    if found.confusions:
        print_columns(
            [
                ("read", "for", "words", "such as"),
                *(
                    (one.read, one.meant, one.words, " ".join(f"{read}/{meant}" for read, meant in one.examples))
                    for one in found.confusions
                ),
            ]
        )
        print(f"As a stage: {as_stage(found.confusions)}")
    if found.things:
        print_columns(
            [
                ("thing", "pages", "doubtful", "words", "sure"),
                *((one.thing, one.pages, one.doubtful, one.words, _share(one.confidence)) for one in found.things[:20]),
            ]
        )


def _share(sure: float | None) -> str:
    return "" if sure is None else f"{sure:.0%}"


def _such_as(doubts: "list[DoubtTold]") -> str:
    return " ".join(one.word for one in doubts[:6])


@app.command()
def pictures(
    collection: str, folder: Annotated[Path, typer.Argument(help="SVG, PNG, JPEG, WebP or GIF files.")]
) -> None:
    """Loads a folder of small pictures; records name them by their files' names."""
    from pale_harbor.work.records.pictures import load_pictures

    with workbench() as bench:
        count = load_pictures(bench.pool, collection, folder)
    print(f"{count} pictures loaded.")


@app.command()
def imports(collection: str, as_json: AsJson = False) -> None:
    """Lists a collection's imports, the latest first."""
    from pale_harbor.work.imports.told import imports_told

    with workbench() as bench:
        _refuse_unknown(bench.pool, collection)
        found = imports_told(bench, collection)
    if as_json:
        print_json([asdict(one) for one in found])
        return
    for one in found:
        report = one.report or {}
        came_to = ", ".join(f"{count:,} {name}" for name, count in report.items() if count and name != "read")
        state = "undone" if one.undone else one.state
        print(f"{one.id}  {one.created_at:%Y-%m-%d %H:%M}  {one.name}  {state}  {came_to or one.problem or ''}")


@app.command("undo-import")
def undo_import(
    collection: str,
    number: Annotated[int | None, typer.Argument(help="As `imports` lists it; the latest if left out.")] = None,
    as_json: AsJson = False,
) -> None:
    """Makes the records that an import touched what they were before, but for those that others touched since."""
    from pale_harbor.work.imports.told import imports_told
    from pale_harbor.work.imports.undoing import undo_import

    with workbench() as bench:
        _refuse_unknown(bench.pool, collection)
        found = [one for one in imports_told(bench, collection) if number in (None, one.id)]
        if number is None:
            found = [one for one in found if one.undoable]
        if not found:
            raise BadInput(
                f'"{collection}" has no import {number}.' if number else f'"{collection}" has no import to undo.'
            )
        undone = undo_import(bench.pool, found[0].id)
    if as_json:
        print_json(asdict(undone))
        return
    print(f"{found[0].name} is undone: {undone.restored:,} restored, {undone.removed:,} removed.")
    if undone.kept:
        were, stay = ("was", "stays as it is") if undone.kept == 1 else ("were", "stay as they are")
        print(f"{undone.kept:,} {were} changed or deleted since, and {stay}.")


@app.command()
def rejected(collection: str, as_json: AsJson = False) -> None:
    """Lists the rows that imports could not read and that were not mended since."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.imports.imports import all_rejected, imports_of

    with database() as pool, pool.connection() as connection:
        collection_named(connection, collection)
        rows = [
            {"import": job.id, "source": job.source.get("name"), "line": row.line, "reason": row.reason, "raw": row.raw}
            for job in imports_of(connection, collection)
            if job.rows_rejected
            for row in all_rejected(connection, job.id)
        ]
    if as_json:
        print_json(rows)
        return
    for row in rows:
        print(f"{row['source']}, line {row['line']}: {row['reason']}\n  {str(row['raw'])[:200].rstrip()}")


def _refuse_unknown(pool: Any, collection: str) -> None:
    from pale_harbor.store.collections.collections import collection_named

    with pool.connection() as connection:
        collection_named(connection, collection)
