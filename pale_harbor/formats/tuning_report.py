"""What a tuning came to: for the page, as JSON, and as Markdown."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from pale_harbor.core.comparing.verdict import Outcome
from pale_harbor.formats.plain_markdown import escape


@dataclass(frozen=True, slots=True)
class ChangeReport:
    """A knob that is turned, in words."""

    what: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class SettingReport:
    """A setting. document: of the ranker with it; mean: on the queries that it was tuned on."""

    document: dict[str, Any]
    changes: list[ChangeReport]
    mean: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldOutReport:
    """What the procedure came to on queries that it had not seen. low, high: of the difference, 95 %.

    tries: tunings on these queries, this one among them; by_luck: how likely luck alone shows such a p-value in one of
    so many. detectable: the smallest difference that so many queries would show four times in five, None for fewer than
    two.
    """

    queries: int
    before: float
    after: float
    low: float
    high: float
    p_value: float
    tries: int
    by_luck: float
    outcome: Outcome
    gained: int
    lost: int
    detectable: float | None

    @property
    def difference(self) -> float:
        """Above 0 for a gain."""
        return self.after - self.before


@dataclass(frozen=True, slots=True)
class FoldReport:
    """What was found without some queries, and what it came to on these."""

    queries: int
    before: float
    after: float
    changes: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class KnobReport:
    """A knob around the setting that is offered, everything else as that has it.

    means: at each value, None where it was not tried or a rail would break; standing, chosen: numbers of values; loses:
    what is lost where it alone is turned back, None where that was not tried; as_good: numbers of values that are as
    good within luck.
    """

    name: str
    path: list[str | int]
    values: list[Any]
    ordered: bool
    means: list[float | None]
    standing: int
    chosen: int
    loses: float | None
    as_good: list[int]


@dataclass(frozen=True, slots=True)
class SurfaceReport:
    """The two knobs that matter most, turned together. rows, columns: numbers of knobs; means: rows first."""

    rows: int
    columns: int
    row_values: list[Any]
    column_values: list[Any]
    means: list[list[float | None]]


@dataclass(frozen=True, slots=True)
class RailReport:
    """A guard rail, and whether the offered setting keeps it."""

    text: str
    holds: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TuningReport:
    """offered: the simplest setting that is as good within luck; best: the best one where that is another.

    ended: why it ended early, "" where it did not.
    """

    collection: str
    judged_set: str
    ranker: str
    measure: str
    queries: int
    before: float
    offered: SettingReport
    best: SettingReport | None
    held_out: HeldOutReport | None
    folds: list[FoldReport]
    knobs: list[KnobReport]
    surface: SurfaceReport | None
    rails: list[RailReport]
    tried: int
    seconds: float
    ended: str
    said: str


REPORT: TypeAdapter[TuningReport] = TypeAdapter(TuningReport)


def verdict_said(
    measure: str, changes: Sequence[object], held_out: HeldOutReport | None, *, keeps_rails: bool = True
) -> str:
    """What is to be thought of a finding, in a sentence or two. keeps_rails: whether any setting does."""
    if not keeps_rails:
        return "No setting that was tried keeps every guard rail, nor does the ranker as it stands: nothing is offered."
    if not changes:
        return "Leave it as it is: nothing that was tried is better by more than luck would give."
    if held_out is None:
        return "It was ended before it was tried on queries held out: how much of the gain holds is not known."
    found = (
        f"on {held_out.queries} queries held out {measure} goes from {held_out.before:.3f} to {held_out.after:.3f} "
        f"({signed(held_out.difference)}, 95 % from {signed(held_out.low)} to {signed(held_out.high)})"
    )
    match held_out.outcome:
        case Outcome.BETTER:
            return f"The gain holds: {found}."
        case Outcome.WORSE:
            return f"It would do harm: {found}."
        case _:
            chance = f"{100 * held_out.by_luck:.0f} %"
            among = "" if held_out.tries == 1 else f" for one of {held_out.tries} tunings"
            least = (
                ""
                if held_out.detectable is None
                else f" So many queries would show a gain of {held_out.detectable:.3f} or more."
            )
            return (
                f"The gain does not show: {found}, as luck alone would give in {chance} of all cases{among}.{least} "
                "Leave it as it is, or judge more queries."
            )


def outcome_said(report: TuningReport) -> str:
    """What a report comes to, in a line."""
    if not report.offered.changes:
        return "left as it is"
    own = report.held_out
    if own is None:
        return f"{report.before:.3f} to {report.offered.mean:.3f}, not held out"
    return f"held out {own.before:.3f} to {own.after:.3f}, {own.outcome.value}"


def signed(value: float) -> str:
    """A difference with its sign, as the page shows it.

    >>> signed(0.0312), signed(-0.5), signed(0.0)
    ('+0.031', '−0.500', '0.000')
    """
    shown = f"{abs(value):.3f}"
    return shown if float(shown) == 0 else f"{'+' if value > 0 else '−'}{shown}"


def tuning_page(report: TuningReport) -> str:
    """The whole as Markdown."""
    lines = [
        f"# {escape(report.ranker)} tuned on {escape(report.judged_set)} of {escape(report.collection)}",
        "",
        report.said,
        "",
        f"{report.measure} over {report.queries} queries; {report.tried:,} settings tried in {report.seconds:.0f} s."
        + (f" It ended early: {report.ended}." if report.ended else ""),
        "",
    ]
    settings = [("Offered: the simplest that is as good within luck", report.offered)]
    if report.best is not None:
        settings.append(("The best on these queries", report.best))
    for title, one in settings:
        lines += [f"## {title}", "", f"{report.before:.3f} → {one.mean:.3f}", ""]
        if one.changes:
            lines += ["| knob | before | after |", "|---|---|---|"]
            lines += [f"| {escape(c.what)} | {escape(c.before)} | {escape(c.after)} |" for c in one.changes] + [""]
        else:
            lines += ["Nothing is turned.", ""]
    lines += ["## Held out", "", "| fold | queries | before | after | found without it |", "|---|---|---|---|---|"]
    lines += [
        f"| {i} | {f.queries} | {f.before:.3f} | {f.after:.3f} | {escape('; '.join(f.changes) or 'nothing turned')} |"
        for i, f in enumerate(report.folds, start=1)
    ]
    lines += [
        "",
        "## Knobs",
        "",
        "| knob | offered | turned back alone it loses | as good within luck |",
        "|---|---|---|---|",
    ]
    lines += [_knob_line(one) for one in report.knobs]
    if report.rails:
        lines += ["", "## Guard rails", ""]
        lines += [f"- {escape(one.text)}: {'kept' if one.holds else 'broken'}" for one in report.rails]
    return "\n".join([*lines, ""])


def _knob_line(knob: KnobReport) -> str:
    loses = "unchanged" if knob.standing == knob.chosen else "–" if knob.loses is None else f"{knob.loses:.3f}"
    values = [_cell(knob.values[i]) for i in knob.as_good]
    good = (f"{values[0]} to {values[-1]}" if knob.ordered and len(values) > 1 else ", ".join(values)) or "–"
    return f"| {escape(knob.name)} | {_cell(knob.values[knob.chosen])} | {loses} | {good} |"


def _cell(value: Any) -> str:
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return f"{value:g}" if is_number else escape(str(value))
