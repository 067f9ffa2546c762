"""`search`: ranked lists out."""

from dataclasses import asdict
from typing import Annotated, Any

import typer

from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json
from pale_harbor.errors import BadInput
from pale_harbor.formats.judged_files import LONGEST_QUERY
from pale_harbor.formats.storable import well_formed

RankerName = Annotated[str | None, typer.Option("--ranker", help="A kept ranker: NAME or NAME:VERSION.")]


def add_to(app: typer.Typer) -> None:
    app.command()(search)


def search(
    collection: str,
    query: str,
    ranker: RankerName = None,
    top: Annotated[int, typer.Option(min=1, max=1_000)] = 10,
    why: Annotated[bool, typer.Option("--why", help="Add the parts of each score.")] = False,
    language: Annotated[
        str | None, typer.Option(help="The query's language, for chains chosen by it; guessed without it.")
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Searches a collection."""
    from pale_harbor.work.opened import OpenCollection
    from pale_harbor.work.searching import find, why_record
    from pale_harbor.work.warm_up import compile_kernels

    if len(query) > LONGEST_QUERY:
        raise BadInput(f"A query has {LONGEST_QUERY:,} characters at most; this one has {len(query):,}.")
    compile_kernels()
    text = well_formed(query)
    with workbench() as bench:
        choice = ranker_choice(ranker)

        def work(opened: OpenCollection) -> dict[str, Any]:
            chosen = bench.choose(opened.collection, choice)
            found = find(opened, chosen.ranker, text, top, language)
            results: list[dict[str, Any]] = []
            for result in found.results:
                row: dict[str, Any] = {"rank": result.rank, "key": result.key, "score": result.score}
                if why:
                    parts = why_record(opened, chosen.ranker, text, result.key, language).readings
                    row["parts"] = [_part(asdict(part), part.unweighted, part.score) for part in parts]
                results.append(row)
            return {"matched": found.matched, "elapsed_ms": found.elapsed_ms, "results": results}

        answer = bench.with_collection(collection, work)
    if as_json:
        print_json(answer)
        return
    print(f"{answer['matched']} matched in {answer['elapsed_ms']:.1f} ms")
    print_columns([(row["rank"], f"{row['score']:.3f}", row["key"]) for row in answer["results"]])
    if why:
        for row in answer["results"]:
            print(f"\n{row['key']}  {row['score']:.6f}")
            for part in row["parts"]:
                terms = " + ".join(f"{term['term']} {term['score']:.4f}" for term in part["terms"]) or "nothing"
                print(f"  {part['score']:.6f} = {part['weight']:g} x ({terms})  {part['field']}: {part['chain']}")


def ranker_choice(written: str | None):
    """NAME, NAME:VERSION, or None for the default ranker."""
    from pale_harbor.work.workbench import RankerChoice

    if written is None:
        return RankerChoice()
    name, _, version = written.partition(":")
    if version and not (version.isdecimal() and len(version) < 10):
        raise BadInput(f'"{written}": after the colon stands a version, which is a number.')
    return RankerChoice(name, int(version) if version else None)


def _part(part: dict[str, Any], unweighted: float, score: float) -> dict[str, Any]:
    return part | {"unweighted": unweighted, "score": score}
