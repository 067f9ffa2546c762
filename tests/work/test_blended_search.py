"""Words and meaning in one list of a real collection: as a plain reading of the recipe gives it, in every mode."""

from collections.abc import Callable, Generator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from pale_harbor.core.fields import OneOf
from pale_harbor.core.measures import measure
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.static_vectors import packaged_vectors
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import make_database, open_pool
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.measuring import measure_ranker
from pale_harbor.work.measuring.sides import sides
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.lists import ListsFound, lists_of_question
from pale_harbor.work.ranking.passages import PassagesWanted
from pale_harbor.work.ranking.searching import FacetWanted, Found, Telling, WhyRecord, find, why_record
from pale_harbor.work.ranking.why_not import WhyNot, why_not
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.spaces import COLLECTION, filled, made, refilled

THINGS = ["lamp", "lantern", "bell", "boat", "ship", "fog", "coat", "sailor", "rope", "anchor", "whale", "letter"]
ROWS: list[dict[str, Any]] = [
    {
        "id": f"r{i:02}",
        "title": f"{THINGS[i % 12]} {THINGS[(i * 5 + 3) % 12]}",
        "text": f"A {THINGS[(i * 7 + 1) % 12]} of the harbor, beside a {THINGS[(i * 11 + 2) % 12]}.",
        "kind": ["letter", "chart", "bell"][i % 3],
        "asked": i % 7,
    }
    for i in range(48)
]
READINGS = [
    {"field": "title", "chain": "words > lower", "weight": 2},
    {"field": "text", "chain": "words > lower > stopwords(en)"},
]
QUERIES = ["lantern", "ship in fog", "clothes of a seaman", "bell boat rope", "light"]
BY_KEY = {row["id"]: row for row in ROWS}


@pytest.fixture(scope="module", params=[1, 3], ids=["one slab", "three slabs"])
def coast(
    cluster: Cluster, tmp_path_factory: pytest.TempPathFactory, request: pytest.FixtureRequest
) -> Generator[Workbench]:
    """The records in one go, or so that they lie in several slabs, with two spaces. Tests share it."""
    name = f"blended_{request.param}"
    make_database(cluster, name)
    with pytest.MonkeyPatch.context() as patch, open_pool(cluster.address(name)) as pool:
        patch.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", 0)
        patch.setattr("pale_harbor.work.workbench.wants_joining", never)
        bench = Workbench(pool, tmp_path_factory.mktemp("indexes"))
        yield in_slabs(bench, tmp_path_factory.mktemp("files"), request.param)


def in_slabs(bench: Workbench, tmp_path: Path, parts: int) -> Workbench:
    load_rows(bench.pool, tmp_path, ROWS[::parts])
    meaning = made(bench, "meaning", {"kind": "packaged"}, fields=["title", "text"], passages={"by": "sentences"})
    refilled(bench, meaning)
    for part in range(1, parts):
        load_rows(bench.pool, tmp_path, ROWS[part::parts])
        bench.with_collection(COLLECTION, lambda opened: opened.spaces()["meaning"].table(opened, 0))
    refilled(bench, meaning)
    filled(bench, "titles", {"kind": "packaged"}, fields=["title"])
    assert bench.with_collection(COLLECTION, lambda opened: len(opened.slabs)) == parts
    return bench


def never(_: OpenCollection) -> bool:
    return False


def asked(bench: Workbench, query: str, more: dict[str, Any], top: int = 100, **question: Any) -> Found:
    facets: list[FacetWanted] = question.pop("facets", [])
    return with_ranker(bench, more, lambda o, r: find(o, r, Question(query, **question), top, 0, facets))


def why(bench: Workbench, query: str, more: dict[str, Any], key: str) -> WhyRecord:
    return with_ranker(bench, more, lambda o, r: why_record(o, r, Question(query), key))


def with_ranker(bench: Workbench, more: dict[str, Any], work: Callable[[OpenCollection, Any], Any]) -> Any:
    document = ranker_document({"readings": READINGS, **more})
    return bench.with_collection(
        COLLECTION,
        lambda opened: work(opened, bench.choose(opened.collection, RankerChoice(document=document)).ranker),
    )


