"""`judged`: judged sets in, out and changed; expectations."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from pale_harbor.cli.judging import expecting
from pale_harbor.cli.open_workbench import database, workbench
from pale_harbor.cli.options import SetArgument
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of, write_text
from pale_harbor.core.judging import Settling
from pale_harbor.errors import BadInput

app = typer.Typer(help="Judged sets: queries and the grades that judges gave.", no_args_is_help=True)

# Of conflicts, and of what went stale.
SHOWN = 20


@app.callback()
def judged() -> None:
    """Judged sets: queries and the grades that judges gave."""


@app.command()
def load(
    collection: str,
    judged_set: SetArgument,
    queries: Annotated[Path, typer.Option(help="id<TAB>query lines, JSON Lines or CSV.")],
    grades: Annotated[
        Path | None,
        typer.Option(
            help="TREC columns, JSON Lines or CSV, with or without judges; without it what was judged of queries that "
            "stay is kept."
        ),
    ] = None,
    scale: Annotated[str | None, typer.Option(help="What the file's grades are here, such as 0=0,1=1,2=2,4=3.")] = None,
    locked_share: Annotated[
        float | None,
        typer.Option(min=0, max=0.9, help="Share of the queries that is locked away from everyday looking."),
    ] = None,
    as_json: AsJson = False,
) -> None:
    """Puts the queries and grades of files in place of a judged set's."""
    from pale_harbor.formats.judged_files import grade_scale
    from pale_harbor.work.judging.set_files import load_judged_set

    if scale and grades is None:
        raise BadInput("--scale says what the grades of a file are: it goes with --grades.")
    mapped = grade_scale(scale) if scale else None
    with workbench() as bench:
        report = load_judged_set(bench, collection, judged_set, queries, grades, mapped, locked_share)
    if as_json:
        print_json(asdict(report))
        return
    print(f"{report.queries} queries, {report.grades} grades: revision {report.revision} of {judged_set}")
    if report.unknown_records:
        shown = ", ".join(report.unknown_records[:10])
        print(f"{len(report.unknown_records)} graded records are not in the collection: {shown}")


@app.command()
def make(
    collection: str,
    judged_set: SetArgument,
    locked_share: Annotated[
        float, typer.Option(min=0, max=0.9, help="Share of new queries that is locked away.")
    ] = 0.2,
) -> None:
    """Makes an empty judged set."""
    from pale_harbor.work.judging.sets import make_judged_set

    with workbench() as bench:
        make_judged_set(bench, collection, judged_set, locked_share)
    print(f"{judged_set} is made")


@app.command()
def drop(collection: str, judged_set: SetArgument) -> None:
    """Drops a judged set with all that was judged."""
    from pale_harbor.work.judging.sets import drop_judged_set

    with workbench() as bench:
        drop_judged_set(bench, collection, judged_set)
    print(f"{judged_set} is gone")


@app.command("list")
def list_sets(collection: str, as_json: AsJson = False) -> None:
    """Lists judged sets."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.judging.judged_sets import grades_of, queries_of, sets_of

    with database() as pool, pool.connection() as connection:
        rows = [
            {
                "name": kept.name,
                "revision": kept.revision,
                "queries": len(queries),
                "locked": sum(query.locked for query in queries),
                "grades": sum(map(len, grades_of(connection, kept.id).values())),
                "settling": str(kept.settling),
            }
            for kept in sets_of(connection, collection_named(connection, collection).id)
            for queries in [queries_of(connection, kept.id)]
        ]
    if as_json:
        print_json(rows)
    else:
        print_columns(
            [
                ["set", "revision", "queries", "locked", "grades", "settled by"],
                *[list(row.values()) for row in rows],
            ]
        )


@app.command()
def export(
    collection: str,
    judged_set: SetArgument,
    queries: Annotated[Path | None, typer.Option(help="Where the queries go.")] = None,
    grades: Annotated[Path | None, typer.Option(help="Where the judgments go.")] = None,
    form: Annotated[str, typer.Option("--as", help="columns, csv or jsonl. Columns hold settled grades only.")] = "csv",
) -> None:
    """Writes a judged set's queries and judgments as files."""
    from pale_harbor.work.judging.set_files import export

    if form not in ("columns", "csv", "jsonl"):
        raise BadInput(f'"{form}" is no form of a judged set. There are: columns, csv, jsonl.')
    with workbench() as bench:
        texts = export(bench, collection, judged_set, form)
    for path, text in zip((queries, grades), texts, strict=True):
        if path is not None:
            write_text(path, text)
            print(f"{path} is written")


