"""Score sheets of a judged set: a turn of a knob gives the figures of a search, to the last digit, and asks nothing."""

import dataclasses
import json
import re
from collections.abc import Generator
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_harbor.core.fields import day_of
from pale_harbor.core.measures import MeasureRules, Ties, Unjudged, WithoutRelevant, measure
from pale_harbor.core.ranking import Ranker, preparing
from pale_harbor.core.sheets.weighing import sheet_name
from pale_harbor.errors import BadInput, Unavailable
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import RankerDocument, ranker_document
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.store.judging.expectations import KeptExpectation
from pale_harbor.store.judging.judged_sets import set_named
from pale_harbor.store.measuring.diary import looks_at
from pale_harbor.work.chains.word_lists import put_list
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.measuring import set_sheet, turning
from pale_harbor.work.measuring.judged import Judged, Part, judged_in
from pale_harbor.work.measuring.lists import RUN_DEPTH, asked_lists
from pale_harbor.work.measuring.measuring import How, figures_of, figures_seen, measure_ranker
from pale_harbor.work.measuring.set_sheet import depth_of, seen_lists
from pale_harbor.work.measuring.turning import Turn, Turns, turns_on_set, with_value
from pale_harbor.work.records.changes import remove_records
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.spaces import COLLECTION
from tests.work.test_blended_search import BY_KEY, in_slabs, never

QUERIES = [
    *("lantern", "ship in fog", "bell boat rope", "light", "rope -bell", '"of the harbor" fog', "title:lamp letter"),
    *(
        "lamp OR anchor",
        "asked:2..4 bell",
        "lan* fog",
        "lanten",
        "clothes of a seaman",
        "zzz",
        "-bell",
        "bell",
        "beside the harbor",
    ),
]
FILTER = {"field": "kind", "one_of": ["letter", "chart"]}
SET = "\n".join(
    json.dumps({"query_id": f"q{i:02}", "query": query, "filters": [] if i % 5 else [FILTER]})
    for i, query in enumerate(QUERIES)
)
GRADES = "".join(
    f"q{i:02} 0 {key} {(i + place) % 4}\n"
    for i in range(len(QUERIES))
    for place, key in enumerate(BY_KEY)
    if (i * 7 + place) % 3
)
MEASURES = [measure(name) for name in ("ndcg@10", "ap", "rr", "recall@5", "judged@10", "err@3", "rbp")]
RULES = [
    {"when": {"query": "bell"}, "do": {"weigh": "title", "by": 3}},
    {"when": {"query": "lantern"}, "do": {"lift": ["r03", "r40"], "by": 4}},
    {"when": {"query": "light"}, "do": {"hide": ["r01", "r05"]}},
    {"when": {"query": "ship in fog"}, "do": {"pin": ["r30"]}},
]


@pytest.fixture(scope="module", params=[1, 3], ids=["one slab", "three slabs"])
def coast(
    cluster: Cluster, tmp_path_factory: pytest.TempPathFactory, request: pytest.FixtureRequest
) -> Generator[Workbench]:
    """Records in one slab or in three, some of them gone, two spaces, and a judged set."""
    name = f"sheets_{request.param}"
    make_database(cluster, name)
    with pytest.MonkeyPatch.context() as patch, open_pool(cluster.address(name)) as pool:
        patch.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", 0)
        patch.setattr("pale_harbor.work.workbench.wants_joining", never)
        bench = in_slabs(
            Workbench(pool, tmp_path_factory.mktemp("indexes")), tmp_path_factory.mktemp("files"), request.param
        )
        remove_records(bench.pool, COLLECTION, ["r07", "r20"])
        put_list(bench, COLLECTION, "same", 'words,means,way\nship,boat,both\nlight,"lamp, lantern",both\n', None)
        put_judged_set(
            bench,
            COLLECTION,
            "board",
            queries_in(SET, "the queries"),
            judgments_in(GRADES, "the grades"),
            locked_share=0,
        )
        yield bench


numbers = st.integers(1, 40).map(lambda n: n / 8)


