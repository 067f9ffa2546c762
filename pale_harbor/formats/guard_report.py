"""What guard rules came to, for build servers: JUnit's XML, which most of them read, and Markdown.

The XML is that of the JUnit schema in common use: a suite, a case for each rule, a failure in it where it is broken.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final
from xml.etree import ElementTree

from pale_harbor.formats.plain_markdown import escape

SHOWN: Final = 20
# What XML 1.0 cannot hold (https://www.w3.org/TR/xml/#charsets).
_NO_XML: Final = re.compile("[^\t\n\r\u0020-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


@dataclass(frozen=True, slots=True)
class BrokenQuery:
    """A query that broke a rule, in words. values: such as 0.812 to 0.430."""

    query: str
    values: str


@dataclass(frozen=True, slots=True)
class RuleReport:
    """A rule, whether it holds, what was found, and the queries that broke it."""

    rule: str
    holds: bool
    said: str
    queries: Sequence[BrokenQuery]


@dataclass(frozen=True, slots=True)
class GuardReport:
    """What was checked: rankers by name, and every rule. against: None where nothing was compared."""

    collection: str
    judged_set: str
    ranker: str
    against: str | None
    rules: Sequence[RuleReport]

    @property
    def holds(self) -> bool:
        """Whether every rule does."""
        return all(rule.holds for rule in self.rules)

    @property
    def title(self) -> str:
        """What was checked, in a line."""
        beside = "" if self.against is None else f" against {self.against}"
        return f"{self.ranker}{beside} on {self.judged_set} of {self.collection}"


def broken_lines(rule: RuleReport) -> list[str]:
    """The queries that broke a rule, a line each; the rest is counted."""
    lines = [f"{one.query}: {one.values}" for one in rule.queries[:SHOWN]]
    more = len(rule.queries) - SHOWN
    return [*lines, f"and {more} more"] if more > 0 else lines


def junit_xml(report: GuardReport) -> str:
    """The report as JUnit XML."""
    broken = sum(not rule.holds for rule in report.rules)
    counts = {"tests": str(len(report.rules)), "failures": str(broken)}
    suites = ElementTree.Element("testsuites", counts)
    suite = ElementTree.SubElement(suites, "testsuite", {"name": _xml(report.title), **counts})
    for rule in report.rules:
        names = {"classname": _xml(f"{report.collection}.{report.judged_set}"), "name": _xml(rule.rule)}
        case = ElementTree.SubElement(suite, "testcase", names)
        if not rule.holds:
            failure = ElementTree.SubElement(case, "failure", {"message": _xml(rule.said)})
            failure.text = _xml("\n".join(broken_lines(rule)))
    return ElementTree.tostring(suites, encoding="unicode", xml_declaration=True) + "\n"


def guard_markdown(report: GuardReport) -> str:
    """The report as Markdown."""
    lines = [f"# {'Every rule holds' if report.holds else 'Rules are broken'}", "", escape(report.title), ""]
    lines += ["| rule | | found |", "|---|---|---|"]
    for rule in report.rules:
        lines.append(f"| {escape(rule.rule)} | {'holds' if rule.holds else '**broken**'} | {escape(rule.said)} |")
    for rule in report.rules:
        if not rule.holds and rule.queries:
            lines += ["", f"## {escape(rule.rule)}", "", *(f"- {escape(line)}" for line in broken_lines(rule))]
    return "\n".join(lines) + "\n"


def _xml(text: str) -> str:
    return _NO_XML.sub("\ufffd", text)
