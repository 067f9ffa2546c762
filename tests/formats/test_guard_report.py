"""What guard rules came to, as build servers and people read it."""

from xml.etree import ElementTree

from pale_harbor.formats.guard_report import (
    SHOWN,
    BrokenQuery,
    GuardReport,
    RuleReport,
    broken_lines,
    guard_markdown,
    junit_xml,
)

QUERIES = [BrokenQuery('fog & <bell> "\x07"', "0.812 to 0.430")]
REPORT = GuardReport(
    collection="saltmere",
    judged_set="visitors",
    ranker="first:2",
    against="first:1",
    rules=[RuleReport("rr > 0.5", True, "0.6000", []), RuleReport("rr may not drop", False, "0.7 to 0.6", QUERIES)],
)


def test_junit_has_a_case_for_each_rule_and_a_failure_in_a_broken_one():
    suites = ElementTree.fromstring(junit_xml(REPORT))
    (suite,) = suites
    assert (suites.get("tests"), suites.get("failures")) == ("2", "1")
    assert (suite.get("name"), suite.get("tests"), suite.get("failures")) == (
        "first:2 against first:1 on visitors of saltmere",
        "2",
        "1",
    )
    assert [case.get("name") for case in suite] == ["rr > 0.5", "rr may not drop"]
    assert suite[0].find("failure") is None
    failure = suite[1].find("failure")
    assert failure is not None
    assert failure.get("message") == "0.7 to 0.6"
    # What XML cannot hold is told by its sign.
    assert failure.text == 'fog & <bell> "\ufffd": 0.812 to 0.430'


def test_markdown_names_broken_rules_and_their_queries_and_takes_no_markup_from_them():
    text = guard_markdown(REPORT)
    assert text.startswith("# Rules are broken\n")
    assert "| rr may not drop | **broken** |" in text
    assert "- fog \\& \\<bell\\>" in text
    held = GuardReport("saltmere", "visitors", "first:2", None, REPORT.rules[:1])
    assert guard_markdown(held).startswith("# Every rule holds\n\nfirst:2 on visitors of saltmere\n")


def test_many_broken_queries_are_counted():
    many = [BrokenQuery(f"q{i}", "0") for i in range(SHOWN + 1)]
    assert broken_lines(RuleReport("rr > 0", False, "", many))[-1] == "and 1 more"
    assert len(broken_lines(RuleReport("rr > 0", False, "", many[:SHOWN]))) == SHOWN