@st.composite
def turned(draw: st.DrawFn, spaces: bool) -> dict[str, Any]:
    """A ranker of the same two readings, with numbers of its own."""
    how = draw(st.sampled_from(["sum", "strongest", "pooled"]))
    combine = {"how": how} | ({"share": draw(numbers) / 5} if how == "strongest" else {})
    combine |= {"k1": draw(st.sampled_from([0, 0.7, 2.5]))} if how == "pooled" else {}
    weights = [draw(st.one_of(numbers, st.just(0))), draw(numbers)]
    reading = {
        "chain": "words > lower > stopwords(en)",
        "query_chain": "words > lower > stopwords(en) > synonyms(@same)",
        "nearness": {"weight": draw(numbers)},
        "synonyms": draw(st.sampled_from([1, 0.3])),
    }
    document: dict[str, Any] = {
        "readings": [
            {
                "field": "title",
                "chain": draw(st.sampled_from(["words > lower", "words > lower > limit(3)"])),
                "weight": weights[0],
                "k1": draw(st.sampled_from([1.2, 0.3])),
            },
            {"field": "text", **reading, "weight": weights[1], "b": draw(st.sampled_from([0.75, 0]))},
        ],
        "combine": combine,
        "need": draw(st.sampled_from(["any", "all", {"1": "all", "3": "60%"}])),
        "spelling": {
            "when": draw(st.sampled_from(["always", "missing", "rare"])),
            "worth": draw(st.sampled_from([0.5, 0.25])),
        },
        "rules": RULES,
        "equals_by": draw(st.sampled_from([[], ["-asked"]])),
    }
    if draw(st.booleans()):
        document["signals"] = [
            {"field": "asked", "shape": "saturation", "scale": 2, "weight": draw(numbers), "how": "multiply"},
            {"field": "asked", "shape": "value", "weight": draw(st.one_of(numbers, st.just(0)))},
        ]
    if spaces:
        document["spaces"] = [
            {"space": "meaning", "weight": draw(numbers), "fetch": 9},
            {"space": "titles", "weight": draw(numbers), "at_least": 0.2},
        ]
        formulas = FORMULAS if "signals" in document else FORMULAS[:-1]
        document["blend"] = draw(blends(formulas))
        document["kinds"] = [{"name": "long", "when": {"at_least_words": 3}, "blend": draw(blends(formulas))}]
    if draw(st.booleans()):
        document["typing"] = {
            "when": draw(st.sampled_from(["missing", "always"])),
            "worth": draw(st.sampled_from([0.25, 1])),
            "slack": draw(st.sampled_from([0, 1])),
        }
    if draw(st.booleans()):
        document["one_per"] = "kind"
    if draw(st.booleans()):
        document["second_stage"] = {
            "space": "meaning",
            "first": draw(st.sampled_from([1, 4, 200])),
            "weight": draw(st.sampled_from([0, 0.4, 1])),
        }
    return document


def blends(formulas: list[str]) -> st.SearchStrategy[dict[str, Any]]:
    ranks = st.fixed_dictionaries({"how": st.just("reciprocal_rank"), "k": st.sampled_from([0, 7, 60])})
    scores = st.fixed_dictionaries(
        {"how": st.just("weighted_sum"), "normalise": st.sampled_from(["min_max", "z_score", "rank", "none"])}
    )
    others = st.fixed_dictionaries({"how": st.sampled_from(["fill_up", "reorder"]), "depth": st.sampled_from([1, 5])})
    by_formula = st.fixed_dictionaries({"how": st.just("formula"), "formula": st.sampled_from(formulas)})
    common = st.fixed_dictionaries({"meaning": st.sampled_from([0, 0.3, 0.5, 1]), "fetch": st.sampled_from([3, 1_000])})
    return st.tuples(st.one_of(ranks, scores, others, by_formula), common).map(lambda both: both[0] | both[1])


# Together they name everything that a formula can ask for.
FORMULAS = [
    "words + 5 * space.meaning",
    "1 / (2 + rank.words) + 2 / (3 + rank.meaning)",
    "max(reading.title, 0.5 * reading.text) + nearness / (1 + abs(space.titles)) + rank.titles / 99",
    "0",
    "above(words, 1) + ln(1 + signal.asked)",
]