def keys(found: Found) -> list[str]:
    return [result.key for result in found.results]


def plain_similarities(query: str, texts_of: Callable[[dict[str, Any]], list[str]]) -> dict[str, float]:
    """Each record's cosine to the query by its nearest text, in float64."""
    vectors = packaged_vectors()
    (wanted,) = vectors.vectors_of([query]).astype(np.float64)
    found: dict[str, float] = {}
    for row in ROWS:
        own = vectors.vectors_of(texts_of(row)).astype(np.float64)
        lengths = np.linalg.norm(own, axis=1) * np.linalg.norm(wanted)
        found[row["id"]] = float((own @ wanted / lengths).max())
    return found


def by_meaning(query: str) -> dict[str, float]:
    return plain_similarities(query, lambda row: [row["title"], row["text"]])


def by_titles(query: str) -> dict[str, float]:
    return plain_similarities(query, lambda row: [row["title"]])


def ranked(values: dict[str, float], count: int) -> list[str]:
    return sorted(values, key=lambda key: (-round(values[key], 9), key))[:count]


@pytest.mark.parametrize("query", QUERIES)
def test_a_space_lists_what_brute_force_lists(coast: Workbench, query: str):
    more = {"spaces": [{"space": "meaning", "fetch": 15}], "blend": {"meaning": 1}}
    assert keys(asked(coast, query, more)) == ranked(by_meaning(query), 15)


@pytest.mark.parametrize("query", QUERIES)
@pytest.mark.parametrize("meaning", [0.4, 1.0])
def test_reciprocal_ranks_are_fused_over_all_lists(coast: Workbench, query: str, meaning: float):
    more = {
        "spaces": [{"space": "meaning", "weight": 3, "fetch": 20}, {"space": "titles", "fetch": 10}],
        "blend": {"meaning": meaning, "k": 10, "fetch": 12},
    }
    words = keys(asked(coast, query, {}, 12))
    lists = [(1 - meaning, words)]
    lists += [(meaning * 0.75, ranked(by_meaning(query), 20)), (meaning * 0.25, ranked(by_titles(query), 10))]
    expected: dict[str, float] = {}
    for weight, keys_there in lists:
        if weight:
            for rank, key in enumerate(keys_there, start=1):
                expected[key] = expected.get(key, 0.0) + weight / (10 + rank)
    found = asked(coast, query, more)
    assert found.matched == len(expected)
    assert keys(found) == ranked(expected, 100)
    for result in found.results:
        assert result.score == pytest.approx(expected[result.key])
        assert sum(result.source_scores) == pytest.approx(result.score)
        there = [own.index(result.key) + 1 if weight and result.key in own else 0 for weight, own in lists]
        assert result.ranks == there


@pytest.mark.parametrize("query", QUERIES)
def test_without_any_meaning_the_list_is_the_words_whole_list(coast: Workbench, query: str):
    found = asked(coast, query, {"spaces": [{"space": "meaning"}], "blend": {"meaning": 0, "fetch": 3}}, 1_000)
    words = asked(coast, query, {}, 1_000)
    assert [(r.key, r.score) for r in found.results] == [(r.key, r.score) for r in words.results]


@pytest.mark.parametrize("query", QUERIES)
def test_scores_are_made_comparable_and_added(coast: Workbench, query: str):
    more = {
        "spaces": [{"space": "meaning", "fetch": 20}],
        "blend": {"how": "weighted_sum", "meaning": 0.3, "normalise": "min_max"},
    }
    words = {result.key: result.score for result in asked(coast, query, {}, 1_000).results}
    alike = by_meaning(query)
    alike = {key: alike[key] for key in ranked(alike, 20)}
    expected: dict[str, float] = {}
    for weight, own in ((0.7, words), (0.3, alike)):
        least, most = min(own.values(), default=0), max(own.values(), default=0)
        for key, value in own.items():
            share = (value - least) / (most - least) if most > least else 1.0
            expected[key] = expected.get(key, 0.0) + weight * share
    found = asked(coast, query, more)
    assert {result.key: result.score for result in found.results} == pytest.approx(expected, abs=1e-9)


