"""Lists of a real collection: filters, facets, sorting, pages, groups, rules, signals, and every sign of a query."""

from collections.abc import Callable, Generator
from itertools import groupby
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.fields import Filter, Has, OneOf, Within
from pale_harbor.core.ranking import FieldOrder
from pale_harbor.errors import BadInput
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.cluster import Cluster
from pale_harbor.store.database import open_pool
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.asking import answer, ask
from pale_harbor.work.ranking.searching import FacetValue, FacetWanted, Found, find, why_record
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows

KINDS = ["letter", "chart", "bell"]
RECORDS: list[dict[str, Any]] = [
    {
        "id": f"r{i:02}",
        "title": f"{'Pale' if i % 3 else 'Old'} harbor {'bell' if i % 2 else 'lamp'}",
        "text": "fog " * (i % 5) + "on the pale harbor, said the lighthouse keeper",
        "kind": KINDS[i % 3],
        "year": 1840 + i,
        "acquired": f"19{i:02}-05-01",
        "asked": i * 10 if i % 4 else None,
        "series": f"s{i % 6}" if i % 5 else None,
    }
    for i in range(40)
]
READINGS = [
    {"field": "title", "chain": "words > lower", "weight": 2},
    {"field": "text", "chain": "words > lower > stopwords(en) > stem(en)"},
]


@pytest.fixture(scope="module", params=[1, 4], ids=["one slab", "four slabs"])
def coast(
    cluster: Cluster,
    empty_database: Callable[[], str],
    tmp_path_factory: pytest.TempPathFactory,
    request: pytest.FixtureRequest,
) -> Generator[Workbench]:
    """The records in one go, or little by little, so that they lie in several slabs; no test changes them."""
    folder, parts = tmp_path_factory.mktemp("coast"), request.param
    with pytest.MonkeyPatch.context() as patched, open_pool(cluster.address(empty_database())) as pool:
        patched.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", 0)
        patched.setattr("pale_harbor.work.workbench.wants_joining", never)
        bench = Workbench(pool, folder / "indexes")
        for part in range(parts):
            load_rows(pool, folder, RECORDS[part::parts])
            if parts > 1:
                # Opened between the loads: what comes later lies in a slab of its own.
                asked(bench, "harbor")
        yield bench


def never(_: OpenCollection) -> bool:
    return False


def asked(bench: Workbench, query: str, top: int = 100, skip: int = 0, more: Any = None, **question: Any) -> Found:
    facets: list[FacetWanted] = question.pop("facets", [])
    document = ranker_document({"readings": READINGS, **(more or {})})

    def work(opened: OpenCollection) -> Found:
        ranker = bench.choose(opened.collection, RankerChoice(document=document)).ranker
        return find(opened, ranker, Question(query, **question), top, skip, facets)

    return bench.with_collection("coast", work)


def keys(found: Found) -> list[str]:
    return [result.key for result in found.results]


def rows(**wanted: Any) -> list[dict[str, Any]]:
    return [row for row in RECORDS if all(row[name] == value for name, value in wanted.items())]


def test_the_list_is_the_same_however_the_records_are_spread(coast: Workbench, tmp_path: Path):
    load_rows(coast.pool, tmp_path, RECORDS, "whole")
    for query in ("pale bell", '"pale harbor" -lamp', "har* fgo", "keepr OR lamp"):
        more = {"spelling": {"when": "always"}, "signals": [{"field": "asked", "shape": "rank"}], "need": "50%"}
        here = asked(coast, query, more=more)
        ranker = ranker_document({"readings": READINGS, **more})

        def there(opened: OpenCollection, query: str = query, ranker: Any = ranker) -> Found:
            return find(
                opened, coast.choose(opened.collection, RankerChoice(document=ranker)).ranker, Question(query), 100
            )

        whole = coast.with_collection("whole", there)
        assert [(r.key, r.score) for r in here.results] == [(r.key, r.score) for r in whole.results]
        assert here.matched == whole.matched > 0


