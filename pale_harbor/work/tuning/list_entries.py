"""Each entry of a synonym list that a ranker reads, with the ranker as it would be without it."""

from collections.abc import Iterator
from copy import deepcopy
from typing import Final

from pale_harbor.core.text import Chain
from pale_harbor.core.text.notation import ListName, StageCall, format_notation
from pale_harbor.core.text.stages.synonyms import SynonymStage
from pale_harbor.core.text.word_lists import SynonymRule, Synonyms
from pale_harbor.errors import NotFound
from pale_harbor.formats.ranker.differences import reading_names
from pale_harbor.formats.word_lists import csv_of
from pale_harbor.store.chains.word_lists import list_named
from pale_harbor.work.chains.saved_parts import name_and_version
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.offered_synonyms import reads_list
from pale_harbor.work.tuning.ranker_parts import ListVersion, RankerPart
from pale_harbor.work.workbench import ChosenRanker, Workbench

# Of each list so many entries have a line, the first ones.
MOST_ENTRIES: Final = 60


def entries_of(bench: Workbench, opened: OpenCollection, chosen: ChosenRanker) -> Iterator[RankerPart]:
    """The entries of the lists that readings with a weight read, in their order.

    Of a list with one entry that is none: the stage that reads it has a line of its own.
    """
    whole = chosen.document.whole
    names = reading_names(whole["readings"])
    for number, reading in enumerate(chosen.ranker.readings):
        if not whole["readings"][number]["weight"]:
            continue
        for key, chain in (("chain", reading.chain), ("query_chain", reading.query_chain)):
            if whole["readings"][number][key] is None or not isinstance(chain, Chain):
                continue
            for at, (call, bound) in enumerate(zip(chain.calls, chain.stages, strict=True)):
                named = _list_of(call)
                if named is None or not isinstance(bound.stage, SynonymStage) or len(bound.stage.synonyms.rules) < 2:
                    continue
                rules = bound.stage.synonyms.rules
                version = _next_version(bench, opened, named)
                for left_out, rule in enumerate(rules[:MOST_ENTRIES]):
                    rest = Synonyms((*rules[:left_out], *rules[left_out + 1 :]))
                    calls = (*chain.calls[:at], reads_list(call, f"{named}:{version}"), *chain.calls[at + 1 :])
                    document = deepcopy(whole)
                    document["readings"][number][key] = format_notation(calls)
                    yield RankerPart(
                        "synonym",
                        f"{_said(rule)}, {names[number]}",
                        document,
                        {f"{named}:{version}": rest},
                        ListVersion(named, version, csv_of(rest)),
                    )


def _list_of(call: StageCall) -> str | None:
    named = next((one.value for one in call.arguments if isinstance(one.value, ListName)), None)
    return None if named is None else name_and_version(named.name)[0]


def _next_version(bench: Workbench, opened: OpenCollection, name: str) -> int:
    with bench.pool.connection() as connection:
        try:
            return list_named(connection, opened.collection.id, name, None).version + 1
        except NotFound:
            return 1


def _said(rule: SynonymRule) -> str:
    sign = "=" if rule.both_ways else ">"
    return f"{', '.join(rule.words)} {sign} {', '.join(rule.means)}"