@pytest.mark.parametrize("query", QUERIES)
def test_words_first_then_meaning_and_words_in_the_order_of_meaning(coast: Workbench, query: str):
    use = {"spaces": [{"space": "meaning", "fetch": 20}]}
    words, near = keys(asked(coast, query, {}, 1_000)), ranked(by_meaning(query), 20)
    filled_up = keys(asked(coast, query, use | {"blend": {"how": "fill_up"}}))
    assert filled_up == words + [key for key in near if key not in words]
    head = words[:5]
    again = keys(asked(coast, query, use | {"blend": {"how": "reorder", "depth": 5}}, 1_000))
    assert again == [*(k for k in near if k in head), *(k for k in head if k not in near), *words[5:]]


FORMULA = "reading.title + 3 * space.titles + 0.1 * signal.asked + 1 / (1 + rank.words) + above(words, 2)"


@pytest.mark.parametrize("query", QUERIES)
def test_a_formula_knows_everything_of_a_candidate(coast: Workbench, query: str):
    more = {
        "spaces": [{"space": "titles", "fetch": 10}],
        "signals": [{"field": "asked", "shape": "value", "weight": 0}],
        "blend": {"how": "formula", "formula": FORMULA},
    }
    by_words = asked(coast, query, {}, 1_000)
    words = {result.key: result for result in by_words.results}
    alike = by_titles(query)
    expected: dict[str, float] = {}
    for key in [*words, *ranked(alike, 10)]:
        title = words[key].source_scores[0] if key in words else 0.0
        rank = 1 / (1 + words[key].rank) if key in words else 0.0
        over = 1.0 if key in words and words[key].score > 2 else 0.0
        expected[key] = title + 3 * alike[key] + 0.1 * BY_KEY[key]["asked"] + rank + over
    found = asked(coast, query, more)
    assert {result.key: result.score for result in found.results} == pytest.approx(expected, abs=1e-9)
    assert keys(found) == ranked(expected, 100)
    part = why(coast, query, more, keys(found)[0]).blended
    assert part is not None
    assert part.known is not None
    assert part.known["space.titles"] == pytest.approx(alike[keys(found)[0]])


MODES: list[dict[str, Any]] = [
    {"how": "reciprocal_rank"},
    {"how": "weighted_sum", "normalise": "z_score"},
    {"how": "weighted_sum", "normalise": "none"},
    {"how": "fill_up"},
    {"how": "reorder", "depth": 7},
]


@pytest.mark.parametrize("blend", MODES, ids=lambda blend: "-".join(map(str, blend.values())))
def test_the_parts_of_why_come_to_the_score_of_the_list(coast: Workbench, blend: dict[str, Any]):
    more = {"spaces": [{"space": "meaning"}, {"space": "titles", "weight": 0.5}], "blend": blend}
    for query in QUERIES[:3]:
        found = asked(coast, query, more)
        for result in found.results[::7]:
            answer = why(coast, query, more, result.key)
            assert answer.rank == result.rank
            assert answer.blended is not None
            assert answer.blended.score == result.score
            assert sum(answer.blended.parts) == pytest.approx(result.score, rel=1e-6)
            assert answer.blended.ranks == result.ranks
            # The score by words stays explained beside it.
            if result.ranks[0]:
                assert answer.why.score == pytest.approx(answer.blended.list_scores[0], rel=1e-9)


def test_filters_narrow_a_space_before_its_nearest_are_chosen(coast: Workbench):
    more = {"spaces": [{"space": "meaning", "fetch": 5}], "blend": {"meaning": 1}}
    found = asked(coast, "lantern", more, filters=(OneOf("kind", ("chart",)),), facets=[FacetWanted("kind")])
    alike = {key: value for key, value in by_meaning("lantern").items() if BY_KEY[key]["kind"] == "chart"}
    assert keys(found) == ranked(alike, 5)
    # Of the facet's own field the other values stay in sight: the list that they would be chosen from.
    assert sum(one.count for one in found.facets["kind"]) == 5


