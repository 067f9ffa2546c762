"""What visitors are answered: by what is live, within what their key may see, and what is kept of it."""

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, LiteralString
from uuid import UUID, uuid4

import pytest
from psycopg import OperationalError

from pale_harbor.core.fields import Has, OneOf
from pale_harbor.core.ranking import FieldOrder
from pale_harbor.core.text import chain_of
from pale_harbor.core.typing.recipe import Completions
from pale_harbor.errors import BadInput, NotFound, NotSignedIn, Unavailable
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.past_queries import PastQuery
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.reading import ranker_of
from pale_harbor.formats.visitor_terms import visitor_terms
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.asked import AskedQuery, add_asked, add_event, count_and_forget
from pale_harbor.store.delivery.settings import DeliverySettings, days_kept
from pale_harbor.store.measuring.diary import diary_of
from pale_harbor.store.ranking.past_queries import put_past_queries
from pale_harbor.work.delivery import keeping, publishing
from pale_harbor.work.delivery.answering import DeliveredList
from pale_harbor.work.delivery.audience import audience_of, ranker_for
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.forgetting import forget_past
from pale_harbor.work.delivery.known import SECONDS_HEARD, SECONDS_KNOWN, Known, KnownKeys
from pale_harbor.work.delivery.past import MOST_HELD, REST_S, PastKeeper
from pale_harbor.work.delivery.rates import Rates
from pale_harbor.work.delivery.wanted_list import WantedList
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.ranking.completing import recipe_of
from pale_harbor.work.ranking.passages import PassagesWanted
from pale_harbor.work.ranking.searching import FacetWanted, page_of
from pale_harbor.work.running.hurry import Hurry
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.delivery import FOR_ALL, READINGS, STALLS, key_for, open_market
from tests.endurance.harbor import until
from tests.loading import load_rows


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    return open_market(bench, tmp_path)


@pytest.fixture
def delivery(market: Workbench) -> Delivery:
    return Delivery(market)


def known(delivery: Delivery, market: Workbench, **terms: Any) -> Known:
    return delivery.keys.of(key_for(market, terms), "market")


def keys(delivery: Delivery, who: Known, query: str, **more: Any) -> list[str]:
    return [row.key for row in delivery.listed(who, WantedList(query=query, **more)).results]


def test_visitors_find_by_what_they_may_see_and_staff_by_more(market: Workbench, delivery: Delivery):
    visitors, staff = known(delivery, market, **FOR_ALL), known(delivery, market)
    assert keys(delivery, visitors, "eel") == ["s1", "s2"]
    assert keys(delivery, staff, "eel") == ["s1", "s2", "s3"]
    assert keys(delivery, visitors, "rent") == []
    assert keys(delivery, staff, "rent") == ["s1"]


def test_what_may_not_be_seen_is_not_in_the_answer(market: Workbench, delivery: Delivery):
    visitors = known(delivery, market, **FOR_ALL)
    found = delivery.listed(visitors, WantedList(query="eel", passages=PassagesWanted(40, 1)))
    assert found.results[0].field_values == {"id": "s1", "name": "Smoked eel", "place": "Quay", "price": 12}
    assert set(found.results[0].marks) == {"name"}
    assert [one.field for one in found.results[0].passages] == ["name"]
    assert delivery.answering.record(visitors, "s1")[0] == found.results[0].field_values
    searched_unseen = known(delivery, market, shown=["id", "name"], searched=["name", "staff"])
    told = delivery.listed(searched_unseen, WantedList(query="rent", passages=PassagesWanted(40, 1)))
    assert [(row.key, row.marks, row.passages) for row in told.results] == [("s1", {}, [])]


@pytest.mark.parametrize(
    "named",
    [
        {"filters": (OneOf("staff", ("reliable",)),)},
        {"sort": (FieldOrder("staff"),)},
        {"facets": (FacetWanted("staff"),)},
        {"filters": (Has("nothing", True),)},
    ],
)
def test_a_hidden_field_and_none_are_refused_with_the_same_words(
    market: Workbench, delivery: Delivery, named: dict[str, Any]
):
    visitors = known(delivery, market, **FOR_ALL)
    with pytest.raises(BadInput) as told:
        delivery.listed(visitors, WantedList(query="eel", **named))
    (problem,) = told.value.problems
    name = "nothing" if "nothing" in str(named) else "staff"
    assert problem[1] == f'there is no field "{name}" here. There are: id, name, place, price.'


def test_a_query_cannot_name_a_hidden_field(market: Workbench, delivery: Delivery):
    visitors, staff = known(delivery, market, **FOR_ALL), known(delivery, market)
    assert keys(delivery, staff, "staff:reliable") == ["s2"]
    assert keys(delivery, visitors, "staff:reliable") == []
    assert keys(delivery, visitors, "name:traps") == ["s2"]
    # What is shown and not searched cannot be searched by its name either.
    assert keys(delivery, known(delivery, market, searched=["name"]), "staff:reliable") == []