rules = st.builds(
    MeasureRules, st.sampled_from(list(Ties)), st.sampled_from(list(Unjudged)), st.sampled_from(list(WithoutRelevant))
)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.booleans().flatmap(lambda spaces: st.lists(turned(spaces), min_size=1, max_size=4)), rules)
def test_what_sheets_give_is_what_searching_gives_to_the_last_digit(
    coast: Workbench, documents: list[dict[str, Any]], by: MeasureRules
):
    how = How(by, bands=True)

    def work(opened: OpenCollection, judged: Judged) -> None:
        rankers = [ranker(coast, opened, one) for one in documents]
        seen = seen_lists(opened, rankers, wanting_lists(judged), MEASURES, by)
        for own, given_by_sheets in zip(rankers, seen, strict=True):
            lists = asked_lists(opened, own, judged.queries)
            assert {query: one.ranked for query, one in given_by_sheets.items()} == lists
            assert figures_seen(given_by_sheets, judged, MEASURES, how) == figures_of(lists, judged, MEASURES, how)
            assert {query: list(one.notes) for query, one in given_by_sheets.items()} == {
                query: one.notes for query, one in lists.items()
            }

    measured_on(coast, work)


@pytest.mark.parametrize("combine", [{"how": "sum"}, {"how": "strongest", "share": 0.3}, {"how": "pooled", "k1": 0.7}])
@pytest.mark.parametrize("formula", range(5))
def test_formulas_are_told_the_same_by_sheets_and_by_searching(coast: Workbench, combine: dict[str, Any], formula: int):
    document = {
        "readings": [
            {"field": "title", "chain": "words > lower", "weight": 2.5, "b": 0.3},
            {"field": "text", "chain": "words > lower", "weight": 0.7, "nearness": {"weight": 0.8}},
        ],
        "combine": combine,
        "need": {"1": "all", "3": 2},
        "spelling": {"when": "always", "worth": 0.25},
        "signals": [{"field": "asked", "shape": "saturation", "scale": 2, "weight": 0.4, "how": "multiply"}],
        "spaces": [{"space": "meaning", "fetch": 9}, {"space": "titles", "fetch": 5}],
        "blend": {"how": "formula", "formula": FORMULAS[formula], "fetch": 12},
    }

    def work(opened: OpenCollection, judged: Judged) -> None:
        own = ranker(coast, opened, document)
        seen = seen_lists(opened, [own], wanting_lists(judged), MEASURES, How().rules)[0]
        assert {query: one.ranked for query, one in seen.items()} == asked_lists(opened, own, judged.queries)

    measured_on(coast, work)


def wanting_lists(judged: Judged) -> Judged:
    """The same set with an expectation for every query, so that whole lists are told."""
    expected = [
        KeptExpectation(id=number, query_id=query.query_id, kind="nothing", record_key=None, number=None, note="")
        for number, query in enumerate(judged.queries)
    ]
    return dataclasses.replace(judged, expectations=expected)


