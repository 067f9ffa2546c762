"""`check`: rules that a ranker has to keep, for build servers and people."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from pale_harbor.cli.measuring.comparing import side_of
from pale_harbor.cli.measuring.measure_rules import (
    Locked,
    TiesRule,
    UnjudgedRule,
    Weighted,
    WithoutRelevantRule,
    how_of,
)
from pale_harbor.cli.open_workbench import workbench
from pale_harbor.cli.options import SetOption
from pale_harbor.cli.output import AsJson, print_json, text_of, write_text
from pale_harbor.core.guard.rule import GuardRule, guard_rule, rules_in
from pale_harbor.core.measures import Ties, Unjudged, WithoutRelevant


def add_to(app: typer.Typer) -> None:
    app.command()(check)


def check(
    collection: str,
    judged_set: SetOption,
    ranker: Annotated[str, typer.Option(help="NAME, NAME:VERSION or outside/NAME.")],
    against: Annotated[
        str | None,
        typer.Option(help="What it is compared with: a version of the same ranker, NAME:VERSION or outside/NAME."),
    ] = None,
    rule: Annotated[
        list[str] | None,
        typer.Option(help='A rule, such as "ndcg@10 may not drop more than 0.01"; may be repeated.'),
    ] = None,
    rules: Annotated[str | None, typer.Option(help="A file of rules, one a line.")] = None,
    junit: Annotated[Path | None, typer.Option(help="Write the outcome as JUnit XML to this file.")] = None,
    markdown: Annotated[Path | None, typer.Option(help="Write the outcome as Markdown to this file.")] = None,
    ties: TiesRule = Ties.BY_KEY,
    unjudged: UnjudgedRule = Unjudged.OFF_TOPIC,
    without_relevant: WithoutRelevantRule = WithoutRelevant.ZERO,
    weighted: Weighted = False,
    locked: Locked = False,
    as_json: AsJson = False,
) -> None:
    """Checks rules that a ranker has to keep, such as a loss that may not be; ends with 1 where one is broken."""
    from pale_harbor.formats.guard_report import broken_lines, guard_markdown, junit_xml
    from pale_harbor.work.measuring.guarding import guarded

    wanted: list[GuardRule] = [guard_rule(one) for one in rule or []]
    if rules is not None:
        wanted += rules_in(text_of(rules))
    how = how_of(ties, unjudged, without_relevant, weighted, locked, bands=False)
    other = None if against is None else side_of(_against(ranker, against))
    with workbench() as bench:
        report = guarded(bench, collection, judged_set, side_of(ranker), other, wanted, how)
    if junit is not None:
        write_text(junit, junit_xml(report))
    if markdown is not None:
        write_text(markdown, guard_markdown(report))
    if as_json:
        print_json({"holds": report.holds, **asdict(report)})
    else:
        print(report.title)
        for one in report.rules:
            print(f"{'holds ' if one.holds else 'BROKEN'}  {one.rule}: {one.said}")
            for line in broken_lines(one):
                print(f"        {line}")
    if not report.holds:
        raise typer.Exit(1)


def _against(ranker: str, against: str) -> str:
    """A version alone is one of the same ranker."""
    return f"{ranker.partition(':')[0]}:{against}" if against.isdecimal() else against