def test_filters_of_a_key_hold_for_lists_records_and_suggestions(market: Workbench, delivery: Delivery):
    open_ones = known(delivery, market, **FOR_ALL, filters=[{"field": "hidden", "has": False}])
    assert keys(delivery, open_ones, "twine") == ["s3"]
    with pytest.raises(NotFound, match='There is no record with the key "s4" here'):
        delivery.answering.record(open_ones, "s4")
    with pytest.raises(NotFound, match='There is no record with the key "s9" here'):
        delivery.answering.record(open_ones, "s9")
    told = delivery.answering.completed(open_ones, "tw", 10, None, None)  # pyright: ignore[reportArgumentType]
    assert "Twine" not in [one.text for one in told.completions] or keys(delivery, open_ones, "Twine")


def test_suggestions_and_corrections_tell_nothing_of_hidden_fields(
    market: Workbench, delivery: Delivery, tmp_path: Path
):
    # Said often enough to be a phrase, and a word that a slip could be mended to.
    load_rows(
        market.pool,
        tmp_path,
        [{**row, "staff": "owes rent since Candlemas"} for row in STALLS],
        "market",
    )
    document = ranker_document(
        {
            "readings": READINGS,
            "completions": {"sources": [{"phrases": "staff", "records": 2}, {"values": "name"}], "fold": False},
            "corrections": {},
        }
    )
    market.put_ranker("market", "stalls", document)
    publishing.publish(market, "market", "stalls", 2, "")
    visitors, staff = known(delivery, market, **FOR_ALL), known(delivery, market)

    def completed(who: Known, typed: str) -> list[str]:
        return [one.text for one in delivery.answering.completed(who, typed, 10, None, 30.0).completions]

    assert completed(staff, "owes") != []
    assert completed(visitors, "owes") == []
    assert completed(visitors, "smo") == ["Smoked eel"]
    meant = WantedList(query="candlemass")
    assert delivery.answering.corrected(visitors, meant) is None
    other = delivery.answering.corrected(staff, meant)
    assert other is not None
    assert other.query == "candlemas"


def test_a_key_that_searches_nothing_of_what_the_ranker_reads_is_told_so(market: Workbench, delivery: Delivery):
    with pytest.raises(BadInput, match="The ranker reads name, staff, and this key searches none of it"):
        keys(delivery, known(delivery, market, searched=["place"]), "eel")


def test_spaces_of_hidden_fields_are_not_asked():
    document = ranker_document(
        {
            "readings": READINGS,
            "spaces": [{"space": "open"}, {"space": "secret"}, {"space": "gone"}],
            "second_stage": {"space": "secret", "first": 10},
        }
    )
    ranker = ranker_of(document, chain_of)
    audience = audience_of(["name", "staff"], ["name"], None)
    seen = ranker_for(ranker, audience, Completions(), {"open": ("name",), "secret": ("name", "staff")})
    assert [use.space for use in seen.spaces] == ["open"]
    assert seen.second_stage is None
    assert [one.field for one in seen.readings] == ["name"]


def test_audiences_by_hand():
    both = audience_of(["a", "b", "c"], None, None)
    assert (both.shown, both.searched, both.named) == (("a", "b", "c"),) * 3
    some = audience_of(["a", "b", "c"], ["c", "a", "gone"], ["b", "c"])
    assert (some.shown, some.searched, some.named) == (("a", "c"), ("b", "c"), ("c",))
    assert audience_of(["a", "b"], ["a"], None).searched == ("a",)


def test_nothing_is_answered_before_something_is_live(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, STALLS, "market")
    bench.put_ranker("market", "stalls", ranker_document({"readings": READINGS}))
    delivery = Delivery(bench)
    with pytest.raises(NotFound, match='No version of a ranker is published for "market" yet'):
        keys(delivery, known(delivery, bench), "eel")
    # A key that names a ranker asks that one, whatever is live.
    assert keys(delivery, known(delivery, bench, ranker="stalls"), "eel") == ["s1", "s2", "s3"]


def test_a_new_version_is_asked_once_it_is_published_and_not_before(market: Workbench, delivery: Delivery):
    who = known(delivery, market)
    of_names = ranker_document({"readings": READINGS[:1]})
    market.put_ranker("market", "stalls", of_names)
    assert keys(delivery, who, "rent") == ["s1"]
    token = key_for(market, {})
    publishing.publish(market, "market", "stalls", None, "names alone")
    delivery.keys.forget()
    assert keys(delivery, delivery.keys.of(token, "market"), "rent") == []
    publishing.go_back(market, "market")
    delivery.keys.forget()
    assert keys(delivery, delivery.keys.of(token, "market"), "rent") == ["s1"]
    named = known(delivery, market, ranker="stalls", version=2)
    assert keys(delivery, named, "rent") == []