SIGNS: dict[str, Callable[[dict[str, Any]], bool]] = {
    "light -bell": lambda row: "bell" not in row["title"] + row["text"],
    'light "of the harbor"': lambda row: True,
    'light "beside a rope"': lambda row: "beside a rope" in row["text"],
    "light title:rope": lambda row: "rope" in row["title"],
    "light asked:3..5": lambda row: 3 <= row["asked"] <= 5,
}


@pytest.mark.parametrize("query", SIGNS)
def test_signs_of_the_query_hold_for_meaning_too(coast: Workbench, query: str):
    keeps = SIGNS[query]
    more = {"spaces": [{"space": "meaning", "fetch": 48}], "blend": {"meaning": 1}}
    assert set(keys(asked(coast, query, more))) == {row["id"] for row in ROWS if keeps(row)}


def test_rules_hide_and_pin_in_the_blended_list(coast: Workbench):
    use = {"spaces": [{"space": "meaning"}]}
    first, second, *_ = keys(asked(coast, "lantern", use))
    last = keys(asked(coast, "lantern", use))[-1]
    rules = [{"do": {"hide": [first]}}, {"do": {"pin": [last]}}]
    found = keys(asked(coast, "lantern", use | {"rules": rules}))
    assert found[:2] == [last, second]
    assert first not in found


def test_one_per_group_and_other_orders_are_of_the_blended_list(coast: Workbench):
    use = {"spaces": [{"space": "meaning"}]}
    whole = asked(coast, "lantern", use)
    grouped = asked(coast, "lantern", use | {"one_per": "kind"})
    expected: list[str] = []
    for key in keys(whole):
        if BY_KEY[key]["kind"] not in [BY_KEY[one]["kind"] for one in expected]:
            expected.append(key)
    assert keys(grouped) == expected
    assert grouped.rows == 3


def test_a_kind_of_queries_has_its_own_blend(coast: Workbench):
    more = {
        "spaces": [{"space": "meaning"}],
        "kinds": [
            {"name": "short", "when": {"at_most_words": 1}, "blend": {"meaning": 0}},
            {"name": "long", "when": {"at_least_words": 3}, "blend": {"meaning": 1}},
        ],
    }
    short, long, other = (asked(coast, query, more) for query in ("lantern", "clothes of a seaman", "bell rope"))
    assert (short.kind, long.kind, other.kind) == ("short", "long", None)
    assert keys(short) == keys(asked(coast, "lantern", {}))
    assert keys(long)[:10] == ranked(by_meaning("clothes of a seaman"), 10)


def test_the_second_stage_reorders_the_first_rows_word_by_word(coast: Workbench):
    use = {"spaces": [{"space": "meaning"}]}
    before = keys(asked(coast, "seaman clothes", use))
    more = use | {"second_stage": {"space": "titles", "first": 8, "weight": 1}}
    found = asked(coast, "seaman clothes", more)
    vectors = packaged_vectors()

    def close(key: str) -> float:
        _, query = vectors.word_vectors("seaman clothes")
        _, record = vectors.word_vectors(BY_KEY[key]["title"])
        cosines = [
            [float(q @ d / np.linalg.norm(q) / np.linalg.norm(d)) for d in record.astype(np.float64)]
            for q in query.astype(np.float64)
        ]
        return sum(max(row) for row in cosines) / len(cosines)

    expected = sorted(before[:8], key=lambda key: (-round(close(key), 9), before.index(key)))
    assert keys(found) == [*expected, *before[8:]]
    look = why(coast, "seaman clothes", more, expected[0]).blended
    assert look is not None
    assert look.second_look is not None
    assert look.second_look.similarity.value == pytest.approx(close(expected[0]))


def test_a_space_that_cannot_be_asked_leaves_the_words_and_says_so(coast: Workbench):
    made(coast, "empty", {"kind": "packaged"})
    found = asked(coast, "lantern", {"spaces": [{"space": "empty"}]})
    assert keys(found) == keys(asked(coast, "lantern", {}))
    assert found.notes == ['The space "empty" has no vectors yet.']


