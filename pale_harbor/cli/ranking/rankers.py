"""`ranker`: rankers in and out as JSON documents."""

import sys
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import orjson
import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of, write_text
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

app = typer.Typer(help="Rankers: from a query to a ranked list.", no_args_is_help=True)


@app.command()
def put(
    collection: str,
    name: str,
    file: Annotated[str, typer.Argument(help="The ranker's JSON document; - for standard input.")],
    note: Annotated[str, typer.Option(help="Why this version is kept.")] = "",
    as_json: AsJson = False,
) -> None:
    """Keeps a ranker as a new version of its name."""
    from pale_harbor.formats.ranker.document import ranker_document

    try:
        data = orjson.loads(text_of(file))
    except orjson.JSONDecodeError as error:
        raise BadInput(f"{file} is not JSON: {error.msg} (line {error.lineno}, column {error.colno}).") from error
    document = ranker_document(data)
    with workbench() as bench:
        saved = bench.put_ranker(collection, name, document, note)
    if as_json:
        print_json({"name": saved.name, "version": saved.version})
    else:
        print(f"{saved.name}, version {saved.version}")


@app.command()
def get(collection: str, name: Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")]) -> None:
    """Prints a ranker's document as it was put."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.ranking.rankers import ranker_named

    choice = ranker_choice(name)
    with database() as pool, pool.connection() as connection:
        kept = collection_named(connection, collection)
        saved = ranker_named(connection, kept.id, choice.name or name, choice.version)
    sys.stdout.buffer.write(orjson.dumps(saved.document, option=orjson.OPT_INDENT_2 | orjson.OPT_APPEND_NEWLINE))


@app.command(name="list")
def list_rankers(collection: str, as_json: AsJson = False) -> None:
    """Lists every version of every ranker."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.ranking.rankers import all_rankers

    with database() as pool, pool.connection() as connection:
        kept = collection_named(connection, collection)
        saved = all_rankers(connection, kept.id)
    if as_json:
        print_json([{"name": r.name, "version": r.version, "note": r.note} for r in saved])
    else:
        print_columns([(ranker.name, ranker.version, ranker.note) for ranker in saved])


@app.command()
def near(collection: str, query: str, ranker: RankerName = None, as_json: AsJson = False) -> None:
    """Lists the terms near each word of a query, and which of them a ranker's spelling slack takes."""
    from pale_harbor.work.collections.opened import OpenCollection
    from pale_harbor.work.ranking.asked import Question
    from pale_harbor.work.ranking.near_words import WordAround, words_around

    with workbench() as bench:

        def work(opened: OpenCollection) -> list[WordAround]:
            return words_around(opened, bench.choose(opened.collection, ranker_choice(ranker)).ranker, Question(query))

        found = bench.with_collection(collection, work)
    if as_json:
        print_json([asdict(one) for one in found])
        return
    for word in found:
        print(f"{word.term} in {word.field}: {word.holding:,} records")
        rows = [
            (
                "taken" if one.worth is not None else "",
                one.around.text,
                "" if one.around.edits is None else f"{one.around.edits} edits",
                f"{one.around.similarity:.2f} similar",
                f"{one.around.holding:,} records",
            )
            for one in word.near
        ]
        print_columns(rows)


@app.command()
def diff(
    collection: str,
    before: Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")],
    after: Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")],
    as_json: AsJson = False,
) -> None:
    """Says in words what is different between two rankers."""
    from pale_harbor.formats.ranker.differences import differences
    from pale_harbor.store.collections.collections import collection_named

    with workbench() as bench:
        with bench.pool.connection() as connection:
            kept = collection_named(connection, collection)
        first, second = (bench.choose(kept, ranker_choice(name)) for name in (before, after))
    said = [one.words for one in differences(first.document, second.document, first.reads, second.reads)]
    if as_json:
        print_json({"differences": said})
    else:
        print("\n".join(said) or "Nothing.")


@app.command()
def export(
    collection: str,
    name: Annotated[str, typer.Argument(help="NAME or NAME:VERSION.")],
    out: Annotated[Path | None, typer.Option(help="The file; standard output without it.")] = None,
) -> None:
    """Writes a ranker with all that it reads (chains, word lists, expectations) as one file to keep in a repository."""
    from pale_harbor.work.ranking.ranker_files import file_of_ranker

    choice = ranker_choice(name)
    with workbench() as bench:
        text = file_of_ranker(bench, collection, choice.name or name, choice.version)
    if out is None:
        sys.stdout.buffer.write(text.encode())
    else:
        write_text(out, text)


@app.command("import")
def take_in(
    collection: str,
    file: Annotated[str, typer.Argument(help="A file that `ranker export` wrote; - for standard input.")],
    note: Annotated[str, typer.Option(help="Why this version is kept; the file's own note without it.")] = "",
    as_json: AsJson = False,
) -> None:
    """Keeps a file's chains, lists, expectations and ranker: new versions where they say something new."""
    from pale_harbor.work.ranking.ranker_files import take_in as taken_in

    text = text_of(file)
    with workbench() as bench:
        told = taken_in(bench, collection, text, "standard input" if file == "-" else file, note)
    if as_json:
        print_json(
            {
                "name": told.ranker.name,
                "version": told.ranker.version,
                "chains": told.chains,
                "lists": told.lists,
                "expectations": told.expectations,
                "missing": told.missing,
            }
        )
        return
    print(f"{told.ranker.name}, version {told.ranker.version}")
    for kind, names in (("chains", told.chains), ("word lists", told.lists)):
        if names:
            print(f"new {kind}: {', '.join(names)}")
    if told.expectations:
        print(f"new expectations: {told.expectations}")
    for one in told.missing:
        print(f"note: no judged set here has the query of an expectation, {one}")


@app.command("file-diff")
def file_diff(
    before: Annotated[str, typer.Argument(help="A file that `ranker export` wrote.")],
    after: Annotated[str, typer.Argument(help="Another one.")],
    as_json: AsJson = False,
) -> None:
    """Says what is different between two files of rankers: in words, and line by line of what they read."""
    from pale_harbor.formats.ranker_file import files_differ, ranker_file

    found = files_differ(*(ranker_file(text_of(one), one) for one in (before, after)))
    if as_json:
        print_json(asdict(found))
    else:
        print("\n".join([*found.ranker, *found.others]) or "Nothing.")