def test_what_is_known_of_a_key_is_looked_up_once_a_second(market: Workbench, delivery: Delivery):
    token = key_for(market, {})
    first = delivery.keys.of(token, "market")
    assert delivery.keys.of(token, "market") is first
    keeping.revoke(market, "market", first.key.id)
    delivery.keys.forget()
    with pytest.raises(NotSignedIn, match="This needs a key for this collection"):
        delivery.keys.of(token, "market")


def test_while_a_key_is_looked_up_anew_others_go_by_what_was_known_for_a_while(
    market: Workbench, monkeypatch: pytest.MonkeyPatch
):
    clock = Clock()
    keys_known, token = KnownKeys(market, clock), key_for(market, {})
    first = keys_known.of(token, "market")
    clock.now += SECONDS_KNOWN - 0.01
    assert keys_known.known(token, "market") is first
    clock.now += 0.01
    # Nobody looks it up: whoever comes has to.
    assert keys_known.known(token, "market") is None
    meanwhile: list[Known | None] = []

    def looked_up(*_: Any) -> Any:
        meanwhile.append(keys_known.known(token, "market"))
        clock.now += SECONDS_HEARD - SECONDS_KNOWN
        meanwhile.append(keys_known.known(token, "market"))
        return None

    monkeypatch.setattr("pale_harbor.work.delivery.known.key_with", looked_up)
    with pytest.raises(NotSignedIn):
        keys_known.of(token, "market")
    assert meanwhile == [first, None]
    assert keys_known.known(token, "market") is None


@pytest.mark.parametrize("which", ["another collection's", "made up", "ended", "a program's"])
def test_keys_that_are_none(market: Workbench, delivery: Delivery, which: str):
    market.make_collection("fair")
    token = {
        "another collection's": lambda: (
            keeping.make_visitor_key(market, "fair", "the fair", visitor_terms({}), None).shown
        ),
        "made up": lambda: "x" * 43,
        "ended": lambda: key_for(market, {}, days=-1.0),
        "a program's": lambda: keeping.make_program_key(market, "market", "nightly", "reader", None).shown,
    }[which]()
    with pytest.raises(NotSignedIn, match="This needs a key for this collection"):
        delivery.keys.of(token, "market")


def test_records_that_change_are_answered_anew(market: Workbench, delivery: Delivery, tmp_path: Path):
    token = key_for(market, {})
    assert keys(delivery, delivery.keys.of(token, "market"), "samphire") == []
    load_rows(market.pool, tmp_path, [{"id": "s5", "name": "Samphire", "place": "Quay"}], "market")
    delivery.keys.forget()

    def is_found() -> bool:
        return keys(delivery, delivery.keys.of(token, "market"), "samphire") == ["s5"]

    until(is_found, 30, lambda: "The new record is not found.")