def test_a_turn_of_a_number_asks_no_posting_and_no_space(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    plain = {"readings": [{"field": "title", "chain": "words > lower"}, {"field": "text", "chain": "words > lower"}]}
    spaces = {"spaces": [{"space": "meaning"}], "blend": {"how": "weighted_sum", "meaning": 0.4}}

    def work(opened: OpenCollection, judged: Judged) -> None:
        unpinned = plain | spaces
        seen_lists(opened, [ranker(coast, opened, unpinned)], judged, MEASURES, How().rules)
        for asking in ("run_list", "asked_to_measure"):
            monkeypatch.setattr(set_sheet, asking, forbidden)
        turns = [
            {**unpinned, "readings": [{**plain["readings"][0], "weight": 2.5}, plain["readings"][1]]},
            {**unpinned, "combine": {"how": "strongest", "share": 0.2}},
            {**unpinned, "blend": {"how": "reciprocal_rank", "meaning": 0.1, "k": 3}},
            {**unpinned, "blend": {"meaning": 0}},
            {**unpinned, "blend": {"how": "fill_up"}},
            {**unpinned, "blend": {"how": "reorder", "depth": 4}},
            *({**unpinned, "blend": {"how": "formula", "formula": formula}} for formula in FORMULAS[:2]),
        ]
        found = seen_lists(opened, [ranker(coast, opened, one) for one in turns], judged, MEASURES, How().rules)
        assert len({tuple(found[i]["q01"].judged.grades.tolist()) for i in range(len(turns))}) > 5

    measured_on(coast, work)


def test_another_chain_looks_up_its_own_reading_alone(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    looked_up: list[str] = []
    look_up = preparing._ReadingTerms.looked_up  # pyright: ignore[reportPrivateUsage]

    def counted(terms: Any, held: Any, begun: Any) -> Any:
        looked_up.append(terms.reading.field)
        return look_up(terms, held, begun)

    monkeypatch.setattr(preparing._ReadingTerms, "looked_up", counted)  # pyright: ignore[reportPrivateUsage]

    def work(opened: OpenCollection, judged: Judged) -> None:
        bell = dataclasses.replace(judged, queries=[one for one in judged.queries if one.query == "bell"])
        for chain in ("words > lower", "words > lower > limit(3)"):
            looked_up.clear()
            document = {
                **TWO,
                "readings": [{"field": "title", "chain": chain}, *TWO["readings"][1:]],
            }
            own = ranker(coast, opened, document)
            seen = seen_lists(opened, [own], bell, MEASURES, How().rules)[0]
            searched = figures_of(asked_lists(opened, own, bell.queries), bell, MEASURES, How())
            assert figures_seen(seen, bell, MEASURES, How()) == searched
        assert looked_up == ["title"]

    measured_on(coast, work)


def test_a_second_stage_looks_at_each_record_once(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    staged = {**TWO, "second_stage": {"space": "meaning", "first": 9, "weight": 0.5}}

    def work(opened: OpenCollection, judged: Judged) -> None:
        def seen(**more: float) -> dict[str, list[int]]:
            own = ranker(coast, opened, {**staged, "second_stage": staged["second_stage"] | more})
            lists = seen_lists(opened, [own], judged, MEASURES, How().rules)[0]
            return {query: one.judged.grades.tolist() for query, one in lists.items()}

        before = seen()
        monkeypatch.setattr(set_sheet, "word_similarities", forbidden)
        assert seen(weight=1.0) != before
        assert seen(first=3) != before
        assert seen(first=1) == seen(weight=0.0)
        with pytest.raises(AssertionError, match="nothing is asked"):
            seen(first=10)

    measured_on(coast, work)


def forbidden(*_: object, **__: object) -> Any:
    raise AssertionError("nothing is asked for a turned number")


@pytest.mark.parametrize(
    ("more", "is_on_sheets"),
    [
        ({}, True),
        ({"one_per": "kind"}, True),
        ({"second_stage": {"space": "meaning"}}, True),
        ({"feedback": {"records": 3}}, False),
        ({"feedback": {"records": 3}, "spaces": [{"space": "meaning"}]}, False),
    ],
)
def test_what_sheets_cannot_give_is_searched_for(coast: Workbench, more: dict[str, Any], is_on_sheets: bool):
    document = {"readings": [{"field": "text", "chain": "words > lower"}], **more}

    def work(opened: OpenCollection, judged: Judged) -> None:
        own = ranker(coast, opened, document)
        assert (sheet_name(own) is not None) is is_on_sheets
        searched = figures_of(asked_lists(opened, own, judged.queries), judged, MEASURES, How())
        seen = seen_lists(opened, [own], judged, MEASURES, How().rules)[0]
        assert figures_seen(seen, judged, MEASURES, How()) == searched

    measured_on(coast, work)


@pytest.mark.parametrize(
    ("names", "by", "depth"),
    [
        (["ndcg@10"], MeasureRules(), 10),
        (["ndcg@10", "recall@100"], MeasureRules(), 100),
        (["recall@2000"], MeasureRules(), RUN_DEPTH),
        (["ndcg@10", "ap"], MeasureRules(), RUN_DEPTH),
        # What stands further down comes up.
        (["ndcg@10"], MeasureRules(unjudged=Unjudged.LEFT_OUT), RUN_DEPTH),
        (["ndcg@10"], MeasureRules(ties=Ties.BEST_FIRST), RUN_DEPTH),
    ],
)
def test_lists_go_as_deep_as_measures_look(names: list[str], by: MeasureRules, depth: int):
    assert depth_of([measure(name) for name in names], by) == depth


def ranker(bench: Workbench, opened: OpenCollection, document: dict[str, Any]) -> Ranker:
    return bench.choose(opened.collection, RankerChoice(document=ranker_document(document))).ranker


def measured_on(bench: Workbench, work: Any) -> None:
    bench.with_collection(COLLECTION, lambda opened: work(opened, judged_in(bench, opened, "board")))


TWO: dict[str, Any] = {
    "readings": [
        {"field": "title", "chain": "words > lower", "weight": 2},
        {"field": "text", "chain": "words > lower > stopwords(en)"},
    ]
}


def turned_on_board(coast: Workbench, turns: list[Turn], how: How | None = None, by: str = "ndcg@10") -> Turns:
    choice = RankerChoice(document=ranker_document(TWO))
    return turns_on_set(coast, COLLECTION, choice, "board", measure(by), turns, how or How(bands=True))


@pytest.mark.parametrize("by", ["ndcg@10", "ap"])
@pytest.mark.parametrize(
    ("path", "value"),
    [
        (("readings", 0, "weight"), 0),
        (("readings", 0, "weight"), 7.5),
        (("readings", 1, "b"), 0.1),
        (("readings", 1, "chain"), "words > lower"),
        (("combine",), {"how": "pooled", "k1": 0.4}),
        (("need",), "all"),
        (("spelling",), {"when": "always"}),
        (("typing",), {"when": "always"}),
        (("one_per",), "kind"),
    ],
)
def test_a_turn_comes_to_what_the_turned_ranker_is_measured_at(
    coast: Workbench, path: tuple[str | int, ...], value: Any, by: str
):
    told = turned_on_board(coast, [Turn(path, value)], by=by)
    how = How(bands=True)
    document = RankerDocument(with_value(ranker_document(TWO).whole, path, value))
    before, after = (
        measure_ranker(coast, COLLECTION, RankerChoice(document=one), "board", [measure(by)], how).figures
        for one in (ranker_document(TWO), document)
    )
    (own,) = told.turned
    assert (told.standing.mean, own.mean) == (before.measured.means[by], after.measured.means[by])
    assert (told.standing.band, own.band) == (before.bands[by], after.bands[by])
    differences = [
        round(after.measured.per_query[query][by] - value[by], 3) for query, value in before.measured.per_query.items()
    ]
    assert own.gained == sum(one > 0 for one in differences)
    assert own.lost == sum(one < 0 for one in differences)
    assert told.queries == len(differences)


@pytest.mark.parametrize(
    ("turn", "documents"),
    [
        (
            Turn(("readings", 0, "weight"), 1.5, Turn(("readings", 1, "weight"), 6)),
            [{**TWO["readings"][0], "weight": 1.5}, {**TWO["readings"][1], "weight": 6}],
        ),
        (
            Turn(("readings", 1, "chain"), "words > lower", Turn(("readings", 0, "weight"), 3)),
            [{**TWO["readings"][0], "weight": 3}, {**TWO["readings"][1], "chain": "words > lower"}],
        ),
    ],
)
def test_two_places_are_turned_together(coast: Workbench, turn: Turn, documents: list[dict[str, Any]]):
    (both,) = turned_on_board(coast, [turn]).turned
    alone = turned_on_board(coast, [Turn(turn.path, turn.value)]).turned[0]
    document = ranker_document({**TWO, "readings": documents})
    after = measure_ranker(
        coast, COLLECTION, RankerChoice(document=document), "board", [measure("ndcg@10")], How(bands=True)
    )
    assert both.mean == after.figures.measured.means["ndcg@10"]
    assert both.mean != alone.mean


def test_turns_are_answered_in_their_order_and_are_no_looks(coast: Workbench):
    with coast.pool.connection() as connection:
        set_id = set_named(connection, collection_named(connection, COLLECTION).id, "board").id
        before = looks_at(connection, set_id)
    values = [3, 0.5, 3]
    several = turned_on_board(coast, [Turn(("readings", 0, "weight"), value) for value in values]).turned
    alone = [turned_on_board(coast, [Turn(("readings", 0, "weight"), value)]).turned[0] for value in values]
    assert several == alone
    assert several[0] != several[1]
    with coast.pool.connection() as connection:
        assert looks_at(connection, set_id) == before


@pytest.mark.parametrize(
    ("turn", "said"),
    [
        (Turn(("readings", 2, "weight"), 1), 'nothing at "readings[2]"'),
        (Turn(("readings", "0", "weight"), 1), 'nothing at "readings.0"'),
        (Turn(("readings", 0, "wait"), 1), 'nothing at "readings[0].wait"'),
        (Turn(("readings", 0, "weight"), -1), "readings[0].weight: "),
        (Turn(("readings", 0, "weight"), "much"), "readings[0].weight: "),
    ],
)
def test_a_turn_that_there_cannot_be_is_refused(coast: Workbench, turn: Turn, said: str):
    with pytest.raises(BadInput, match=re.escape(said)):
        turned_on_board(coast, [turn])


def test_without_a_query_that_counts_there_is_no_mean(coast: Workbench):
    told = turned_on_board(coast, [Turn(("need",), "all")], How(part=Part.LOCKED))
    assert (told.standing.mean, told.turned[0].mean, told.queries) == (None, None, 0)


def test_a_ranker_of_words_alone_is_measured_though_its_space_cannot_be_asked(
    coast: Workbench, monkeypatch: pytest.MonkeyPatch
):
    document = {**TWO, "spaces": [{"space": "meaning", "fetch": 7}], "blend": {"meaning": 0}}

    def fails(*_: object, **__: object) -> Any:
        raise Unavailable("no answer")

    def work(opened: OpenCollection, judged: Judged) -> None:
        own = ranker(coast, opened, document)
        monkeypatch.setattr(set_sheet, "asked_to_measure", fails)
        seen = seen_lists(opened, [own], judged, MEASURES, How().rules)[0]
        searched = figures_of(asked_lists(opened, own, judged.queries), judged, MEASURES, How())
        assert figures_seen(seen, judged, MEASURES, How()) == searched

    measured_on(coast, work)


def test_a_rule_that_ended_is_over_on_sheets_too(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    rule = {"when": {"query": "bell"}, "do": {"weigh": "title", "by": 50}, "until": "2031-05-01"}
    document = {**TWO, "rules": [rule]}

    def work(opened: OpenCollection, judged: Judged) -> None:
        own = ranker(coast, opened, document)
        for day in ("2031-05-01", "2031-05-02"):
            for module in ("measuring.set_sheet", "ranking.asking"):
                monkeypatch.setattr(f"pale_harbor.work.{module}.today_here", lambda day=day: day_of(day, last=False))
            seen = seen_lists(opened, [own], judged, MEASURES, How().rules)[0]
            searched = figures_of(asked_lists(opened, own, judged.queries), judged, MEASURES, How())
            assert figures_seen(seen, judged, MEASURES, How()) == searched

    measured_on(coast, work)


def test_a_query_gains_or_loses_from_half_a_thousandth_on():
    def counted(difference: float) -> tuple[int, int]:
        told = turning.turned({"q": difference}, {"q": 0.0}, {}, None)
        return told.gained, told.lost

    assert [counted(one) for one in (0.00049, 0.0005, -0.00049, -0.0005)] == [(0, 0), (1, 0), (0, 0), (0, 1)]
    assert turning.turned({}, {}, {}, None).mean is None
    # A query that nobody asked weighs nothing.
    assert turning.turned({"q": 0.5}, {"q": 0.0}, {}, {"q": 0.0}).mean is None