def test_what_is_asked_without_words_is_a_matter_of_filters(coast: Workbench):
    use = {"spaces": [{"space": "meaning"}]}
    found = asked(coast, "", use, filters=(OneOf("kind", ("bell",)),))
    assert found.matched == 16
    assert asked(coast, "", use).matched == 0


def test_the_lists_behind_a_blend_stand_side_by_side(coast: Workbench):
    use = {"spaces": [{"space": "meaning", "fetch": 10}, {"space": "titles", "fetch": 10}]}
    found: ListsFound = with_ranker(coast, use, lambda o, r: lists_of_question(o, r, Question("ship in fog"), 10))
    assert found.names == ["words", "meaning", "titles", "blended"]
    words, meaning, _, blended = ([row.key for row in rows] for rows in found.lists)
    assert words == keys(asked(coast, "ship in fog", {}, 10))
    assert meaning == ranked(by_meaning("ship in fog"), 10)
    assert blended == keys(asked(coast, "ship in fog", use, 10))
    for rows in found.lists:
        for row in rows:
            assert row.ranks[-1] > 0
    assert {row["id"] for row in ROWS} >= set(found.field_values)
    with pytest.raises(BadInput, match="asks no space"):
        with_ranker(coast, {}, lambda o, r: lists_of_question(o, r, Question("fog"), 10))


def test_which_side_is_right_is_measured_where_judged(coast: Workbench, tmp_path: Path):
    from pale_harbor.work.judging.set_files import load_judged_set

    (tmp_path / "q.tsv").write_text("1\tlantern\n2\tclothes of a seaman\n")
    near = ranked(by_meaning("clothes of a seaman"), 3)
    words = keys(asked(coast, "lantern", {}, 1))
    (tmp_path / "g.txt").write_text(f"1 0 {words[0]} 3\n" + "".join(f"2 0 {key} 2\n" for key in near))
    load_judged_set(coast, COLLECTION, "set", tmp_path / "q.tsv", tmp_path / "g.txt")
    document = ranker_document(
        {
            "readings": READINGS,
            "spaces": [{"space": "meaning"}],
            "kinds": [{"name": "long", "when": {"at_least_words": 3}, "blend": {"meaning": 1}}],
        }
    )
    found = sides(coast, COLLECTION, RankerChoice(document=document), "set", measure("ndcg@10"))
    first, second = found.queries
    assert (first.words, second.meaning, second.blended) == (1.0, 1.0, 1.0)
    assert (first.kind, second.kind) == (None, "long")
    assert [(one.name, one.queries) for one in found.kinds] == [("long", 1), ("any other", 1)]
    assert found.all.meaning_better == int(second.words < 1)
    assert found.all.blended == pytest.approx((first.blended + second.blended) / 2)
    assert all(0 < share < 1 for row in found.queries for share in row.unjudged[1:])
    assert found.all.unjudged == pytest.approx(
        [(one + other) / 2 for one, other in zip(first.unjudged, second.unjudged, strict=True)]
    )


def test_why_not_offers_the_space_that_would_find_a_record(coast: Workbench):
    words_only = {"readings": READINGS}
    key = ranked(by_titles("clothes of a seaman"), 1)[0]

    def look(opened: OpenCollection) -> WhyNot:
        choice = RankerChoice(document=ranker_document(words_only))
        return why_not(coast, opened, choice, Question("clothes seaman"), key)

    found = coast.with_collection(COLLECTION, look)
    offered = {one.words: one.rank for one in found.suggestions}
    assert offered["ask the space titles too"] in range(1, 101)


def test_why_not_tells_how_near_a_record_is_that_a_space_leaves_out(coast: Workbench):
    last = ranked(by_meaning("lantern"), 48)[-1]
    document = {"readings": READINGS, "spaces": [{"space": "meaning", "fetch": 3}], "blend": {"meaning": 1}}

    def look(opened: OpenCollection) -> WhyNot:
        return why_not(coast, opened, RankerChoice(document=ranker_document(document)), Question("lantern"), last)

    found = coast.with_collection(COLLECTION, look)
    alike = by_meaning("lantern")[last]
    assert f'The space "meaning" gives its 3 nearest records; this one, {alike:.3f} alike, is not among them.' in (
        found.shut_out
    )
    assert any(one.words == "take the 30 nearest records of the space meaning" for one in found.suggestions) == (
        last in ranked(by_meaning("lantern"), 30)
    )