def test_until_the_new_records_are_ready_the_former_ones_are_answered_as_they_were(
    market: Workbench, delivery: Delivery, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    token = key_for(market, {})
    assert keys(delivery, delivery.keys.of(token, "market"), "eel") == ["s1", "s2", "s3"]
    load_rows(market.pool, tmp_path, [{**STALLS[0], "name": "Pickled herring"}], "market")
    delivery.keys.forget()

    def never(_collection: Any) -> Any:
        raise Unavailable("no room on the disk")

    monkeypatch.setattr(market, "opened_as", never)
    found = delivery.listed(delivery.keys.of(token, "market"), WantedList(query="eel"))
    assert [row.key for row in found.results] == ["s1", "s2", "s3"]
    # With the words that the list was made of, and their marks.
    assert found.results[0].field_values["name"] == "Smoked eel"
    assert found.results[0].marks == {"name": [(7, 10)]}


def test_a_page_of_a_list_says_what_it_is_of(market: Workbench, delivery: Delivery):
    found = delivery.listed(
        known(delivery, market), WantedList(query="eel", top=1, skip=1, facets=(FacetWanted("place"),))
    )
    assert (found.found, found.rows, found.ranker.name, found.ranker.version) == (3, 3, "stalls", 1)
    assert [(row.rank, row.key) for row in found.results] == [(2, "s2")]
    assert [(one.value, one.count) for one in found.facets["place"]] == [("Quay", 2), ("Yard", 1)]
    assert found.results[0].source_scores == []


def test_what_there_is_no_time_for_is_left_out_and_named(
    market: Workbench, delivery: Delivery, monkeypatch: pytest.MonkeyPatch
):
    document = ranker_document({"readings": READINGS, "corrections": {}})
    market.put_ranker("market", "stalls", document)
    publishing.publish(market, "market", "stalls", 2, "")
    who = known(delivery, market)
    wanted = WantedList(query="eel", facets=(FacetWanted("place"),), passages=PassagesWanted(40, 1))

    def none_left(_: Hurry) -> float:
        return 0.0

    with monkeypatch.context() as late_one:
        late_one.setattr(Hurry, "seconds_left", none_left)
        late = delivery.listed(who, wanted)
    assert [row.key for row in late.results] == ["s1", "s2", "s3"]
    assert late.left_out == ["facets", "did you mean", "passages"]
    assert (late.facets, late.results[0].passages) == ({}, [])
    # Whoever asks next gets all of it.
    whole = delivery.listed(who, wanted)
    assert (whole.left_out, len(whole.results[0].passages)) == ([], 1)


def test_what_was_asked_before_is_answered_from_memory_under_a_number_of_its_own(
    market: Workbench, delivery: Delivery, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    made: list[str] = []

    def counted(*given: Any) -> Any:
        made.append("a page")
        return page_of(*given)

    monkeypatch.setattr("pale_harbor.work.delivery.answering.page_of", counted)
    token = key_for(market, {})

    def ask(**more: Any) -> DeliveredList:
        delivery.keys.forget()
        return delivery.listed(delivery.keys.of(token, "market"), WantedList(query="eel", **more))

    # What is asked once may never come again, and takes no room.
    ask(facets=(FacetWanted("place"),))
    first = ask(facets=(FacetWanted("place"),))
    assert len(made) == 2
    again = ask(facets=(FacetWanted("place"),), session="a-visit-1", time_ms=80)
    assert len(made) == 2
    assert (again.results, again.facets, again.found) == (first.results, first.facets, first.found)
    assert again.query_id != first.query_id
    # What is kept of it is what this visitor did.
    assert (again.asked.id, again.asked.session, again.asked.shown) == (again.query_id, "a-visit-1", ["s1", "s2", "s3"])
    # Anything else that is asked, another key, another day and another version are other lists.
    ask()
    ask(facets=(FacetWanted("place"),), skip=1)
    keys(delivery, known(delivery, market), "eel", facets=(FacetWanted("place"),))
    with monkeypatch.context() as tomorrow:
        tomorrow.setattr("pale_harbor.work.delivery.answering._today", lambda: "2999-01-01")
        ask(facets=(FacetWanted("place"),))
    assert len(made) == 6
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[::-1]}))
    publishing.publish(market, "market", "stalls", 2, "")
    assert ask(facets=(FacetWanted("place"),)).ranker.version == 2
    assert len(made) == 7
    ask(facets=(FacetWanted("place"),))
    ask(facets=(FacetWanted("place"),))
    assert len(made) == 8
    load_rows(market.pool, tmp_path, [{**STALLS[2], "staff": "reliable"}], "market")
    until(lambda: ask(facets=(FacetWanted("place"),)).found == 2, 60, lambda: "The former records are still found.")


def test_what_is_in_memory_is_given_without_waiting_for_anything(market: Workbench, delivery: Delivery):
    who, wanted = known(delivery, market), WantedList(query="eel", session="a-visit-1")
    assert delivery.listed_before(who, wanted) is None
    delivery.listed(who, wanted)
    assert delivery.listed_before(who, wanted) is None
    delivery.listed(who, wanted)
    kept = delivery.listed_before(who, wanted)
    assert kept is not None
    assert [row.key for row in kept.results] == ["s1", "s2", "s3"]
    # It is noted like any other.
    assert delivery.past.waiting == 3
    with pytest.raises(BadInput):
        delivery.listed_before(who, WantedList(query="eel", sort=(FieldOrder("nothing"),)))
    # Which lists are mixed is each visitor's own.
    mixing = offer(market, delivery, 1.0, mixed=True)
    for _ in range(2):
        delivery.listed(mixing, wanted)
    assert delivery.listed_before(mixing, wanted) is None


def test_an_answer_that_is_not_whole_is_made_anew(market: Workbench, delivery: Delivery):
    who = known(delivery, market)
    # A wish that cannot be taken as typed is told of in a note.
    wanted = WantedList(query="~ eel " + "(" * 40)
    first = delivery.listed(who, wanted)
    assert first.notes
    assert not first.is_whole
    delivery.listed(who, wanted)
    assert delivery.listed(who, WantedList(query="eel")).is_whole
    assert market.memory.answers.state().values == 1


def test_a_visitor_may_ask_for_less_time_and_not_for_more(
    market: Workbench, delivery: Delivery, monkeypatch: pytest.MonkeyPatch
):
    seconds: list[float] = []

    class Noted(Hurry):
        def __init__(self, own: float) -> None:
            seconds.append(own)
            super().__init__(own)

    monkeypatch.setattr("pale_harbor.work.delivery.answering.Hurry", Noted)
    who = known(delivery, market, time_ms=500)
    for time_ms in (None, 200, 5_000):
        delivery.listed(who, WantedList(query="eel", skip=len(seconds), time_ms=time_ms))
    assert seconds == [0.5, 0.2, 0.5]