FILTERS: list[tuple[Filter, Callable[[dict[str, Any]], bool]]] = [
    (OneOf("kind", ("letter",)), lambda row: row["kind"] == "letter"),
    (Within("year", "1850", "1860"), lambda row: 1850 <= row["year"] <= 1860),
    (Within("acquired", "1905", "1907"), lambda row: "1905" <= row["acquired"] < "1908"),
    (Has("asked", True), lambda row: row["asked"] is not None),
    (Has("series", False), lambda row: row["series"] is None),
]


@pytest.mark.parametrize(("wanted", "passes"), FILTERS, ids=[str(wanted) for wanted, _ in FILTERS])
def test_filters_let_those_pass_that_fit(coast: Workbench, wanted: Filter, passes: Callable[[dict[str, Any]], bool]):
    expected = sorted(row["id"] for row in RECORDS if passes(row))
    for query in ("harbor", ""):
        found = asked(coast, query, filters=(wanted,))
        assert sorted(keys(found)) == expected
        assert found.matched == len(expected)


def test_facets_stay_right_under_filters(coast: Workbench):
    letters = OneOf("kind", ("letter",))
    found = asked(coast, "bell", filters=(letters,), facets=[FacetWanted("kind"), FacetWanted("year", step=10)])
    with_bells = [row for row in RECORDS if "bell" in row["title"]]
    # The field's own filter does not hide what could be chosen instead; every other facet obeys it.
    counts = {kind: sum(row["kind"] == kind for row in with_bells) for kind in KINDS}
    told = {one.value: one.count for one in found.facets["kind"]}
    assert told == {kind: count for kind, count in counts.items() if count}
    decades = [row["year"] // 10 * 10 for row in with_bells if row["kind"] == "letter"]
    assert found.facets["year"] == [FacetValue(str(decade), len(list(own))) for decade, own in groupby(sorted(decades))]
    assert found.matched == len(decades)


def test_pages_together_are_the_list(coast: Workbench):
    whole = keys(asked(coast, "pale harbor"))
    pages = [keys(asked(coast, "pale harbor", top=7, skip=skip)) for skip in range(0, 49, 7)]
    assert [key for page in pages for key in page] == whole
    assert asked(coast, "pale harbor", top=7, skip=7).results[0].rank == 8
    assert keys(asked(coast, "pale harbor", skip=100)) == []


@pytest.mark.parametrize("descending", [False, True])
def test_a_list_can_be_sorted_by_a_field(coast: Workbench, descending: bool):
    found = keys(asked(coast, "bell", sort=(FieldOrder("asked", descending),)))
    bells = [row for row in RECORDS if "bell" in row["title"]]
    known = sorted((row for row in bells if row["asked"] is not None), key=lambda row: row["asked"], reverse=descending)
    assert found == [row["id"] for row in known] + [row["id"] for row in bells if row["asked"] is None]
    scores = {result.key: result.score for result in asked(coast, "bell").results}
    assert all(
        result.score == scores[result.key] for result in asked(coast, "bell", sort=(FieldOrder("asked"),)).results
    )


def test_one_row_per_group_with_the_count_of_the_others(coast: Workbench):
    whole = asked(coast, "pale harbor bell")
    found = asked(coast, "pale harbor bell", more={"one_per": "series"})
    series = {row["id"]: row["series"] for row in RECORDS}
    seen: set[str] = set()
    expected: list[str] = []
    for key in keys(whole):
        own = series[key]
        if own is None or own not in seen:
            expected.append(key)
        if own is not None:
            seen.add(own)
    assert keys(found) == expected
    assert (found.matched, found.rows) == (whole.matched, len(expected))
    for result in found.results:
        own = series[result.key]
        others = sum(series[key] == own for key in keys(whole)) - 1 if own else 0
        assert result.others == others


def test_records_are_pinned_lifted_and_hidden_for_a_query(coast: Workbench):
    plain = keys(asked(coast, "bell"))
    first, last = plain[0], plain[-1]
    rules = [
        {"when": {"query": "bell"}, "do": {"pin": ["r02", last]}, "reason": "the exhibition"},
        {"when": {"query": "bell"}, "do": {"hide": [first]}, "reason": "on loan"},
        {"when": {"query": "bell"}, "do": {"lift": [plain[5]], "by": 100}, "reason": "asked for"},
        {"when": {"query": "lamp"}, "do": {"hide": ["r01"]}, "reason": "another"},
    ]
    found = asked(coast, "Bell", more={"rules": rules})
    # Pinned first, one of them no match at all; then what was lifted; and nothing stands twice.
    assert keys(found)[:3] == ["r02", last, plain[5]]
    assert [result.pinned for result in found.results[:3]] == [True, True, False]
    assert found.results[0].score == 0.0
    assert first not in keys(found)
    assert len(set(keys(found))) == len(keys(found))

    def ranks(opened: OpenCollection) -> list[int | None]:
        document = ranker_document({"readings": READINGS, "rules": rules})
        ranker = coast.choose(opened.collection, RankerChoice(document=document)).ranker
        return [why_record(opened, ranker, Question("bell"), result.key).rank for result in found.results]

    assert coast.with_collection("coast", ranks) == list(range(1, len(found.results) + 1))
    assert [one.number for one in found.rules] == [0, 1, 2]
    assert keys(asked(coast, "bell", more={"rules": [rule | {"on": False} for rule in rules]})) == plain
    over = [rule | {"until": "2001-01-01"} for rule in rules]
    assert keys(asked(coast, "bell", more={"rules": over})) == plain
    # A filter that the visitor sets holds for pinned records too.
    assert "r02" not in keys(asked(coast, "bell", more={"rules": rules}, filters=(OneOf("kind", ("chart",)),)))


def test_a_pinned_record_stands_for_its_group(coast: Workbench):
    rules = [{"when": {"query": "bell"}, "do": {"pin": ["r02"]}, "reason": "the exhibition"}]
    found = asked(coast, "bell", more={"rules": rules, "one_per": "series"})
    series = {row["id"]: row["series"] for row in RECORDS}
    named = [series[key] for key in keys(found) if series[key]]
    assert keys(found)[0] == "r02"
    assert len(set(named)) == len(named)
    # It is a lamp: all bells of its series are the others.
    bells = [row for row in RECORDS if "bell" in row["title"] and row["series"] == series["r02"]]
    assert found.results[0].others == len(bells)


def test_a_rule_makes_a_filter_of_a_year_and_looks_for_a_word_in_one_field(coast: Workbench):
    year = {"when": {"pattern": r"\b18\d\d\b"}, "do": {"filter": "year", "spread": 1}}
    found = asked(coast, "bell 1851", more={"rules": [year]})
    assert sorted(keys(found)) == ["r11"]
    assert found.filters == ["year from 1850 to 1852"]
    # A year alone asks for everything of that year.
    assert sorted(keys(asked(coast, "1851", more={"rules": [year]}))) == ["r10", "r11", "r12"]
    lamp = {"when": {"pattern": "lamp"}, "do": {"look_in": "text"}}
    assert asked(coast, "lamp", more={"rules": [lamp]}).matched == 0
    kind = {"when": {"pattern": "LETTER"}, "do": {"look_in": "kind"}}
    of_letters = asked(coast, "LETTER bell", more={"rules": [kind]})
    assert sorted(keys(of_letters)) == [row["id"] for row in rows(kind="letter") if "bell" in row["title"]]
    assert of_letters.read_as == "bell, kind: exactly “LETTER”"
    # A value is found whatever the case it was typed in.
    value = {"when": {"pattern": "LETTER"}, "do": {"filter": "kind"}}
    assert asked(coast, "LETTER harbor", more={"rules": [value]}).matched == len(rows(kind="letter"))
    nothing = {"when": {"pattern": "bell"}, "do": {"weigh": "title", "by": 0}}
    assert asked(coast, "bell", more={"rules": [nothing]}).matched == 0


# Each with what a title and a text must be like.
SIGNS: list[tuple[str, Callable[[str, str], bool]]] = [
    ('"pale harbor"', lambda t, x: "pale harbor" in t or "pale harbor" in x),
    ('"Harbor the"', lambda t, x: "harbor the" in t or "harbor the" in x),
    ('"fog on"', lambda t, x: "fog on" in x),
    # Literally: no stem of it is enough.
    ('"keepers"', lambda t, x: False),
    ("harbor -lamp", lambda t, x: "lamp" not in t),
    ("harbor NOT (lamp OR old)", lambda t, x: "lamp" not in t and "old" not in t),
    ("bell AND old", lambda t, x: "bell" in t and "old" in t),
    ("(bell AND old)", lambda t, x: "bell" in t and "old" in t),
    ("(bell AND old) OR (lamp AND title:pale)", lambda t, x: ("bell" in t) == ("old" in t)),
    ("title:pale", lambda t, x: "pale" in t),
    ("-pale", lambda t, x: False),
    ("-bell", lambda t, x: "bell" not in t),
    ("title:(bell old)", lambda t, x: "bell" in t or "old" in t),
    ("be*", lambda t, x: "bell" in t),
    ("*amp -old", lambda t, x: "lamp" in t and "old" not in t),
    # Of the words as they stand, whatever is cut off them: the stem is "lighthous".
    ("lighthouse*", lambda t, x: "lighthouse" in x),
    ("*house", lambda t, x: "lighthouse" in x),
    ("lighthous*", lambda t, x: "lighthouse" in x),
    ("*lighthous", lambda t, x: False),
    ("text:*house", lambda t, x: "lighthouse" in x),
    ("title:*house", lambda t, x: False),
    ('lighthouse* "pale harbor"', lambda t, x: "pale harbor" in t or "pale harbor" in x),
    ("kind:chart", lambda t, x: False),
    ("year:1850..1852", lambda t, x: False),
    ("bell year:1850..1852", lambda t, x: False),
]


@pytest.mark.parametrize(("query", "fits"), SIGNS, ids=[query for query, _ in SIGNS])
def test_a_visitors_signs_ask_for_what_they_say(coast: Workbench, query: str, fits: Callable[[str, str], bool]):
    def fitting(row: dict[str, Any]) -> bool:
        if query == "kind:chart":
            return row["kind"] == "chart"
        if "year:" in query:
            return 1850 <= row["year"] <= 1852 and ("bell" not in query or "bell" in row["title"])
        return fits(row["title"].lower(), " ".join(row["text"].split()))

    assert sorted(keys(asked(coast, query))) == sorted(row["id"] for row in RECORDS if fitting(row))


ASIDES = ["bell, harbor", "bell - harbor", "bell & harbor", "the bell harbor", "bell of the harbor -", "harbor (bell)"]


@pytest.mark.parametrize("query", ASIDES)
def test_where_all_words_are_needed_signs_and_stop_words_need_not_be_held(coast: Workbench, query: str):
    # Codes are read as they stand, signs and stop words with them.
    codes = {"readings": [*READINGS, {"field": "kind", "chain": "blanks > lower"}], "need": "all"}
    plain = asked(coast, "bell harbor", more=codes)
    assert sorted(keys(plain)) == [row["id"] for row in RECORDS if "bell" in row["title"] or row["kind"] == "bell"]
    assert sorted(keys(asked(coast, query, more=codes))) == sorted(keys(plain))
    assert sorted(keys(asked(coast, query, more=codes | {"need": "any"}))) == sorted(
        keys(asked(coast, "bell harbor", more=codes | {"need": "any"}))
    )


def test_what_nothing_but_stop_words_ask_for_is_asked_for_all_the_same(coast: Workbench):
    titles = {"readings": [{"field": "text", "chain": "words > lower"}, READINGS[1]], "need": "all"}
    assert asked(coast, "on the", more=titles).matched == len(RECORDS)
    assert asked(coast, "on a", more=titles).matched == 0
    # What is left out by a sign is left out, stop word or not.
    assert asked(coast, "harbor -the", more=titles).matched == 0
    # A word that nobody passes over has to be there.
    assert asked(coast, "harbor gannet", more=titles).matched == 0


def test_an_open_word_is_looked_for_once_in_each_field_and_its_score_adds_up(coast: Workbench):
    document = ranker_document({"readings": READINGS})

    def work(opened: OpenCollection) -> None:
        ranker = coast.choose(opened.collection, RankerChoice(document=document)).ranker
        why = why_record(opened, ranker, Question("lighthouse* bel*"), "r05").why
        parts = [(part.number, part.field, part.weight, len(part.terms)) for part in why.readings]
        # The title is read unstemmed as it is; the text in words that no stage cut.
        assert parts == [(0, "title", 2, 1), (1, "text", 1, 0), (None, "text", 1, 1)]
        assert why.score == find(opened, ranker, Question("lighthouse* bel*"), 50).results[0].score

    coast.with_collection("coast", work)


def test_a_signal_counts_from_the_latest_record_and_can_be_asked_why(coast: Workbench):
    signals = [
        {"field": "acquired", "shape": "half_life", "scale": 365, "how": "multiply", "weight": 3},
        {"field": "asked", "shape": "log", "scale": 10, "without": 0.5},
    ]
    document = ranker_document({"readings": READINGS, "signals": signals})

    def work(opened: OpenCollection) -> None:
        ranker = coast.choose(opened.collection, RankerChoice(document=document)).ranker
        found = find(opened, ranker, Question("pale bell"), 50)
        for result in found.results:
            assert sum(result.source_scores) == pytest.approx(result.score)
            why = why_record(opened, ranker, Question("pale bell"), result.key)
            assert (why.why.score, why.rank) == (result.score, result.rank)
            assert why.why.signals[1].value == (0.5 if result.key[1:] in ("00", "04") else why.why.signals[1].value)
        newest = why_record(opened, ranker, Question("pale bell"), "r39")
        assert newest.why.signals[0].value == 1.0

    coast.with_collection("coast", work)


@pytest.mark.parametrize(
    "query",
    [
        "bell OR " * 3_000,
        "(" * 4_000 + "bell" + ")" * 4_000,
        "a* b* c* d* e* f* g* h* i* j* k*",
        "*a* ** * *",
        "fog" * 30_000,
        "\u202efog\u0301 \u05d0\u05d5\u0644\u0627 \U0001f1f3\U0001f1f4" * 500,
        "-" * 9_000,
        '"' * 9_001,
        " ".join(f"harb{i}r" for i in range(1_500)),
        "harbor " * 1_500,
    ],
    ids=["ors", "parentheses", "beginnings", "stars", "long", "marks", "minuses", "quotes", "misspelt", "repeated"],
)
def test_hostile_queries_are_answered(coast: Workbench, query: str):
    more = {"spelling": {"edits": 2, "when": "always", "fixed_start": 0, "similar": 0.2}, "need": "75%"}
    found = asked(coast, query, top=10, more=more)
    assert 0 <= found.matched <= len(RECORDS)


def test_words_of_a_query_may_stand_in_different_readings(coast: Workbench):
    # "bell" stands in titles, "keeper" in texts: both are held, each where it is.
    found = asked(coast, "bell keeper", more={"need": "all"})
    assert sorted(keys(found)) == [row["id"] for row in RECORDS if "bell" in row["title"]]
    assert asked(coast, "bell keeper whale", more={"need": "all"}).matched == 0
    assert asked(coast, "bell keeper whale", more={"need": "60%"}).matched == found.matched


def test_scores_beyond_all_numbers_are_refused_in_words(coast: Workbench):
    lift = {"do": {"lift": ["r01"], "by": 1_000}}
    with pytest.raises(BadInput, match="Scores become too large to be numbers"):
        asked(coast, "bell", more={"rules": [lift] * 200})


def test_numbers_are_counted_in_all_their_stretches(coast: Workbench):
    found = asked(coast, "harbor", facets=[FacetWanted("year", most=3, step=1)])
    assert found.facets["year"] == [FacetValue(str(row["year"]), 1) for row in RECORDS]


def test_a_question_can_be_answered_to_any_depth(coast: Workbench):
    def work(opened: OpenCollection) -> list[int]:
        ranker = coast.choose(opened.collection, RankerChoice(document=ranker_document({"readings": READINGS}))).ranker
        prepared = ask(opened, ranker, Question("harbor"))
        return [len(answer(opened, prepared, top).rows) for top in (1, 10, 1_000)]

    assert coast.with_collection("coast", work) == [1, 10, 40]
