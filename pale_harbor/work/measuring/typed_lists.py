"""Judged queries typed letter by letter: the lists on the way to each, as far as a measure of typing needs them."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from pale_harbor.core.measures import Measure, MeasureRules, TypedKeys, with_ties
from pale_harbor.core.measures.judged_list import RELEVANT_FROM
from pale_harbor.core.measures.letters import as_typed
from pale_harbor.core.ranking import Ranker, in_force
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.judged import Judged
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_to_measure, depth_of
from pale_harbor.work.ranking.asking import answer, today_here
from pale_harbor.work.ranking.letter_by_letter import MOST_LETTERS
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.spaces.open_space import OpenSpace


def typed_to_measure(
    opened: OpenCollection, ranker: Ranker, judged: Judged, measures: Sequence[Measure], rules: MeasureRules
) -> Mapping[str, TypedKeys]:
    """The lists on the way to each query of a set; none where no measure looks at them.

    Raises Unavailable where a space could not be asked.
    """
    own = [one for one in measures if one.is_of_typing]
    if not own:
        return {}
    asking = replace(ranker, rules=in_force(ranker.rules, today_here()))
    depth = depth_of(own, rules)
    kept = judged.judged_set
    states = tuple(sorted(one.space.identity for one in opened.spaces().values()))
    found: dict[str, TypedKeys] = {}
    spaces: Mapping[str, OpenSpace] | None = None
    for query in judged.queries:
        name = (asking, kept.id, kept.revision, query.query_id, depth, rules.ties, states)
        known = opened.memory.typed.get((opened.state, name))
        if known is None:
            # Their vectors are fetched once, ahead, and only where something has to be typed.
            spaces = spaces or ask_spaces_ahead(opened, asking, _letters_of(judged.queries))
            known = _typed(opened, asking, query, judged.grades.get(query.query_id, {}), depth, rules, spaces)
            opened.memory.typed.put((opened.state, name), known)
        found[query.query_id] = known
    return found


def letters_to_type(query: SetQuery) -> list[str]:
    """What stands in the box after each letter of a judged query, of a long one the first letters."""
    return as_typed(query.query)[:MOST_LETTERS] if query.query.strip() else []


def _letters_of(queries: Sequence[SetQuery]) -> list[SetQuery]:
    return [replace(query, query=text) for query in queries for text in letters_to_type(query) if text.strip()]


def _typed(
    opened: OpenCollection,
    ranker: Ranker,
    query: SetQuery,
    grades: Mapping[str, int],
    depth: int,
    rules: MeasureRules,
    spaces: Mapping[str, OpenSpace] | None,
) -> TypedKeys:
    letters = letters_to_type(query)
    lists: list[tuple[str, ...]] = []
    for text in letters:
        check_wanted()
        if not text.strip():
            lists.append(())
            continue
        asked = asked_to_measure(opened, ranker, replace(query, query=text), spaces, is_typed=True)
        rows = answer(opened, asked, depth).rows
        keys = with_ties(opened.keys_of(rows), [row.score for row in rows], grades, rules.ties)
        lists.append(tuple(keys))
        # No letter more finds a relevant record sooner, or with fewer steps down.
        if keys and grades.get(keys[0], 0) >= RELEVANT_FROM:
            break
    return TypedKeys(tuple(lists), len(letters))