def test_an_answers_state_changes_with_whatever_it_depends_on(market: Workbench, delivery: Delivery, tmp_path: Path):
    token = key_for(market, {})

    def state() -> str:
        delivery.keys.forget()
        return delivery.answering.state_of(delivery.keys.of(token, "market"), WantedList(query="eel"))

    first = state()
    assert state() == first
    load_rows(market.pool, tmp_path, [{"id": "s6", "name": "Lamp oil"}], "market")
    assert (second := state()) != first
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    publishing.publish(market, "market", "stalls", 2, "")
    assert (third := state()) not in (first, second)
    own = delivery.keys.of(token, "market")
    keeping.change_terms(market, "market", own.key.id, "the market's page", visitor_terms({"time_ms": 50}))
    fourth = state()
    assert fourth not in (first, second, third)
    # Corrections read past queries: what was made by others is not given any more.
    with market.pool.connection() as connection:
        of = collection_named(connection, "market").id
        put_past_queries(connection, of, "a notebook", [PastQuery(query="eel traps", asked=3, language="")])
    assert state() not in (first, second, third, fourth)


def test_how_records_are_shown_of_what_may_be_seen(market: Workbench, delivery: Delivery):
    whole = delivery.about(known(delivery, market))
    assert whole.title == "name"
    assert "place" in whole.facets or "staff" in [one.field for one in whole.fields]
    shown = delivery.about(known(delivery, market, shown=["name", "price"]))
    assert (shown.title, [one.field for one in shown.fields], shown.sorts) == ("name", ["price"], ["price"])
    assert delivery.about(known(delivery, market, shown=["price"], searched=["name"])).title is None


# Publishing


def judged(market: Workbench) -> None:
    queries = queries_in("1\teel\n2\ttwine\n", "queries")
    put_judged_set(market, "market", "buyers", queries, judgments_in("1 0 s1 3\n2 0 s4 3\n", "grades"))


def test_a_version_that_breaks_a_rule_is_not_published_unless_somebody_says_why(market: Workbench):
    judged(market)
    settings = DeliverySettings(judged_set="buyers", rules="ndcg@10 may not drop\nrr > 0.1\n")
    assert keeping.change_settings(market, "market", settings) == settings
    market.put_ranker("market", "stalls", ranker_document({"readings": [{"field": "staff", "chain": "words > lower"}]}))
    with pytest.raises(publishing.RulesBroken, match="stalls:2 was not published: guard rules are broken") as told:
        publishing.publish(market, "market", "stalls", 2, "worse")
    assert "ndcg@10 may not drop" in [text for text, _ in told.value.problems]
    assert publishing.published_told(market, "market").live.version == 1  # pyright: ignore[reportOptionalMemberAccess]
    made = publishing.publish(market, "market", "stalls", 2, "worse", "the fair is tomorrow")
    assert (made.version, made.overruled) == (2, "the fair is tomorrow")
    assert [one["holds"] for one in made.rules or []].count(False) >= 1
    with market.pool.connection() as connection:
        entry = diary_of(connection, collection_named(connection, "market").id)[0]
    assert entry.title == "stalls:2 is live"
    assert entry.body.startswith("worse\nAlthough these rules are broken: ndcg@10 may not drop")
    assert entry.body.endswith("the fair is tomorrow")


def test_a_reason_is_not_kept_where_no_rule_was_broken(market: Workbench):
    judged(market)
    keeping.change_settings(market, "market", DeliverySettings(judged_set="buyers", rules="rr >= 0"))
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    made = publishing.publish(market, "market", "stalls", 2, "", "never mind")
    assert (made.overruled, [one["holds"] for one in made.rules or []]) == (None, [True])


def test_rules_that_compare_are_passed_over_while_nothing_is_live(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, STALLS, "market")
    bench.put_ranker("market", "stalls", ranker_document({"readings": READINGS}))
    judged(bench)
    keeping.change_settings(bench, "market", DeliverySettings(judged_set="buyers", rules="ndcg@10 may not drop"))
    assert publishing.publish(bench, "market", "stalls", 1, "").rules is None


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        (DeliverySettings(judged_set="buyers", rules="faster"), "These rules cannot be read"),
        (DeliverySettings(rules="rr > 0.5"), "Rules are checked on a judged set: name one"),
    ],
)
def test_settings_that_cannot_be_checked_are_refused(market: Workbench, settings: DeliverySettings, words: str):
    judged(market)
    with pytest.raises(BadInput, match=words):
        keeping.change_settings(market, "market", settings)


def test_going_back_is_to_what_was_live_before_whatever_came_between(market: Workbench):
    with pytest.raises(NotFound, match="Nothing else was live before"):
        publishing.go_back(market, "market")
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    publishing.publish(market, "market", "stalls", 2, "names alone")
    # Published twice: one goes back to another one all the same.
    publishing.publish(market, "market", "stalls", 2, "once more")
    back = publishing.go_back(market, "market")
    assert (back.ranker, back.version, back.note) == ("stalls", 1, "Back from stalls:2.")
    assert [one.version for one in publishing.published_told(market, "market").history] == [1, 2, 2, 1]


