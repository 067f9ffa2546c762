"""`space`: spaces of vectors; `embedder`: a service to try them with."""

import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal

import orjson
import typer

from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.output import AsJson, print_columns, print_json, print_notes, text_of
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.store.spaces.spaces import Space
    from pale_harbor.work.workbench import Workbench

app = typer.Typer(help="Spaces: vectors of records, for meaning beside words.", no_args_is_help=True)

_SECONDS_BETWEEN_LOOKS = 0.3


def add_to(app: typer.Typer) -> None:
    app.command()(sides)
    app.command()(embedder)


@app.command()
def make(
    collection: str,
    name: str,
    document: Annotated[str, typer.Argument(help="The space as a JSON file, or - for standard input.")],
    fill: Annotated[bool, typer.Option(help="Fill it at once.")] = True,
    as_json: AsJson = False,
) -> None:
    """Makes a space, and fills it; one that asks a service is filled by `space fill`, after `space cost`."""
    from pale_harbor.formats.space_document import space_document
    from pale_harbor.work.spaces import making

    try:
        data = orjson.loads(text_of(document))
    except orjson.JSONDecodeError as error:
        raise BadInput(f"{document} is no JSON: {error}.") from error
    with workbench() as bench:
        space = making.make(bench, collection, name, space_document(data))
        # A service is asked once its cost is known, and files are brought afterwards.
        _tell(_wait_until_filled(bench, space) if fill and space.state == "waiting" else space, as_json)


