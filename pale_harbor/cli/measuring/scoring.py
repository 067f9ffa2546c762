"""`measure`, `run` and `score`: how good a ranked list is."""

from dataclasses import asdict, replace
from pathlib import Path
from typing import Annotated, Any

import typer

from pale_harbor.cli.measuring.measure_rules import (
    Bands,
    Locked,
    TiesRule,
    UnjudgedRule,
    Weighted,
    WithoutRelevantRule,
    how_of,
)
from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_columns, print_json, print_notes
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.core.measures import (
    Measure,
    Measured,
    MeasureRules,
    Ties,
    Unjudged,
    WithoutRelevant,
    in_list_order,
    with_ties,
)
from pale_harbor.core.measures import measure as measure_named
from pale_harbor.core.measures import measure_lists as measured_of
from pale_harbor.errors import BadInput

Measures = Annotated[str, typer.Option(help="Measures, with commas between them.")]

USUAL = "ndcg@10,ap,rr,precision@10,recall@100,judged@10"


def add_to(app: typer.Typer) -> None:
    app.command()(measure)
    app.command()(missed)
    app.command()(run)
    app.command()(runs)
    app.command()(score)


def measure(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    measures: Measures = USUAL,
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    locked: Locked = False,
    bands: Bands = False,
    exactly: Annotated[bool, typer.Option("--exactly", help="Spaces asked near enough are asked exactly.")] = False,
    as_json: AsJson = False,
) -> None:
    """Measures a ranker on the open queries of a judged set, or on the locked ones."""
    from pale_harbor.work.measuring.measuring import measure_ranker

    wanted = _measures(measures)
    how = how_of(ties, unjudged, without_relevant, weighted, locked, bands)
    with workbench() as bench:
        choice = replace(ranker_choice(ranker), exactly=exactly)
        measurement = measure_ranker(bench, collection, choice, judged_set, wanted, how)
    figures = measurement.figures
    more = {
        "made_of": asdict(measurement.made_of),
        "unjudged": figures.unjudged,
        "bands": {name: asdict(one) for name, one in figures.bands.items()},
        "broken": [asdict(one) for one in figures.broken],
        "notes": measurement.notes,
    }
    _print(measurement.measured, as_json, more, figures.unjudged)
    if not as_json:
        for name, one in figures.bands.items():
            print(f"{name} could become {one.worst:.4f} to {one.best:.4f} once the unjudged are judged")
        for broken in figures.broken:
            print(f"broken: {broken.expectation.query_id}: {broken.said}; {broken.instead}")
        print_notes(measurement.notes)


def missed(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    depth: Annotated[int, typer.Option(min=1, max=1_000, help="How far down a good record may be.")] = 10,
    query: Annotated[list[str] | None, typer.Option(help="Of this query only, by its id; may be repeated.")] = None,
    as_json: AsJson = False,
) -> None:
    """Lists the judged-good records that a ranker does not find, or finds too far down, each with its reason."""
    from pale_harbor.work.measuring.missed import missed_by

    with workbench() as bench:
        found = missed_by(bench, collection, ranker_choice(ranker), judged_set, depth, query or None)
    if as_json:
        print_json(asdict(found))
        return
    for one in sorted(found.queries, key=lambda one: one.recall):
        print(f"{one.query_id}  {one.query}: {one.above} of {one.good} among the first {depth}, {one.found} at all")
        for record in one.records:
            place = "not found" if record.rank is None else f"number {record.rank}"
            print(f"    grade {record.grade}  {record.key}  {record.title[:60]}: {place}. {record.reason}")
        if one.unexplained:
            print(f"    and {one.unexplained} more")


def run(
    collection: str,
    judged_set: SetOption,
    out: Annotated[Path, typer.Option(help="The run file to write.")],
    ranker: RankerName = None,
) -> None:
    """Writes a ranker's ranked lists for a judged set as a six-column run file."""
    from pale_harbor.formats.trec import write_run
    from pale_harbor.work.measuring.measuring import ranker_run

    with workbench() as bench:
        lists, chosen = ranker_run(bench, collection, ranker_choice(ranker), judged_set)
    tag = chosen.saved.title if chosen.saved else "draft"
    pairs = ((ranked.query_id, zip(ranked.record_keys, ranked.scores, strict=True)) for ranked in lists)
    write_run(out, pairs, tag)
    print(f"{len(lists)} lists of {tag} in {out}")


def runs(
    collection: str,
    judged_set: SetOption,
    measure_again: Annotated[
        int | None, typer.Option("--measure", help="Measure the run of this number again.")
    ] = None,
    revision: Annotated[int | None, typer.Option(min=1, help="By this revision of the set, else its newest.")] = None,
    measures: Measures = USUAL,
    as_json: AsJson = False,
) -> None:
    """Lists frozen runs, the newest first, or measures one of them again."""
    from pale_harbor.store.collections.collections import collection_named
    from pale_harbor.store.judging.judged_sets import set_named
    from pale_harbor.store.measuring.runs import runs_of
    from pale_harbor.work.measuring.measuring import measure_run

    with workbench() as bench:
        if measure_again is not None:
            found, by = measure_run(bench, collection, judged_set, measure_again, _measures(measures), revision)
            _print(found.measured, as_json, {"revision": by, "unjudged": found.unjudged}, found.unjudged)
            return
        with bench.pool.connection() as connection:
            kept = set_named(connection, collection_named(connection, collection).id, judged_set)
            rows = [asdict(one) for one in runs_of(connection, kept.id)]
    if as_json:
        print_json(rows)
        return
    print_columns(
        [
            ["run", "ranker", "records revision", "queries revision", "made"],
            *(
                [
                    one["id"],
                    one["outside"] or f"{one['ranker']}:{one['version']}",
                    one["records_revision"],
                    one["queries_revision"],
                    one["created_at"].isoformat(timespec="minutes"),
                ]
                for one in rows
            ),
        ]
    )


def score(
    grades: Annotated[Path, typer.Option(help="Grades in TREC columns.")],
    run_file: Annotated[Path, typer.Option("--run", help="A run in TREC columns.")],
    measures: Measures = USUAL,
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    as_json: AsJson = False,
) -> None:
    """Measures a run file against a grades file; no database is needed."""
    from pale_harbor.formats.trec import read_grades, read_run

    wanted = _measures(measures)
    judged = read_grades(grades)
    lists = {
        query: with_ties(keys, [scores[key] for key in keys], judged.get(query, {}), ties)
        for query, scores in read_run(run_file).items()
        for keys in [in_list_order(scores)]
    }
    _print(measured_of(lists, judged, wanted, MeasureRules(ties, unjudged, without_relevant)), as_json, {})


def _measures(written: str) -> list[Measure]:
    names = [name.strip() for name in written.split(",") if name.strip()]
    if not names:
        raise BadInput(f"Name at least one measure, such as {USUAL}.")
    return [measure_named(name) for name in names]


def _print(values: Measured, as_json: bool, more: dict[str, Any], unjudged: dict[str, float] | None = None) -> None:
    if as_json:
        print_json({"measures": values.means, "per_query": values.per_query} | more)
        return
    if not values.means:
        print("No judged query to measure by.")
        return
    rows = [(name, f"{value:.4f}") for name, value in values.means.items()]
    if unjudged is not None:
        # How much nobody judged stands beside every figure.
        rows = [(*row, f"{unjudged[row[0]]:.1%} unjudged") for row in rows]
        print_columns([*rows, ("queries", len(values.per_query), "")])
    else:
        print_columns([*rows, ("queries", len(values.per_query))])