def test_a_candidate_is_another_version_beside_one_that_is_live(market: Workbench):
    with pytest.raises(BadInput, match="stalls:1 is live already"):
        publishing.offer_candidate(market, "market", "stalls", 1, 0.5, "", mixed=True)
    with pytest.raises(NotFound, match="There is no candidate"):
        publishing.end_candidate(market, "market", "")
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    publishing.offer_candidate(market, "market", "stalls", 2, 0.5, "shorter", mixed=False)
    told = publishing.published_told(market, "market")
    assert told.candidate is not None
    assert (told.candidate.version, told.candidate.share, told.candidate.mixed) == (2, 0.5, False)
    publishing.end_candidate(market, "market", "")
    assert publishing.published_told(market, "market").candidate is None


def offer(market: Workbench, delivery: Delivery, share: float, *, mixed: bool) -> Known:
    """A candidate that finds by the staff's notes alone; known to a key from then on."""
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[1:]}))
    publishing.offer_candidate(market, "market", "stalls", 2, share, "", mixed=mixed)
    delivery.keys.forget()
    return delivery.keys.of(key_for(market, {}), "market")


def test_a_share_of_visitors_meets_the_candidate_and_each_always_the_same(market: Workbench, delivery: Delivery):
    who = offer(market, delivery, 0.3, mixed=False)
    versions = {
        session: delivery.listed(who, WantedList(query="eel", session=session)).ranker.version
        for session in (f"visitor-{number}" for number in range(300))
    }
    share = sum(version == 2 for version in versions.values()) / len(versions)
    assert 0.2 < share < 0.4
    for session in list(versions)[:20]:
        assert delivery.listed(who, WantedList(query="twine", session=session)).ranker.version == versions[session]
    # Whoever tells no session meets what is live.
    assert delivery.listed(who, WantedList(query="eel")).ranker.version == 1


def test_mixed_lists_hold_both_rankers_rows_and_pages_go_on(market: Workbench, delivery: Delivery):
    who = offer(market, delivery, 1.0, mixed=True)
    whole = delivery.listed(who, WantedList(query="eel yard", session="a-visitor", top=4))
    assert {row.key for row in whole.results} == {"s1", "s2", "s3"}
    assert whole.asked.teams is not None
    assert set(whole.asked.teams) <= set("lc-")
    assert (whole.asked.candidate_ranker, whole.asked.candidate_version) == ("stalls", 2)
    assert [row.rank for row in whole.results] == [1, 2, 3]
    pages = [
        delivery.listed(who, WantedList(query="eel yard", session="a-visitor", top=1, skip=skip)).results
        for skip in range(3)
    ]
    assert [row.key for page in pages for row in page] == [row.key for row in whole.results]
    # A list in another order than by relevance is nobody's.
    by_price = WantedList(query="eel", session="a-visitor", sort=(FieldOrder("price"),))
    assert delivery.listed(who, by_price).asked.teams is None


# What is kept


def asked(collection_id: int, **more: Any) -> AskedQuery:
    usual: dict[str, Any] = {
        "id": uuid4(),
        "collection_id": collection_id,
        "at": datetime.now(tz=UTC),
        "key_id": None,
        "session": None,
        "query": "eel",
        "found": 2,
        "elapsed_ms": 1.0,
        "ranker": "stalls",
        "version": 1,
        "shown": ["s1", "s2"],
    }
    return AskedQuery(**(usual | more))


@pytest.fixture
def market_id(market: Workbench) -> int:
    with market.pool.connection() as connection:
        return collection_named(connection, "market").id


def kept(market: Workbench, what: LiteralString = "query") -> list[Any]:
    with market.pool.connection() as connection:
        rows = connection.execute(f"select {what} from asked_queries order by at, id").fetchall()
        return [row[0] if len(row) == 1 else row for row in rows]


class Clock:
    now = 100.0

    def __call__(self) -> float:
        return self.now


def test_what_was_asked_is_kept_as_it_was_shown(market: Workbench, delivery: Delivery):
    who = known(delivery, market)
    wanted = WantedList(
        query="eel\x00", session="a-visitor", filters=(OneOf("place", ("Quay",)),), sort=(FieldOrder("price", True),)
    )
    found = delivery.listed(who, wanted)
    delivery.past.end()
    (row,) = kept(market, "id, query, session, narrowed, shown, found, ranker, version, key_id")
    assert row[:4] == (
        found.query_id,
        "eel\ufffd",
        "a-visitor",
        {"filters": ["place is Quay"], "sort": ["-price"]},
    )
    assert row[4:] == (["s1", "s3"], 2, "stalls", 1, who.key.id)


def test_a_key_can_say_that_nothing_is_kept(market: Workbench, delivery: Delivery):
    who = known(delivery, market, keeps=False)
    found = delivery.listed(who, WantedList(query="eel"))
    delivery.note_event(who, found.query_id, "click", "s1")
    delivery.past.end()
    assert kept(market) == []
    with market.pool.connection() as connection:
        assert connection.execute("select count(*) from asked_events").fetchone() == (0,)


