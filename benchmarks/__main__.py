"""`./paleharbor bench`: prints the figures as a table, and writes them as JSON where asked."""

from pathlib import Path
from typing import Annotated, Any

import orjson
import typer

from benchmarks.figures import Figures, looking_figures, query_figures, text_figures
from benchmarks.in_company import company_figures
from benchmarks.in_two import two_process_figures
from benchmarks.judged_edits import judged_edit_figures
from benchmarks.measuring import measuring_figures
from benchmarks.near_enough import near_enough_figures
from benchmarks.ranking import ranking_figures, slack_figures
from benchmarks.suggesting import completion_figures, correction_figures
from benchmarks.turning import turning_figures
from benchmarks.typing import typing_figures
from benchmarks.vectors import vector_figures
from pale_harbor import __version__
from pale_harbor.settings import ROOT


def main(
    json_file: Annotated[Path | None, typer.Option("--json", help="Write the figures as JSON to this file.")] = None,
    records: Annotated[str, typer.Option(help="Sizes of the synthetic collections.")] = "100000,1000000",
    ranked: Annotated[str, typer.Option(help="Sizes for the ways to ask.")] = "10000,100000,1000000",
    corrected: Annotated[str, typer.Option(help="How many words corrections choose from.")] = "10000,100000,500000",
    vectors: Annotated[str, typer.Option(help="How many vectors are compared.")] = "100000,1000000",
    in_step: Annotated[bool, typer.Option("--in-step", help="Measure how a live database is followed too.")] = False,
    page: Annotated[bool, typer.Option("--page", help="Measure the running page in Chromium too.")] = False,
    collection: Annotated[str, typer.Option(help="Whose list is measured on the page.")] = "saltmere",
    judged_set: Annotated[str, typer.Option("--set", help="The judged set of the edits.")] = "visitors",
    rankers: Annotated[str, typer.Option(help="The rankers that are edited.")] = "first,start,blended",
    query: Annotated[str, typer.Option(help="The query that is measured on the page.")] = "lighthouse keepers",
    field: Annotated[
        str, typer.Option(help="The field that is read while twenty people search; else the first text.")
    ] = "",
) -> None:
    """Measures reading, building and searching, each beside something known."""
    figures: dict[str, Any] = {"program": __version__, "text": text_figures(ROOT / "demo/records.jsonl")}
    _print("Reading text", figures["text"])
    figures["looking"] = looking_figures(ROOT / "demo/records.jsonl")
    _print("After an edit of a chain: a trace of 2,000 characters, the figures of 300 records", figures["looking"])
    figures["queries"] = []
    for size in (int(part) for part in records.split(",")):
        figures["queries"].append(query_figures(size))
        _print(f"Three words, top 10, {size:,} records", figures["queries"][-1:])
    figures["in_two"] = two_process_figures(100_000)
    _print(
        "By one process and by two: an index until it is written, consequences until they are told", figures["in_two"]
    )
    figures["slack"] = slack_figures()
    _print("Spelling candidates, misspelt words", [figures["slack"]])
    figures["ranking"] = []
    for size in (int(part) for part in ranked.split(",")):
        figures["ranking"].append(ranking_figures(size))
        _print(f"Three words, two readings, {size:,} records", figures["ranking"][-1:])
    figures["typing"] = []
    for size in (int(part) for part in ranked.split(",")):
        figures["typing"].append(typing_figures(size))
        _print(f"At every letter of the last of three words, {size:,} records", figures["typing"][-1:])
    figures["completions"] = []
    for size in (int(part) for part in ranked.split(",")):
        figures["completions"].append(completion_figures(size))
        _print(f"At every letter, {size:,} suggestions", figures["completions"][-1:])
    figures["corrections"] = []
    for size in (int(part) for part in corrected.split(",")):
        figures["corrections"].append(correction_figures(size))
        _print(f"What two words with a slip may have meant, {size:,} words", figures["corrections"][-1:])
    figures |= _vectors([int(part) for part in vectors.split(",")])
    figures["measuring"] = measuring_figures()
    _print("Measuring 200 lists of 1,000 records", [figures["measuring"]])
    figures["turning"] = [turning_figures(candidates) for candidates in (100, 1_000, 10_000)]
    _print("Re-scored rankings a second, 124 queries, four readings", figures["turning"])
    if in_step:
        figures |= _in_step()
    if page:
        from benchmarks.page import chains_page_figures, door_figures, opening_figures, page_figures

        figures["door"] = door_figures(collection, query)
        _print(f"A search over HTTP, {collection}", [figures["door"]])
        figures["company"] = company_figures(collection, judged_set, field)
        _print(f"Searches over HTTP, each asked as soon as the last is answered, {collection}", figures["company"])
        figures["judged_edits"] = [
            judged_edit_figures(collection, judged_set, ranker, query) for ranker in rankers.split(",")
        ]
        _print(f"From an edit to every judged query measured again, {collection}", figures["judged_edits"])
        figures["opening"] = opening_figures(collection)
        _print(f"From an address to a place that is ready, {collection}", figures["opening"])
        figures["page"] = page_figures(collection, query)
        _print(f"From a turn of a weight to a repainted list, {collection}", [figures["page"]])
        figures["chains_page"] = chains_page_figures()
        _print("From a letter typed in a chain to its trace of 2,000 characters", [figures["chains_page"]])
    if json_file is not None:
        json_file.write_bytes(orjson.dumps(figures, option=orjson.OPT_INDENT_2))


def _vectors(sizes: list[int]) -> dict[str, Any]:
    exact: list[Figures] = []
    near: list[Figures] = []
    for size in sizes:
        exact.append(vector_figures(size))
        _print(f"The nearest of {size:,} vectors, top 100", exact[-1:])
        near += (found := near_enough_figures(size))
        _print(f"The ten nearest of {size:,} vectors, near enough and exactly", found)
    return {"vectors": exact, "near_enough": near}


def _in_step() -> dict[str, Any]:
    from benchmarks.growing import growth_figures
    from benchmarks.in_step import latency_figures, load_figures

    grown = growth_figures()
    _print("Ten times the records: estimated, and as it is", grown)
    figures = {"in_step": latency_figures()}
    _print("Found by a search after it was written in a live database", figures["in_step"])
    figures["followed"] = load_figures()
    _print("What following costs a database, by pgbench's default script", figures["followed"])
    return figures | {"growth": grown}


def _print(title: str, rows: list[Figures]) -> None:
    print(f"\n{title}")
    for row in rows:
        for name, value in row.items():
            print(f"  {name.replace('_', ' '):<34} {value:>14,}" if not isinstance(value, str) else f"  {value}")


if __name__ == "__main__":
    # Its help is plain, like that of every other command.
    app = typer.Typer(add_completion=False, rich_markup_mode=None)
    app.command()(main)
    app()
