"""The verdict over two rankers in an engineer's words, and what the locked queries said of the same two before."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from pale_harbor.core.comparing import Comparison, Outcome, Tried, Verdict, tried
from pale_harbor.store.measuring.diary import DiaryEntry
from pale_harbor.work.measuring.measuring import How, Looked


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """What the locked queries said when they were opened for two rankers."""

    opened_at: datetime
    said: Tried


def subject_of(looked_at: Sequence[Looked], measure: str, how: How) -> dict[str, Any]:
    """What an opening is about, so that the same one again is known: the rankers, the measure and the rules."""
    rules = asdict(how.rules) | {"weighted": how.weighted, "part": how.part}
    return {
        "fingerprints": [one.fingerprint for one in looked_at],
        "measure": measure,
        "rules": {name: str(value) for name, value in rules.items()},
    }


def figures_kept(found: Comparison) -> dict[str, float | int]:
    """What the diary keeps of a comparison."""
    return {"first": found.first, "second": found.second, "p": found.randomisation, "queries": found.queries}


def tries_until(entries: Sequence[DiaryEntry], subject: Mapping[str, Any]) -> int:
    """How many different openings there were with this one. entries: the set's openings so far."""
    known = [one.details.get("fingerprints") for one in entries]
    # What was noted before rankers were told apart counts each time.
    unnamed = known.count(None)
    named = {tuple(one) for one in known if one is not None} | {tuple(subject["fingerprints"])}
    return unnamed + len(named)


def last_opening(entries: Sequence[DiaryEntry], subject: Mapping[str, Any]) -> Opening | None:
    """What the locked queries said last of the same rankers by the same measure. entries: oldest first."""
    for place in reversed(range(len(entries))):
        entry = entries[place]
        figures = entry.details.get("figures")
        if figures is not None and all(entry.details.get(name) == value for name, value in subject.items()):
            said = tried(
                queries=int(figures["queries"]),
                first=float(figures["first"]),
                second=float(figures["second"]),
                p_value=float(figures["p"]),
                tries=tries_until(entries[:place], subject),
            )
            return Opening(opened_at=entry.written_at, said=said)
    return None


def opened_for(entries: Sequence[DiaryEntry], subject: Mapping[str, Any], names: tuple[str, str]) -> bool:
    """Whether locked queries were opened for the same two in any way: by another measure, or before it was kept what
    they said, when rankers were known by their names alone."""
    return any(
        one.details.get("fingerprints") == subject["fingerprints"]
        or ("fingerprints" not in one.details and one.details.get("rankers") == list(names))
        for one in entries
    )


def headline(found: Verdict, names: tuple[str, str]) -> str:
    """The verdict in one sentence."""
    match found.outcome:
        case Outcome.NOTHING:
            return "No query is judged in both."
        case Outcome.LUCK:
            return "The difference is within luck."
        case Outcome.DISAGREE:
            return "The open and the locked queries contradict each other: it cannot be told."
        case word:
            return f"{names[1]} is {word} than {names[0]}, more than luck would give."


def reasons(found: Verdict, opened_at: datetime | None, locked: int, part: str, opened_otherwise: bool) -> list[str]:
    """What the verdict follows from, a sentence for each part.

    opened_at: when the locked queries were opened, None where that is now; locked: how many there are; part: which
    queries the first sentence is about; opened_otherwise: see `opened_for`.
    """
    said: list[str] = []
    if found.open is not None and found.open.queries:
        said.append(f"{_figures(found.open, part)}{_among(found.open, 'rankers were tried on them')}.")
    if found.locked is not None:
        when = "" if opened_at is None else f", opened {opened_at.date().isoformat()}"
        said.append(f"{_figures(found.locked, 'locked', when)}{_among(found.locked, 'openings there were')}.")
    elif locked and part != "judged":
        were = "was" if locked == 1 else "were"
        what = "opened for these two by another measure or other rules" if opened_otherwise else ""
        said.append(f"{_queries(locked, 'locked')} {were} {what or 'not opened for these two'}.")
    return said


def _queries(count: int, part: str) -> str:
    return f"{count} {part} {'query' if count == 1 else 'queries'}"


def _figures(one: Tried, part: str, when: str = "") -> str:
    p_value = "p < 0.001" if one.p_value < 0.001 else f"p = {one.p_value:.3f}"
    return f"{_queries(one.queries, part)}{when}: {one.first:.3f} → {one.second:.3f}, {p_value} by randomisation"


def _among(one: Tried, what: str) -> str:
    if one.tries < 2:
        return ""
    return f"; {one.tries} {what}, and luck alone shows this in one of so many in {share_text(one.by_luck)} of cases"


def share_text(share: float) -> str:
    """A share as people write it."""
    return "less than 0.1 %" if share < 0.001 else f"{100 * share:.1f} %" if share < 0.1 else f"{100 * share:.0f} %"
