"""`tune`: searches for better settings of a ranker's knobs, and says what holds on queries held out."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from pale_harbor.cli.measuring.measure_rules import TiesRule, UnjudgedRule, Weighted, WithoutRelevantRule
from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_columns, print_json, text_of, write_text
from pale_harbor.cli.ranking.ranker_choice import RankerName, ranker_choice
from pale_harbor.core.measures import Ties, Unjudged, WithoutRelevant
from pale_harbor.core.tuning.searching import Way
from pale_harbor.errors import BadInput

if TYPE_CHECKING:
    from pale_harbor.formats.tuning_plan import RankerPlan, WeighedMeasure
    from pale_harbor.formats.tuning_report import TuningReport
    from pale_harbor.work.tuning.remedies import RemediesTold
    from pale_harbor.work.workbench import Workbench

# Of a group of queries so many are named.
_NAMED = 6


def add_to(app: typer.Typer) -> None:
    app.command()(tune)
    app.command()(ledger)
    app.command()(growth)
    app.command()(remedies)
    app.command()(simulate)


def tune(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    measure: Annotated[
        list[str] | None,
        typer.Option(help="What it is tuned by, ndcg@10 unless said; may be repeated, each with a weight as rr=0.5."),
    ] = None,
    knob: Annotated[
        list[str] | None,
        typer.Option(help="A knob and its values, such as readings.title.weight=0..4 or combine.how=sum,strongest."),
    ] = None,
    rail: Annotated[
        list[str] | None,
        typer.Option(help='A guard rail, such as "tag:code rr may not drop" or "index at most 2x"; may be repeated.'),
    ] = None,
    rails: Annotated[str | None, typer.Option(help="A file of guard rails, one a line.")] = None,
    way: Annotated[Way, typer.Option(help="How settings are searched.")] = Way.COORDINATE,
    folds: Annotated[int, typer.Option(min=2, max=20, help="In how many parts queries are held out.")] = 5,
    most: Annotated[int, typer.Option(min=2, max=20_000, help="Settings tried for each fold.")] = 1_000,
    seconds: Annotated[float, typer.Option(min=1, max=86_400, help="For all of it.")] = 120.0,
    seed: Annotated[int, typer.Option(min=0, max=2**31, help="Of chance: the same seed finds the same.")] = 0,
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    keep: Annotated[str | None, typer.Option(help="Keep what is offered as a ranker of this name.")] = None,
    report: Annotated[Path | None, typer.Option(help="Write the report as Markdown to this file.")] = None,
    as_json: AsJson = False,
) -> None:
    """Tunes a ranker's knobs on a judged set's open queries, in folds; without --knob the usual ones."""
    from pale_harbor.core.guard.rule import lines_of_rules
    from pale_harbor.formats.ranker.document import ranker_document
    from pale_harbor.formats.tuning_plan import plan_of, tuned_knob
    from pale_harbor.formats.tuning_report import tuning_page
    from pale_harbor.work.tuning.tuning import choice_of, tune_now

    choice = ranker_choice(ranker)
    wanted = [*(rail or []), *([] if rails is None else lines_of_rules(text_of(rails)))]
    plan = plan_of(
        ranker=choice.name,
        version=choice.version,
        measures=[_measure(one) for one in measure or ["ndcg@10"]],
        knobs=[tuned_knob(one) for one in knob] if knob else None,
        way=way,
        folds=folds,
        rails=wanted,
        most=most,
        seconds=seconds,
        seed=seed,
        ties=ties,
        unjudged=unjudged,
        without_relevant=without_relevant,
        weighted=weighted,
    )
    with workbench() as bench:
        found = tune_now(bench, collection, judged_set, plan)
        kept = None
        if keep is not None:
            document = ranker_document(found.offered.document)
            kept = bench.put_ranker(collection, keep, document, _note(found), based_on=choice_of(plan)).title
    if report is not None:
        write_text(report, tuning_page(found))
    if as_json:
        print_json(_told(found) | ({} if kept is None else {"kept": kept}))
        return
    _print(found)
    if kept is not None:
        print(f"kept as {kept}")


def _measure(text: str) -> "WeighedMeasure":
    from pydantic import ValidationError

    from pale_harbor.core.measures import measure
    from pale_harbor.formats.tuning_plan import WeighedMeasure

    name, _, weight = text.partition("=")
    own = measure(name.strip())
    try:
        return WeighedMeasure(measure=own.name, weight=float(weight) if weight else 1.0)
    except (ValueError, ValidationError) as error:
        raise BadInput(f'"{text}": after = stands how much the measure counts, a number above 0.') from error


def _note(found: "TuningReport") -> str:
    return f"Tuned from {found.ranker} on {found.judged_set}. {found.said}"


def _told(found: "TuningReport") -> dict[str, Any]:
    from pale_harbor.formats.tuning_report import REPORT

    own = found.held_out
    return REPORT.dump_python(found, mode="json") | {
        "after": found.offered.mean,
        "changes": [f"{one.what} {one.before} to {one.after}" for one in found.offered.changes],
        "held_out": None
        if own is None
        else {
            "before": own.before,
            "after": own.after,
            "interval": [own.low, own.high],
            "p_value": own.p_value,
            "queries": own.queries,
            "outcome": own.outcome,
        },
    }


def _print(found: "TuningReport") -> None:
    print(f"{found.ranker} on {found.judged_set} of {found.collection}: {found.measure}, {found.queries} queries")
    print(found.said)
    ended = f"; {found.ended}" if found.ended else ""
    print(f"{found.tried:,} settings tried in {found.seconds:.1f} s{ended}")
    print(f"on the queries that it was tuned on: {found.before:.4f} to {found.offered.mean:.4f}")
    if found.offered.changes:
        print_columns(
            [("knob", "before", "after"), *((one.what, one.before, one.after) for one in found.offered.changes)]
        )
    if found.best is not None:
        changes = "; ".join(f"{one.what} {one.before} to {one.after}" for one in found.best.changes)
        print(f"the best was {found.best.mean:.4f}: {changes}")
    for one in found.rails:
        print(f"{'kept  ' if one.holds else 'BROKEN'}  {one.text}")


def _ranker_plan(ranker: str | None, measure: str, **rules: Any) -> "RankerPlan":
    from pale_harbor.formats.tuning_plan import RankerPlan

    choice = ranker_choice(ranker)
    return RankerPlan(ranker=choice.name, version=choice.version, measure=measure, **rules)


def ledger(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    measure: Annotated[str, typer.Option(help="The measure by which parts earn.")] = "ndcg@10",
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    as_json: AsJson = False,
) -> None:
    """Tells for each part of a ranker what would be lost without it, and what it costs; what wants a decision first."""
    from pydantic import TypeAdapter

    from pale_harbor.formats.tuning_report import signed
    from pale_harbor.work.tuning.ledger import LedgerTold, ledger_now

    rules = {"ties": ties, "unjudged": unjudged, "without_relevant": without_relevant, "weighted": weighted}
    plan = _ranker_plan(ranker, measure, **rules)
    with workbench() as bench:
        told = ledger_now(bench, collection, judged_set, plan)
    if as_json:
        print_json(TypeAdapter(LedgerTold).dump_python(told, mode="json"))
        return
    print(f"{measure} {told.mean or 0:.4f}; {told.index_bytes:,} bytes of index; {told.ms:.2f} ms a query")
    rows = [
        (
            one.earning.earns.value,
            f"{one.kind} {one.name}".strip(),
            signed(one.earning.loses),
            f"{signed(one.earning.low)} to {signed(one.earning.high)}",
            f"{one.earning.saved} / {one.earning.harmed}",
            f"{one.index_bytes:,}",
            f"{one.ms * 1_000:,.0f}",
        )
        for one in told.lines
    ]
    print_columns([("", "part", "earns", "95 %", "saved / harmed", "index bytes", "µs a query"), *rows])
    if told.needed:
        print(f"cannot be left out alone: {'; '.join(told.needed)}")


def growth(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    measure: Annotated[str, typer.Option(help="The measure whose trend is told.")] = "ndcg@10",
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    as_json: AsJson = False,
) -> None:
    """Estimates what the collection would be at 10, 100 and 1,000 times its records."""
    from pydantic import TypeAdapter

    from pale_harbor.work.growing.estimating import GrowthTold, growth_now

    rules = {"ties": ties, "unjudged": unjudged, "without_relevant": without_relevant, "weighted": weighted}
    plan = _ranker_plan(ranker, measure, **rules)
    with workbench() as bench:
        told = growth_now(bench, collection, judged_set, plan)
    if as_json:
        print_json(TypeAdapter(GrowthTold).dump_python(told, mode="json"))
        return
    if told.estimate is None:
        print(told.problem or "There is no estimate.")
        return
    rows = [
        (
            f"{one.times:,}x",
            f"{one.records:,}",
            f"{one.index_bytes / 1e6:,.1f}",
            f"{one.vector_bytes / 1e6:,.1f}",
            f"{one.build_s:,.1f}",
            f"{one.times_ms.all_p50:,.2f}",
            f"{one.times_ms.all_p95:,.2f}",
            one.times_are,
            f"{one.value:.4f}",
            f"{one.low:.4f} to {one.high:.4f}",
        )
        for one in told.estimate.sizes
    ]
    heads = ("", "records", "index MB", "vectors MB", "build s", "p50 ms", "p95 ms", "times are", measure, "95 %")
    print_columns([heads, *rows])
    print(
        f"An estimate: {measure} changes by {told.estimate.by_doubling:+.4f} with each doubling; times of "
        f"{told.estimate.queries} queries on these records"
        + "".join(f" and on {times} times as many, made up of them" for times in told.estimate.made_up)
    )


def remedies(
    collection: str,
    judged_set: SetOption,
    ranker: RankerName = None,
    measure: Annotated[str, typer.Option(help="The measure by which queries come out badly.")] = "ndcg@10",
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    as_json: AsJson = False,
) -> None:
    """Groups the worst queries by what ails them, and tries for each group what might help, on all open queries."""
    from pydantic import TypeAdapter

    from pale_harbor.work.tuning.remedies import RemediesTold, remedies_now

    rules = {"ties": ties, "unjudged": unjudged, "without_relevant": without_relevant, "weighted": weighted}
    plan = _ranker_plan(ranker, measure, **rules)
    with workbench() as bench:
        told = remedies_now(bench, collection, judged_set, plan)
    if as_json:
        print_json(TypeAdapter(RemediesTold).dump_python(told, mode="json"))
        return
    _print_remedies(told)


def _print_remedies(told: "RemediesTold") -> None:
    from pale_harbor.formats.tuning_report import signed

    ailing = sum(len(group.queries) for group in told.groups)
    print(f"{told.plan.measure} {told.mean or 0:.4f}; {ailing} queries come out badly, {told.well_served} do not")
    for group in told.groups:
        of = f" by {group.part}" if group.part else ""
        print(f"\n{group.ails}{of}: {len(group.queries)} queries")
        worst = sorted(group.queries, key=lambda one: one.value)
        print(f"  {'; '.join(f'{one.query} {one.value:.3f}' for one in worst[:_NAMED])}")
        print_columns(
            [
                (
                    f"  {signed(one.gain)}",
                    f"{one.gained_here} / {one.lost_here} here",
                    f"{one.gained} / {one.lost} in all",
                    one.words,
                )
                for one in group.tried
            ]
        )
        if group.untried:
            print(f"  {group.untried} more would take an index of their own")


def simulate(
    collection: str,
    judged_set: Annotated[str, typer.Option("--set", help="The judged set that will hold the queries.")] = "simulated",
    count: Annotated[int, typer.Option(min=1, max=2_000, help="How many queries.")] = 200,
    seed: Annotated[int, typer.Option(min=0, max=2**31, help="Of chance: the same seed makes the same up.")] = 0,
    tune_start: Annotated[
        bool, typer.Option("--tune-start", help="Tune the ranker that the records came with on them; about a minute.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Makes up queries for single records from their words, as a judged set: for where nobody has judged any."""
    from dataclasses import asdict

    from pale_harbor.work.tuning.simulating import simulate_queries

    with workbench() as bench:
        made = simulate_queries(bench, collection, count, seed, judged_set)
        tuned = first_tuning(bench, collection, judged_set) if tune_start else None
    if as_json:
        print_json(asdict(made) | ({} if tuned is None else tuned))
        return
    print(f'{made.queries} queries for {made.records} records, made up: the judged set "{made.judged_set}"')
    if tuned is not None:
        print_first_tuning(tuned)


def first_tuning(bench: "Workbench", collection: str, judged_set: str) -> dict[str, Any]:
    """Tunes the ranker that records came with on made-up queries, here and now."""
    from pale_harbor.work.running.worker import do_job
    from pale_harbor.work.tuning import tuning
    from pale_harbor.work.tuning.simulating import first_plan

    number = tuning.begin(bench, collection, judged_set, first_plan(bench, collection), by_server=False)
    do_job(bench.pool, number, tuning.tunings_done(bench))
    told = tuning.told(bench, collection, number)
    return {"said": "" if told.report is None else told.report.said, "kept": told.kept}


def print_first_tuning(tuned: dict[str, Any]) -> None:
    """Says what came of it."""
    print(tuned["said"])
    print(f"kept as {tuned['kept']}" if tuned["kept"] else "nothing was kept: the gain does not hold")