def test_of_letters_on_the_way_only_where_a_visitor_comes_to_rest_is_kept(market: Workbench, market_id: int):
    clock = Clock()
    past = PastKeeper(market.pool, clock)

    def typed(query: str, session: str | None = "a-visitor") -> AskedQuery:
        one = asked(market_id, query=query, session=session, is_typed=True)
        past.note(one)
        return one

    typed("e")
    typed("ee")
    last = typed("eel")
    typed("nobody", session=None)
    clock.now += REST_S - 0.01
    past.keep()
    assert kept(market) == []
    clock.now += 0.01
    past.keep()
    assert kept(market, "id") == [last.id]
    # On the way to a query that was asked in the end: that one is kept.
    typed("tw")
    past.note(asked(market_id, query="twine", session="a-visitor"))
    clock.now += 2 * REST_S
    past.keep()
    assert kept(market) == ["eel", "twine"]


def test_an_event_is_kept_with_its_list_before_it_is_answered_and_counts_once(market: Workbench, market_id: int):
    past = PastKeeper(market.pool, Clock())
    one = asked(market_id, session="a-visitor", is_typed=True)
    past.note(one)
    for _ in range(2):
        past.note_event(market_id, one.id, "click", "s2")
    assert kept(market, "id") == [one.id]
    with market.pool.connection() as connection:
        assert connection.execute("select query_id, kind, record_key from asked_events").fetchall() == [
            (one.id, "click", "s2")
        ]
    past.end()
    assert kept(market, "id") == [one.id]


def test_an_event_of_a_list_that_is_just_being_written_is_kept_with_it(
    market: Workbench, market_id: int, monkeypatch: pytest.MonkeyPatch
):
    """The one who writes may be killed before it is done."""
    past = PastKeeper(market.pool, Clock())
    monkeypatch.setattr(past, "_begin", lambda: None)
    one = asked(market_id)
    past.note(one)

    def told_meanwhile(*_: Any) -> None:
        monkeypatch.setattr("pale_harbor.work.delivery.past.add_asked", add_asked)
        past.note_event(market_id, one.id, "click", "s2")
        assert kept(market, "id") == [one.id]
        raise OperationalError("killed")

    monkeypatch.setattr("pale_harbor.work.delivery.past.add_asked", told_meanwhile)
    assert past.waiting == 1
    assert past.keep() is False
    assert past.keep() is True
    assert (past.waiting, kept(market, "id")) == (0, [one.id])


def test_while_the_database_is_away_the_first_go_first(
    market: Workbench, market_id: int, monkeypatch: pytest.MonkeyPatch
):
    past = PastKeeper(market.pool, Clock())
    monkeypatch.setattr(past, "_begin", lambda: None)

    def away(*_: Any) -> None:
        raise OperationalError("gone")

    monkeypatch.setattr("pale_harbor.work.delivery.past.add_asked", away)
    for number in range(3):
        past.note(asked(market_id, query=f"query {number}"))
    assert past.keep() is False
    monkeypatch.setattr("pale_harbor.work.delivery.past.MOST_HELD", 2)
    past.note(asked(market_id, query="query 3"))
    assert past.lost == 2
    monkeypatch.setattr("pale_harbor.work.delivery.past.add_asked", add_asked)
    assert past.keep() is True
    assert sorted(kept(market)) == ["query 2", "query 3"]
    assert MOST_HELD == 50_000


def test_of_a_collection_that_was_dropped_nothing_is_kept(market: Workbench, market_id: int):
    market.drop_collection("market")
    with market.pool.connection() as connection:
        add_asked(connection, [asked(market_id)])
    assert kept(market) == []


def test_after_its_days_only_counts_are_left(market: Workbench, market_id: int):
    today = datetime.now(tz=UTC)

    def days_ago(days: float, **more: Any) -> AskedQuery:
        return asked(market_id, at=today - timedelta(days=days), **more)

    clicked, given_up, nothing, further = (
        days_ago(12),
        days_ago(12),
        days_ago(12, found=0, shown=[]),
        days_ago(12, skip=10),
    )
    narrowed = days_ago(12, query=" ", narrowed={"filters": ["place is Quay"]})
    with market.pool.connection() as connection:
        add_asked(connection, [clicked, given_up, nothing, further, narrowed, days_ago(1)])
        add_event(connection, market_id, clicked.id, "click", "s1")
        add_event(connection, market_id, clicked.id, "success", "s1")
        connection.execute("update asked_events set at = now() - interval '12 days'")
        assert days_kept(connection) == [(market_id, 90)]
        assert count_and_forget(connection, market_id, 13) == 0
        assert count_and_forget(connection, market_id, 10) == 5
        counted = connection.execute(
            "select query, asked, found_nothing, given_up, succeeded from asked_counts"
        ).fetchall()
        assert counted == [("eel", 3, 1, 1, 1)]
        assert connection.execute("select count(*) from asked_events").fetchone() == (0,)
        # More of the same day is added to it.
        add_asked(connection, [days_ago(12)])
        count_and_forget(connection, market_id, 10)
        assert connection.execute("select asked, given_up from asked_counts").fetchall() == [(4, 2)]
    assert kept(market) == ["eel"]