@app.command()
def add(
    collection: str,
    judged_set: SetArgument,
    file: Annotated[str, typer.Argument(help="A query a line, after a tab how often it was asked; - reads the input.")],
    most: Annotated[int | None, typer.Option(min=1, help="Take so many new ones, those asked most often.")] = None,
) -> None:
    """Adds the queries of a plain list, such as past queries with how often they were asked."""
    from pale_harbor.work.judging.sets import add_listed

    with workbench() as bench:
        kept, added = add_listed(bench, collection, judged_set, text_of(file), most)
    print(f"{added} queries came in: revision {kept.revision} of {judged_set}")


@app.command()
def rules(
    collection: str,
    judged_set: SetArgument,
    settling: Annotated[Settling | None, typer.Option(help="How several judges' grades become one.")] = None,
    lock: Annotated[float | None, typer.Option(min=0, max=0.9, help="Lock this share of the queries away.")] = None,
) -> None:
    """Changes how grades are settled, and which share of the queries is locked away."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.judging.judged_sets import set_named
    from pale_harbor.work.judging.sets import change_rules, lock_away

    with workbench() as bench:
        with bench.pool.connection() as connection:
            kept = set_named(connection, collection_named(connection, collection).id, judged_set)
        if settling is not None:
            kept = change_rules(bench, collection, judged_set, settling, kept.locked_share, kept.meanings)
        if lock is not None:
            kept = lock_away(bench, collection, judged_set, lock)
    locked = f"{kept.locked_share:.0%} locked away"
    print(f"{judged_set}: grades settled by {kept.settling}, {locked}, revision {kept.revision}")


@app.command()
def standing(collection: str, judged_set: SetArgument, as_json: AsJson = False) -> None:
    """Says how far judges agree, where they do not, and what went stale."""
    from pale_harbor.work.judging.standing import standing_of

    with workbench() as bench:
        found = standing_of(bench, collection, judged_set)
    if as_json:
        print_json(asdict(found))
        return
    figure = "unknown" if found.agreement is None else f"{found.agreement:.3f}"
    print(f"{found.judged} records judged, {found.shared} by several; {found.measure} {figure}")
    print_columns(
        [["judge", "judged", "passed", "shared", "higher than others by"]]
        + [
            [one.judge or "nobody named", str(one.judged), str(one.passed), str(one.shared), f"{one.drift:+.2f}"]
            for one in found.judges
        ]
    )
    conflicts = [one for one in found.conflicts if not one.settled_by_hand]
    print(f"{found.open_conflicts} conflicts are open, {found.stale_in_all} records went stale")
    rows = [
        [
            "conflict",
            one.query_id,
            one.record_key,
            ", ".join(f"{own.judge or 'nobody'} {own.grade}" for own in one.given),
        ]
        for one in conflicts[:SHOWN]
    ]
    rows += [["stale", one.query_id, one.record_key, "gone" if one.gone else "changed"] for one in found.stale[:SHOWN]]
    print_columns(rows)


@app.command()
def settle(
    collection: str,
    judged_set: SetArgument,
    query_id: str,
    record_key: str,
    grade: Annotated[int | None, typer.Option(min=0, max=3, help="Without it the set's rule decides again.")] = None,
    note: str = "",
) -> None:
    """Settles a record's grade by hand."""
    from pale_harbor.work.judging.standing import settle as settle_grade

    with workbench() as bench:
        settle_grade(bench, collection, judged_set, query_id, record_key, grade, note)
    print("settled" if grade is not None else "left to the rule")


@app.command()
def confirm(collection: str, judged_set: SetArgument, query_id: str, record_key: str) -> None:
    """Says that what was judged of a record still holds, although the record changed."""
    from pale_harbor.work.judging.standing import confirm as confirm_judgments

    with workbench() as bench:
        confirm_judgments(bench, collection, judged_set, query_id, record_key)
    print("still right")


expecting.add_to(app)