def test_what_was_said_of_a_kept_rankers_run_is_said_again(coast: Workbench, tmp_path: Path):
    from pale_harbor.work.judging.set_files import load_judged_set

    (tmp_path / "q.tsv").write_text("1\tlantern\n")
    (tmp_path / "g.txt").write_text("1 0 r01 3\n")
    load_judged_set(coast, COLLECTION, "one", tmp_path / "q.tsv", tmp_path / "g.txt")
    made(coast, "unfilled", {"kind": "packaged"})
    document = ranker_document({"readings": READINGS, "spaces": [{"space": "unfilled"}]})
    coast.put_ranker(COLLECTION, "kept", document)
    first, second = (measure_ranker(coast, COLLECTION, RankerChoice("kept"), "one", [measure("rr")]) for _ in range(2))
    assert first.notes == second.notes == ['The space "unfilled" has no vectors yet.']
    assert [one.split("#")[0] for one in first.made_of.spaces] == ["unfilled"]


def test_notes_are_of_the_queries_that_are_looked_at_and_of_no_other(coast: Workbench, tmp_path: Path):
    from pale_harbor.store.judging.judged_sets import SetQuery
    from pale_harbor.work.judging.sets import make_judged_set, new_query

    make_judged_set(coast, COLLECTION, "parted", 0)
    for number in range(3):
        query = SetQuery(query_id="", query=f"lantern {number}")
        new_query(coast, COLLECTION, "parted", query, locked=number > 0)
    made(coast, "unmade", {"kind": "packaged"})
    document = ranker_document({"readings": READINGS, "spaces": [{"space": "unmade"}]})
    coast.put_ranker(COLLECTION, "parted", document)
    note = 'The space "unmade" has no vectors yet.'
    # The run is made of all queries; asked again it comes from what is kept.
    for _ in range(2):
        found = measure_ranker(coast, COLLECTION, RankerChoice("parted"), "parted", [measure("rr")])
        assert (len(found.figures.matched), found.notes) == (1, [note])


def test_how_many_of_the_words_records_took_part_is_said(coast: Workbench):
    use = {"spaces": [{"space": "meaning"}], "blend": {"fetch": 3}}
    matched = asked(coast, "bell boat rope", {}).matched
    found = asked(coast, "bell boat rope", use)
    assert found.notes == [f"Words find {matched} records; the first 3 of them took part in the blend."]


def test_the_second_stage_alone_leaves_the_words_their_scores(coast: Workbench):
    words = asked(coast, "bell boat rope", {})
    found = asked(coast, "bell boat rope", {"second_stage": {"space": "titles", "first": 3, "weight": 1}})
    assert {r.key: r.score for r in found.results} == {r.key: r.score for r in words.results}
    assert keys(found)[3:] == keys(words)[3:]


def test_of_a_record_that_only_meaning_brought_in_the_nearest_passage_is_told(coast: Workbench):
    more = {"spaces": [{"space": "meaning", "fetch": 40}], "blend": {"meaning": 0.5}}
    telling = Telling(PassagesWanted(60, 1))
    rows = with_ranker(coast, more, lambda o, r: find(o, r, Question("lamp"), 40, telling=telling)).results
    by_words = [row for row in rows if row.ranks[0]]
    by_meaning_alone = [row for row in rows if not row.ranks[0]]
    assert by_words
    assert by_meaning_alone
    assert {one.space for row in by_words for one in row.passages} == {None}
    for row in by_meaning_alone:
        (one,) = row.passages
        assert (one.space, one.marks, one.text) == ("meaning", [], row.passage.text)
        assert BY_KEY[row.key][one.field][one.start : one.end] == one.text