def test_each_collection_forgets_after_its_own_days(market: Workbench, market_id: int):
    keeping.change_settings(market, "market", DeliverySettings(kept_days=10))
    week_ago = datetime.now(tz=UTC) - timedelta(days=7)
    long_ago = datetime.now(tz=UTC) - timedelta(days=12)
    with market.pool.connection() as connection:
        add_asked(connection, [asked(market_id, at=week_ago, query="kept"), asked(market_id, at=long_ago)])
    assert forget_past(market.pool) == 1
    assert kept(market) == ["kept"]
    assert forget_past(market.pool) == 0
    # What was asked on the day itself goes with the whole of that day.
    keeping.change_settings(market, "market", DeliverySettings(kept_days=7))
    assert forget_past(market.pool) == 0
    keeping.change_settings(market, "market", DeliverySettings(kept_days=6))
    assert forget_past(market.pool) == 1


# How often


def test_an_address_that_asks_too_often_uses_up_nothing_of_the_others():
    rates = Rates(clock=lambda: 0.0)
    told = [rates.count(1, "10.0.0.7", 3, 2) for _ in range(4)]
    assert [one.is_allowed for one in told] == [True, True, False, False]
    assert [one.left for one in told[1].allowances] == [0, 1]
    other = [rates.count(1, "10.0.0.8", 3, 2) for _ in range(2)]
    assert [one.is_allowed for one in other] == [True, False]
    assert rates.count(2, "10.0.0.7", 3, 2).is_allowed


def test_allowances_are_told_in_the_standards_headers():
    rates = Rates(clock=lambda: 30.5)
    headers = rates.count(1, "10.0.0.7", 3, 1).headers
    assert headers["RateLimit-Policy"] == '"each";q=1;w=60, "key";q=3;w=60'
    each, whole = headers["RateLimit"].split(", ")
    assert (each, whole) == ('"each";r=0;t=30', '"key";r=2;t=30')
    assert "Retry-After" not in headers
    assert rates.count(1, "10.0.0.7", 3, 1).headers["Retry-After"] == "30"


def test_an_allowance_is_whole_again_with_the_next_minute():
    now = [59.9]
    rates = Rates(clock=lambda: now[0])
    assert [rates.count(1, "10.0.0.7", 9, 1).is_allowed for _ in range(2)] == [True, False]
    assert rates.count(1, "10.0.0.7", 9, 1).allowances[0].seconds == 1
    now[0] = 60.0
    (each, _) = rates.count(1, "10.0.0.7", 9, 1).allowances
    assert (each.left, each.seconds) == (0, 60)
    assert not rates.count(1, "10.0.0.7", 9, 1).is_allowed


# Keys


def test_keys_are_told_without_what_is_shown(market: Workbench):
    token = key_for(market, FOR_ALL)
    (told,) = keeping.keys_told(market, "market")
    assert (told.kind, told.label, told.terms, told.ended) == ("visitor", "the market's page", FOR_ALL, False)
    assert token not in repr(told)
    keeping.revoke(market, "market", told.id)
    assert keeping.keys_told(market, "market")[0].ended
    with pytest.raises(NotFound, match="no key of that number"):
        keeping.revoke(market, "market", told.id)
    with pytest.raises(NotFound, match="no key of that number"):
        keeping.change_terms(market, "market", told.id, "x", visitor_terms({}))


@pytest.mark.parametrize(
    ("terms", "words"),
    [
        ({"shown": ["colour"]}, 'shown: the collection has no field "colour"'),
        ({"searched": ["colour"]}, 'searched: the collection has no field "colour"'),
        ({"filters": [{"field": "colour", "has": True}]}, 'filters: the collection has no field "colour"'),
        ({"version": 1}, '"version" is one of a ranker'),
    ],
)
def test_terms_that_mean_nothing_are_refused(market: Workbench, terms: dict[str, Any], words: str):
    with pytest.raises(BadInput) as told:
        key_for(market, terms)
    assert words in str(told.value)


def test_terms_of_a_ranker_that_is_not_there_are_refused(market: Workbench):
    with pytest.raises(NotFound, match='There is no ranker "stall"'):
        key_for(market, {"ranker": "stall"})


def test_recipes_read_the_database_alone(market: Workbench):
    with market.pool.connection() as connection:
        collection = collection_named(connection, "market")
    ranker = market.choose(collection, RankerChoice()).ranker
    assert [type(one).__name__ for one in recipe_of(market.pool, collection, ranker).sources][:2] == [
        "PastQueries",
        "FieldValues",
    ]
    assert UUID(int=0) != collection.uid
