"""What is told of what visitors asked: by query, by day, by session, by clicks, and of two rankers."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any
from uuid import uuid4

import orjson
import pytest

from pale_harbor.core.traffic.rewriting import Rewritten
from pale_harbor.core.traffic.taste import Taste, clicks_on
from pale_harbor.errors import BadInput
from pale_harbor.formats.past_queries import PastQuery
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.delivery.asked import AskedQuery, EventKind, add_asked, add_event
from pale_harbor.store.judging.judged_sets import SetQuery, queries_of, set_named
from pale_harbor.work.delivery import past_told, publishing, sampling
from pale_harbor.work.delivery.confirming import ConfirmingWanted, confirming_task
from pale_harbor.work.delivery.logs import load_log
from pale_harbor.work.delivery.offering import offer_asked
from pale_harbor.work.delivery.past_told import CandidateTold
from pale_harbor.work.judging.sets import make_judged_set, put_query
from pale_harbor.work.judging.tasks import Said, judge_says, work_of_judge
from pale_harbor.work.ranking.past_queries import past_queries_told
from pale_harbor.work.workbench import Workbench
from tests.delivery import READINGS, open_market

NOW = datetime.now(tz=UTC)


class Log:
    """What visitors did, written down as if it had just happened."""

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench
        with bench.pool.connection() as connection:
            self.collection = collection_named(connection, "market").id

    def asked(self, query: str, *, clicked: str = "", succeeded: str = "", days_ago: float = 0.0, **more: Any) -> None:
        usual: dict[str, Any] = {"found": 2, "shown": ["s1", "s2"], "session": None, "elapsed_ms": 5.0}
        one = AskedQuery(
            id=uuid4(),
            collection_id=self.collection,
            at=NOW - timedelta(days=days_ago),
            key_id=None,
            query=query,
            ranker="stalls",
            version=1,
            **(usual | more),
        )
        with self.bench.pool.connection() as connection:
            add_asked(connection, [one])
            kinds: tuple[tuple[EventKind, str], ...] = (("click", clicked), ("success", succeeded))
            for kind, key in kinds:
                if key:
                    add_event(connection, self.collection, one.id, kind, key)


@pytest.fixture
def market(bench: Workbench, tmp_path: Path) -> Workbench:
    return open_market(bench, tmp_path)


@pytest.fixture
def log(market: Workbench) -> Log:
    return Log(market)


def queries(market: Workbench, order: Any, days: int = 7) -> list[str]:
    return [one.query for one in past_told.past_told(market, "market", order, days, 100).queries]


def test_a_query_is_the_same_whatever_its_capitals_and_blanks(market: Workbench, log: Log):
    for query in ("Eel", "eel", " eel ", "eel", "smoked   eel"):
        log.asked(query)
    # Further down the same list is no new asking, and nothing is no query.
    log.asked("eel", skip=10)
    log.asked("  ")
    told = past_told.past_told(market, "market", "frequent", 7, 100).queries
    assert [(one.query, one.asked) for one in told] == [("eel", 4), ("smoked   eel", 1)]


def test_capitals_of_every_script_are_the_same(market: Workbench, log: Log):
    for query in ("Ærlig Øy", "ærlig øy", "ÆRLIG\u00a0ØY", "МАЯК", "маяк", "A\u030alesund", "\u00e5lesund"):
        log.asked(query)
    told = past_told.past_told(market, "market", "frequent", 7, 100).queries
    assert [one.asked for one in told] == [3, 2, 2]


def test_each_order_tells_of_what_it_is_about(market: Workbench, log: Log):
    log.asked("eel", clicked="s1")
    log.asked("eel", clicked="s1")
    log.asked("eel", clicked="s1", succeeded="s1")
    log.asked("twine")
    log.asked("unicorn", found=0, shown=[])
    log.asked("slow one", elapsed_ms=900.0, clicked="s1", left_out=["facets"])
    assert queries(market, "frequent")[0] == "eel"
    assert queries(market, "nothing") == ["unicorn"]
    assert queries(market, "given_up") == ["twine"]
    assert queries(market, "slow")[0] == "slow one"
    assert set(queries(market, "unjudged")) == {"eel", "twine", "unicorn", "slow one"}
    by_query = {one.query: one for one in past_told.past_told(market, "market", "frequent", 7, 100).queries}
    eel = by_query["eel"]
    assert (eel.asked, eel.clicked, eel.given_up, eel.succeeded, eel.nothing) == (3, 3, 0, 1, 0)
    assert by_query["slow one"].cut == 1
    # What found nothing was not given up: there was nothing to click.
    assert (by_query["unicorn"].nothing, by_query["unicorn"].given_up) == (1, 0)


def test_what_is_judged_is_told_whatever_its_capitals(market: Workbench, log: Log):
    log.asked("Eel  Traps")
    make_judged_set(market, "market", "buyers", 0.0)
    put_query(market, "market", "buyers", SetQuery(query_id="1", query="eel traps"))
    (told,) = past_told.past_told(market, "market", "frequent", 7, 100).queries
    assert told.judged == 1
    assert queries(market, "unjudged") == []


@pytest.mark.parametrize(("before", "since", "is_told"), [(0, 4, False), (0, 5, True), (5, 12, False), (3, 12, True)])
def test_rising_is_what_is_asked_clearly_more(market: Workbench, log: Log, before: int, since: int, is_told: bool):
    # Two standard deviations of what chance would do: 12 against 5 are 7 of sqrt(17) = 4.1, which is 1.7 of them.
    for _ in range(before):
        log.asked("eel", days_ago=5)
    for _ in range(since):
        log.asked("eel", days_ago=1)
    assert queries(market, "rising") == (["eel"] if is_told else [])


def test_what_is_older_is_not_told(market: Workbench, log: Log):
    log.asked("eel", days_ago=8)
    log.asked("twine", days_ago=6)
    assert queries(market, "frequent", 7) == ["twine"]
    assert queries(market, "frequent", 9) == ["eel", "twine"]


def test_days_count_what_is_kept_and_what_is_left_of_older_ones(market: Workbench, log: Log):
    log.asked("eel", days_ago=2, clicked="s1", succeeded="s1")
    log.asked("unicorn", days_ago=2, found=0)
    log.asked("twine", days_ago=0)
    # Only narrowed: no query was asked.
    log.asked("", days_ago=0)
    with market.pool.connection() as connection:
        connection.execute(
            """
            insert into asked_counts (collection_id, day, query, asked, found_nothing, given_up, succeeded)
            values (%s, %s, 'eel', 40, 3, 9, 11)
            """,
            [log.collection, (NOW - timedelta(days=20)).date()],
        )
    days = past_told.past_told(market, "market", "frequent", 30, 1).days
    assert [(one.asked, one.nothing, one.given_up, one.succeeded) for one in days] == [
        (40, 3, 9, 11),
        (2, 1, 0, 1),
        (1, 0, 1, 0),
    ]


def test_what_visitors_typed_next_is_told_by_session(market: Workbench, log: Log):
    for session in ("visitor-1", "visitor-2"):
        log.asked("smokd eel", session=session, found=0, days_ago=0.0002)
        log.asked("smoked eel", session=session, clicked="s1")
    log.asked("rope", session="visitor-3", days_ago=0.0002)
    log.asked("twine", session="visitor-4", clicked="s4")
    (told,) = past_told.rewritings_told(market, "market", 7)
    assert (told.first, told.then, told.kind, told.sessions) == (
        "smokd eel",
        "smoked eel",
        Rewritten.SLIP,
        2,
    )


def test_clicks_suggest_grades_for_whoever_was_read_often_enough(market: Workbench, log: Log):
    random, taste = Random(3), Taste()
    grades = {"s1": 0, "s2": 3, "s3": 1}
    for _ in range(120):
        shown = random.sample(list(grades), 3)
        clicks = clicks_on([grades[key] for key in shown], taste, random)
        clicked = shown[clicks.places[-1]] if clicks.places else ""
        log.asked("eel", shown=shown, clicked=clicked, succeeded=clicked if clicks.is_satisfied else "")
    # Too little to say anything.
    log.asked("twine", shown=["s4"], clicked="s4")
    # Narrowed lists are others.
    log.asked("eel", shown=["s4"], clicked="s4", narrowed={"filters": ["place is Yard"]})
    told = past_told.suggested_grades(market, "market", 7)
    assert [one.title for one in told][:1] == ["Eel traps"]
    assert {one.query for one in told} == {"eel"}
    by_key = {one.key: one for one in told}
    assert (told[0].key, told[0].grade) == ("s2", 3)
    assert by_key["s2"].low <= 3 <= by_key["s2"].high
    assert all(by_key[key].grade < 3 for key in by_key if key != "s2")
    assert "s4" not in by_key
    assert past_told.suggested_grades(market, "market", 7, " EEL ") == told
    assert past_told.suggested_grades(market, "market", 7, "herring") == []


def eels_clicked(log: Log, query: str = "Eel") -> None:
    for number in range(8):
        log.asked(query, shown=["s1", "s2"], clicked="s1", succeeded="s1", language="en", days_ago=number / 100)


def confirming_wanted(**more: Any) -> ConfirmingWanted:
    return replace(ConfirmingWanted(name="what clicks say", judges=("Vesna",), days=7), **more)


def test_judges_confirm_what_clicks_suggest_without_seeing_it(market: Workbench, log: Log):
    eels_clicked(log)
    make_judged_set(market, "market", "buyers", 0.0)
    links = confirming_task(market, "market", "buyers", confirming_wanted())
    ((_, token),) = links.items()
    work = work_of_judge(market, token)
    # The query came into the set as it was typed, with how often and in which language.
    (query,) = work.queries
    assert (query.query, query.asked, query.language) == ("Eel", 8, "en")
    assert work.items == {query.query_id: ["s1"]}
    assert work.said == []
    grade = Said(query_id=query.query_id, record_key="s1", grade=1, note="", at=NOW, taken_back=False)
    assert judge_says(market, token, [grade]) == 1
    # What has a grade needs no confirming, whatever clicks say.
    with pytest.raises(BadInput, match="Nothing is left to confirm"):
        confirming_task(market, "market", "buyers", confirming_wanted(judges=("Another",)))


def test_a_query_that_is_in_the_set_is_confirmed_there(market: Workbench, log: Log):
    eels_clicked(log)
    eels_clicked(log, "twine")
    make_judged_set(market, "market", "buyers", 0.0)
    put_query(market, "market", "buyers", SetQuery(query_id="narrow", query="eel", filters=[{"place": "Yard"}]))
    put_query(market, "market", "buyers", SetQuery(query_id="own", query=" EEL"))
    links = confirming_task(market, "market", "buyers", confirming_wanted(queries=("eel ",)))
    ((_, token),) = links.items()
    assert work_of_judge(market, token).items == {"own": ["s1"]}


def test_a_task_that_cannot_be_changes_no_set(market: Workbench, log: Log):
    eels_clicked(log)
    make_judged_set(market, "market", "buyers", 0.0)
    with pytest.raises(BadInput, match="Name who judges"):
        confirming_task(market, "market", "buyers", confirming_wanted(judges=(" ",)))
    with pytest.raises(BadInput, match="Nothing is left to confirm"):
        confirming_task(market, "market", "buyers", confirming_wanted(queries=("twine",)))
    with market.pool.connection() as connection:
        own = collection_named(connection, "market").id
        assert queries_of(connection, set_named(connection, own, "buyers").id) == []


def test_what_visitors_asked_becomes_past_queries_where_several_did(market: Workbench, log: Log):
    for session in ("v1", "v1", "v2"):
        log.asked("Smoked eel" if session == "v1" else "smoked  EEL", session=session, language="en")
    # One visitor alone, however often; two, who found nothing; two askings of a log that tells no session.
    for _ in range(5):
        log.asked("my own name", session="v3")
    for session in ("v1", "v2"):
        log.asked("unicorn", session=session, found=0)
    for _ in range(2):
        log.asked("rope")
    told = offer_asked(market, "market", 7, 2)
    assert told.first == [PastQuery("Smoked eel", 3, "en"), PastQuery("rope", 2, "")]
    assert told.kept is not None
    assert told.kept.source.startswith("what visitors asked in 7 days")
    with pytest.raises(BadInput, match="nothing is kept that 4 visitors asked"):
        offer_asked(market, "market", 7, 4)
    # Refused, it takes nothing away.
    assert past_queries_told(market, "market").kept == told.kept


def test_what_is_found_by_now_is_offered_whatever_it_was_before(market: Workbench, log: Log):
    for session in ("v1", "v2"):
        log.asked("eel", session=session, found=0, days_ago=1)
        log.asked("twine", session=session, days_ago=1)
    log.asked("eel", session="v3", found=2)
    log.asked("twine", session="v3", found=0)
    assert [one.query for one in offer_asked(market, "market", 7, 3).first] == ["eel"]


def mixed(log: Log, session: str, query: str, teams: str, clicked: str = "", **more: Any) -> None:
    log.asked(
        query,
        session=session,
        teams=teams,
        candidate_ranker="stalls",
        candidate_version=2,
        clicked=clicked,
        **more,
    )


def with_candidate(market: Workbench, *, mixed: bool = True) -> None:
    market.put_ranker("market", "stalls", ranker_document({"readings": READINGS[:1]}))
    publishing.offer_candidate(market, "market", "stalls", 2, 0.5, "", mixed=mixed)
    with market.pool.connection() as connection:
        connection.execute("update publications set at = at - interval '1 hour'")


def standing(market: Workbench) -> CandidateTold:
    told = past_told.candidate_told(market, "market")
    assert told is not None
    return told


def test_a_session_decides_once_on_a_query(market: Workbench, log: Log):
    with_candidate(market)
    mixed(log, "visitor-1", "eel", "lc", clicked="s2")
    # The same list again is no second vote, whatever is clicked of it.
    mixed(log, "visitor-1", "eel", "lc", clicked="s2")
    mixed(log, "visitor-2", "eel", "lc", clicked="s1")
    mixed(log, "visitor-2", "twine", "cl", clicked="s1")
    mixed(log, "visitor-3", "eel", "lc")
    told = standing(market)
    assert (told.wins, told.losses, told.ties) == (2, 1, 1)
    assert not told.ends
    assert told.verdict.startswith("2 of 3 preferred the candidate")


def test_lists_of_before_and_of_other_candidates_do_not_count(market: Workbench, log: Log):
    with_candidate(market)
    mixed(log, "visitor-1", "eel", "lc", clicked="s2", days_ago=2)
    log.asked("eel", session="visitor-2", teams="lc", candidate_ranker="stalls", candidate_version=3, clicked="s2")
    told = standing(market)
    assert (told.wins, told.losses, told.ties) == (0, 0, 0)
    assert told.verdict == "No visitor has preferred one to the other yet."


@pytest.mark.parametrize(("wins", "ends"), [(14, False), (15, True)])
def test_it_ends_once_it_is_sure(market: Workbench, log: Log, wins: int, ends: bool):
    with_candidate(market)
    for number in range(wins):
        mixed(log, f"visitor-{number}", "eel", "lc", clicked="s2")
    told = standing(market)
    assert told.ends is ends
    assert told.verdict.startswith("The candidate is preferred" if ends else f"{wins} of {wins} preferred")


def test_what_cannot_be_told_of_a_candidate(market: Workbench):
    assert past_told.candidate_told(market, "market") is None
    with_candidate(market, mixed=False)
    with pytest.raises(BadInput, match="This candidate's lists are its own"):
        past_told.candidate_told(market, "market")


def test_a_sample_becomes_a_judged_set_whose_weights_are_the_traffic(market: Workbench, log: Log):
    with pytest.raises(BadInput, match="Nothing was asked in the last 7 days"):
        sampling.sample_to_set(market, "market", "sample", 7, 5, 1, 0.0)
    for number in range(12):
        for _ in range(12 - number):
            log.asked(f"query {number}")
    drawn = sampling.sample_to_set(market, "market", "sample", 7, 6, 1, 0.0)
    assert len(drawn) == 6
    assert round(sum(one.weight for one in drawn)) == sum(range(1, 13))
    with market.pool.connection() as connection:
        own = collection_named(connection, "market").id
        kept = queries_of(connection, set_named(connection, own, "sample").id)
    assert [(one.query, one.tags, one.asked) for one in kept] == [
        (one.query, [one.stratum], max(1, round(one.weight))) for one in drawn
    ]
    with pytest.raises(BadInput, match='There is a judged set "sample" already'):
        sampling.sample_to_set(market, "market", "sample", 7, 6, 1, 0.0)


def test_the_log_of_another_search_is_told_beside_ours_and_counts_once(market: Workbench, log: Log):
    log.asked("eel", clicked="s1")
    moment = (NOW - timedelta(hours=1)).isoformat()
    rows = [
        {"query": "eel", "at": moment, "session": "v1", "found": 2, "clicked": ["s1"], "succeeded": ["s1"]},
        {"query": "eel", "at": moment, "session": "v1", "found": 2},
        {"query": "tar", "at": moment, "session": "v1", "found": 0},
        {"query": "rope", "at": moment},
    ]
    text = "".join(orjson.dumps(row).decode() + "\n" for row in rows)
    told = load_log(market, "market", text, "log.jsonl")
    assert (told.queries, told.added) == (4, 4)
    assert load_log(market, "market", text, "the same.jsonl").added == 0
    by_query = {one.query: one for one in past_told.past_told(market, "market", "frequent", 7, 100).queries}
    eel = by_query["eel"]
    assert (eel.asked, eel.clicked, eel.given_up, eel.succeeded) == (3, 2, 1, 1)
    assert (by_query["tar"].nothing, by_query["rope"].nothing, by_query["rope"].found) == (1, 0, None)
    # How long another search took nobody knows.
    assert queries(market, "slow") == ["eel"]
    # Nor where a record stood that was clicked: such clicks suggest nothing.
    assert past_told.suggested_grades(market, "market", 7) == []


def test_a_log_with_one_wrong_line_is_not_kept_at_all(market: Workbench, log: Log):
    with pytest.raises(BadInput, match="cannot be used"):
        load_log(market, "market", "query,at\neel,2031-05-01\ntwine,yesterday\n", "log.csv")
    assert past_told.past_told(market, "market", "frequent", 3_650, 100).queries == []