@app.command(name="list")
def list_spaces(collection: str, as_json: AsJson = False) -> None:
    """Lists the spaces of a collection."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.spaces.spaces import spaces_of

    with database() as pool, pool.connection() as connection:
        found = spaces_of(connection, collection_named(connection, collection).id)
    if as_json:
        print_json([_facts(space) for space in found])
    else:
        print_columns(
            [
                (
                    one.name,
                    one.document["source"]["kind"],
                    one.model or "",
                    one.state,
                    (one.report or {}).get("vectors", 0),
                )
                for one in found
            ]
        )


@app.command()
def fill(
    collection: str,
    name: str,
    anew: Annotated[bool, typer.Option("--anew", help="Throw its vectors away first.")] = False,
    as_json: AsJson = False,
) -> None:
    """Fills a space, or goes on where a filling ended."""
    from pale_harbor.work.spaces import making

    with workbench() as bench:
        _tell(_wait_until_filled(bench, making.fill(bench, collection, name, anew=anew)), as_json)


@app.command()
def cost(collection: str, name: str, as_json: AsJson = False) -> None:
    """Counts what filling a space will ask of its service."""
    from dataclasses import asdict

    from pale_harbor.work.spaces.filling import cost_of_filling

    with workbench() as bench:
        found = cost_of_filling(bench, collection, name)
    if as_json:
        print_json(asdict(found))
        return
    print(f"{found.texts:,} texts of {found.records:,} records, {found.words:,} words, in {found.requests:,} requests")
    print(f"{found.known:,} texts have their vectors already; the model is {found.model}")
    if found.price is not None:
        print(f"That costs {found.price:,.2f} {found.currency}.")


@app.command()
def drop(collection: str, name: str, confirm: Annotated[str, typer.Option(help="The name once more.")] = "") -> None:
    """Drops a space with its vectors."""
    from pale_harbor.work.spaces import making

    if confirm != name:
        raise BadInput(f"This drops the space with all its vectors. To do so, say --confirm {name}")
    with workbench() as bench:
        making.drop(bench, collection, name)
    print(f"Dropped {name}.")


@app.command()
def bring(
    collection: str,
    name: str,
    vectors: Annotated[Path, typer.Option(help="A .npy file, one vector a row.")],
    names: Annotated[Path, typer.Option(help="What each row is of, one a line: keys of records, or queries.")],
    about: Annotated[Literal["record", "query"], typer.Option(help="What the vectors are of.")] = "record",
    as_json: AsJson = False,
) -> None:
    """Brings vectors of records or of queries to a space."""
    from pale_harbor.work.spaces import making

    with workbench() as bench:
        space, kept, wrong = making.bring(bench, collection, name, about, vectors, names)
        space = _wait_until_filled(bench, space)
    if as_json:
        print_json(_facts(space) | {"kept": kept, "wrong": wrong})
        return
    print(f"{kept:,} vectors kept")
    for line in wrong:
        print(line)


@app.command()
def nearest(
    collection: str,
    name: str,
    text: Annotated[str, typer.Argument(help="Words to be near to.")] = "",
    like: Annotated[list[str] | None, typer.Option(metavar="KEY", help="A record to be like.")] = None,
    unlike: Annotated[list[str] | None, typer.Option(metavar="KEY", help="A record to be away from.")] = None,
    top: Annotated[int, typer.Option(min=1, max=1_000)] = 10,
    as_json: AsJson = False,
) -> None:
    """The records nearest to some words, or to records."""
    from pale_harbor.work.spaces.looks import Wanted, neighbours

    wanted = Wanted(text, tuple(like or ()), tuple(unlike or ()))
    with workbench() as bench:
        found = bench.with_collection(collection, lambda opened: neighbours(opened, name, wanted, top))
    if as_json:
        print_json(
            [
                {
                    "rank": one.rank,
                    "key": one.key,
                    "similarity": one.similarity,
                    "passage": None if one.passage is None else one.passage.text,
                }
                for one in found
            ]
        )
    else:
        print_columns([(one.rank, f"{one.similarity:.3f}", one.key) for one in found])


def sides(
    collection: str,
    judged_set: Annotated[str, typer.Option("--set", help="A judged set.")],
    ranker: RankerName = None,
    measure: Annotated[str, typer.Option(help="One measure.")] = "ndcg@10",
    as_json: AsJson = False,
) -> None:
    """Measures words alone, meaning alone and the blend, by kind of query and by tag."""
    from dataclasses import asdict

    from pale_harbor.core.measures import measure as measure_named
    from pale_harbor.work.measuring import sides as sides_of

    with workbench() as bench:
        found = sides_of.sides(bench, collection, ranker_choice(ranker), judged_set, measure_named(measure))
    if as_json:
        print_json(asdict(found))
        return
    rows: list[tuple[object, ...]] = [
        ("", "queries", "words", "meaning", "blended", "unjudged", "words right", "meaning right")
    ]
    rows += [
        (
            one.name or found.measure,
            one.queries,
            f"{one.words:.3f}",
            f"{one.meaning:.3f}",
            f"{one.blended:.3f}",
            " ".join(f"{share:.0%}" for share in one.unjudged),
            one.words_better,
            one.meaning_better,
        )
        for one in [found.all, *found.kinds, *found.tags]
    ]
    print_columns(rows)
    print_notes(found.notes)


def embedder(
    port: Annotated[int, typer.Option(min=1, max=65_535)] = 7350,
    delay: Annotated[float, typer.Option(min=0, help="Seconds before each answer.")] = 0.0,
    refuse_after: Annotated[int | None, typer.Option(min=0, help="Refuse once so many texts were asked.")] = None,
    per_second: Annotated[float | None, typer.Option(min=0.01, help="At most so many requests.")] = None,
    dimensions: Annotated[int | None, typer.Option(min=1, help="Answer vectors of another dimension.")] = None,
    forget: Annotated[int | None, typer.Option(min=1, help="Answer zeros for every so many-th text.")] = None,
    model: Annotated[str | None, typer.Option(help="Say another name.")] = None,
    price: Annotated[float | None, typer.Option(min=0, help="Say a price for a thousand words, in EUR.")] = None,
) -> None:
    """Serves the packaged vectors on loopback as an embedding service, in good moods and bad ones."""
    import uvicorn

    from pale_harbor.api.spaces.embedder import Moods, make_embedder

    moods = Moods(
        delay=delay,
        refuse_after=refuse_after,
        per_second=per_second,
        dimensions=dimensions,
        forget=forget,
        model=model,
        price=price,
    )
    print(f"http://127.0.0.1:{port}", flush=True)
    uvicorn.run(make_embedder(moods), host="127.0.0.1", port=port, log_config=None, access_log=False)


def _wait_until_filled(bench: "Workbench", space: "Space") -> "Space":
    """The space once its filling ended, whoever does it."""
    from pale_harbor.store.spaces.spaces import space_with_id
    from pale_harbor.work.spaces.filling import fill_space

    while True:
        mine = fill_space(bench, space.id)
        with bench.pool.connection() as connection:
            found = space_with_id(connection, space.id)
        if found is None:
            raise BadInput(f'The space "{space.name}" was dropped meanwhile.')
        if mine or found.state not in ("waiting", "running"):
            return found
        time.sleep(_SECONDS_BETWEEN_LOOKS)


def _facts(space: "Space") -> dict[str, Any]:
    return {
        "name": space.name,
        "state": space.state,
        "model": space.model,
        "dimensions": space.dimensions,
        "problem": space.problem,
        "report": space.report,
    }


def _tell(space: "Space", as_json: bool) -> None:
    if as_json:
        print_json(_facts(space))
        return
    report = space.report or {}
    print(f"{space.name}: {space.state}, {report.get('vectors', 0):,} vectors of {report.get('records', 0):,} records")
    if space.problem:
        print(space.problem)
    for what, count in report.get("faults", {}).items():
        print(f"  {count:,} records: {what}")
