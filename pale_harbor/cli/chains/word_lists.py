"""`words`: word lists in and out as CSV, and synonyms from thesauri."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of
from pale_harbor.core.text.word_lists import ListKind
from pale_harbor.errors import BadInput

app = typer.Typer(help="Word lists: stop words, synonyms, kept words, replacements.", no_args_is_help=True)


@app.command()
def put(
    collection: str,
    name: str,
    file: Annotated[str, typer.Argument(help="A CSV file, or a SKOS thesaurus; - for CSV from standard input.")],
    kind: Annotated[ListKind | None, typer.Option(help="Where the first line does not name the columns.")] = None,
    language: Annotated[list[str] | None, typer.Option(help="Of a thesaurus: whose labels; all without it.")] = None,
    across: Annotated[bool, typer.Option(help="Of a thesaurus: labels in different languages mean the same.")] = False,
    narrower: Annotated[bool, typer.Option(help="Of a thesaurus: words also mean what is right below.")] = False,
    as_json: AsJson = False,
) -> None:
    """Keeps a word list as a new version of its name."""
    from pale_harbor.formats.skos import FORMATS, SkosReading, synonyms_of
    from pale_harbor.work.chains.word_lists import keep_list, put_list

    with workbench() as bench:
        if Path(file).suffix.lower() in FORMATS:
            try:
                content = Path(file).read_bytes()
            except OSError as error:
                raise BadInput(f"{file} cannot be read: {error.strerror}.") from error
            reading = SkosReading(tuple(language or ()), across, narrower)
            saved = keep_list(bench, collection, name, synonyms_of(content, file, reading))
        else:
            saved = put_list(bench, collection, name, text_of(file), kind)
    if as_json:
        print_json({"name": saved.name, "version": saved.version, "kind": saved.kind, "entries": len(saved.entries)})
    else:
        print(f"@{saved.name}, version {saved.version}: {len(saved.entries):,} entries")


@app.command()
def get(collection: str, name: Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")]) -> None:
    """Prints a word list as CSV."""
    from pale_harbor.work.chains.saved_parts import name_and_version
    from pale_harbor.work.chains.word_lists import list_as_csv

    with workbench() as bench:
        found = list_as_csv(bench, collection, *name_and_version(name))
    sys.stdout.write(found.csv)


@app.command(name="list")
def list_lists(collection: str, as_json: AsJson = False) -> None:
    """Lists the word lists of a collection."""
    from pale_harbor.work.chains.word_lists import lists_in_use

    with workbench() as bench:
        uses = lists_in_use(bench, collection)
    if as_json:
        print_json(
            [{"name": use.name, "version": use.version, "kind": use.kind, "entries": use.entries} for use in uses]
        )
    else:
        print_columns([(f"@{use.name}", use.version, use.kind, use.entries) for use in uses])
