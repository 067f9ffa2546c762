"""Guard rules checked on a judged set: a ranker, alone or against another one."""

from collections.abc import Mapping, Sequence

from pale_harbor.core.guard.checking import Checked, QueryChange, check
from pale_harbor.core.guard.rule import GuardRule
from pale_harbor.core.measures import Measure
from pale_harbor.errors import BadInput
from pale_harbor.formats.guard_report import BrokenQuery, GuardReport, RuleReport
from pale_harbor.store.measuring.checks import add_check
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.expecting import broken_by_title
from pale_harbor.work.measuring.compared import RankerSide, SideLists, lists_of_side
from pale_harbor.work.measuring.judged import Judged, judged_in
from pale_harbor.work.measuring.letters import letters_by_query
from pale_harbor.work.measuring.measuring import Figures, How, Looked, means_said, note_looking, titles_of_broken
from pale_harbor.work.workbench import Workbench


def guarded(
    bench: Workbench,
    collection_name: str,
    set_name: str,
    side: RankerSide,
    against: RankerSide | None,
    rules: Sequence[GuardRule],
    how: How,
) -> GuardReport:
    """Every rule checked, in order, and kept. Runs of kept rankers that are there are used again. It is a look like any
    other.

    Raises NotFound, Unavailable, and BadInput for a rule that cannot be checked.
    """
    if not rules:
        raise BadInput("There is no rule to check. Give one with --rule, or a file of them with --rules.")

    def work(opened: OpenCollection) -> GuardReport:
        judged = judged_in(bench, opened, set_name, how.part)
        made = [lists_of_side(bench, opened, one, set_name, judged) for one in ([against] if against else []) + [side]]
        measures = list(dict.fromkeys(rule.measure for rule in rules if rule.measure is not None))
        figures = [one.figures(opened, judged, measures, how) for one in made]
        weights = judged.weights if how.weighted else None
        queries = {query.query_id: query.query for query in judged.queries}
        tags = {query.query_id: query.tags for query in judged.queries}
        with bench.pool.connection() as connection:
            looked = [Looked.of(one.name, one.chosen) for one in made]
            said = means_said([(one.name, own) for one, own in zip(made, figures, strict=True)])
            note_looking(connection, opened.collection.id, judged, how.part, looked, said)
            broken = figures[-1].broken
            named = broken_by_title(broken, titles_of_broken(connection, opened, broken))
        told: list[RuleReport] = []
        for rule in rules:
            if rule.letters is not None:
                letters = [_letters(opened, one, judged, rule) for one in made]
                own = check(rule, letters[-1], letters[0] if against else None, tags, weights)
                told.append(_report(own, queries))
            elif rule.measure is None:
                unmet = [BrokenQuery(queries[one.expectation.query_id], f"{one.said}; {one.instead}") for one in named]
                found = f"{len(unmet)} of {len(judged.expectations)} are broken" if unmet else "all of them"
                told.append(RuleReport(rule.text, not unmet, found, unmet))
            else:
                before = _values(figures[0], rule.measure) if against else None
                own = check(rule, _values(figures[-1], rule.measure), before, tags, weights)
                told.append(_report(own, queries))
        report = GuardReport(
            collection=collection_name,
            judged_set=set_name,
            ranker=made[-1].name,
            against=made[0].name if against else None,
            rules=told,
        )
        with bench.pool.connection() as connection:
            add_check(
                connection,
                opened.collection.id,
                judged.judged_set.id,
                ranker=report.ranker,
                against=report.against,
                holds=report.holds,
                rules=[{"text": one.rule, "holds": one.holds, "found": one.said} for one in told],
            )
        return report

    return bench.with_collection(collection_name, work)


def _letters(opened: OpenCollection, side: SideLists, judged: Judged, rule: GuardRule) -> dict[str, float]:
    """Letters until found by query. Raises BadInput for a side that cannot be typed to."""
    if side.chosen is None or rule.letters is None:
        raise BadInput(f'"{rule.text}" cannot be checked: {side.name} is not one of ours, so nobody can type to it.')
    return letters_by_query(opened, side.chosen.ranker, judged, rule.letters)


def _values(figures: Figures, measure: Measure) -> dict[str, float]:
    return {query: values[measure.name] for query, values in figures.measured.per_query.items()}


def _report(own: Checked, queries: Mapping[str, str]) -> RuleReport:
    broken = [BrokenQuery(queries.get(one.query_id, one.query_id), _change(one)) for one in own.queries]
    return RuleReport(own.rule.text, own.holds, own.said, broken)


def _change(one: QueryChange) -> str:
    return f"{one.after:.3f}" if one.before is None else f"{one.before:.3f} to {one.after:.3f}"
