"""The owner's page as Markdown: one sheet in plain words for whoever answers for the search box."""

from dataclasses import dataclass

from pale_harbor.formats.plain_markdown import escape


@dataclass(frozen=True, slots=True)
class OwnerQuery:
    """A query with its points before and after, as they are shown."""

    query: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnerExample:
    """A query and the titles that came first, before and after."""

    query: str
    need: str
    before: list[str]
    after: list[str]
    gained: bool


@dataclass(frozen=True, slots=True)
class OwnerDecision:
    """What was decided, and why. day: as people write it."""

    day: str
    title: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnerFacts:
    """What the page says. verdict: in a word or two; sentences: by how much, how sure, what was looked at.

    more_worse: what is said of those that got worse and are not listed, empty where none is; made_of, changed: for
    whoever works on it, in an engineer's words.
    """

    title: str
    verdict: str
    sentences: list[str]
    got_worse: list[OwnerQuery]
    more_worse: str
    worse_kinds: list[str]
    broken: list[str]
    examples: list[OwnerExample]
    decisions: list[OwnerDecision]
    made_of: list[str]
    changed: list[str]


def owner_page(facts: OwnerFacts) -> str:
    """The page. What comes from data is escaped (CommonMark), so that it cannot become markup."""
    lines = [f"# {escape(facts.title)}", "", f"**{escape(facts.verdict)}**", ""]
    lines += [line for sentence in facts.sentences for line in (escape(sentence), "")]
    lines += ["## What got worse", ""]
    lines += [f"- {escape(one.query)}: {one.before} to {one.after} points" for one in facts.got_worse]
    if facts.more_worse:
        lines.append(f"- {facts.more_worse}")
    elif not facts.got_worse:
        lines.append("No search.")
    lines += [f"- Searches of the kind {escape(kind)}" for kind in facts.worse_kinds]
    lines.append("")
    if facts.broken:
        lines += ["## Expectations that are broken", "", *(f"- {escape(one)}" for one in facts.broken), ""]
    if facts.examples:
        lines += ["## Examples", ""]
        for example in facts.examples:
            lines += [f"### {escape(example.query)} ({'better' if example.gained else 'worse'})", ""]
            if example.need:
                lines += [f"Wanted: {escape(example.need)}", ""]
            lines += ["| before | after |", "| --- | --- |"]
            for i in range(max(len(example.before), len(example.after))):
                cells = [own[i] if i < len(own) else "" for own in (example.before, example.after)]
                lines.append("| " + " | ".join(escape(cell) for cell in cells) + " |")
            lines.append("")
    lines += ["## What was decided, and why", ""]
    for one in facts.decisions:
        lines += [f"- {escape(one.day)}: {escape(one.title)} {escape(one.why)}".rstrip()]
    if not facts.decisions:
        lines.append("Nothing yet.")
    lines += ["", "## For whoever works on it", "", *(f"- {escape(one)}" for one in facts.made_of)]
    lines += [f"- {escape(one)}" for one in facts.changed]
    return "\n".join(lines) + "\n"
