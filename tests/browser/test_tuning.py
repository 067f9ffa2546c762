"""Tuning in the browser: knobs chosen, the best so far as it rises, and the finding made the draft."""

import re

from playwright.sync_api import FilePayload, Page, expect

from tests.browser.test_every_view import UNREADABLE, faults

FIRST = "/saltmere/tuning?ranker=first:1"


def form(page: Page):
    return page.get_by_role("form", name="What is tuned")


def only(page: Page, *knobs: str) -> None:
    """Ticks these knobs and no other."""
    form(page).get_by_label("All usual knobs").click()
    for knob in knobs:
        form(page).get_by_label(f"Tune {knob}", exact=True).check()


def found(page: Page):
    return page.get_by_role("region", name="What was found")


def test_a_ranker_is_tuned_and_the_finding_becomes_the_draft_by_one_key(page: Page):
    page.goto(FIRST)
    expect(form(page).get_by_role("heading")).to_have_text("first 1")
    expect(found(page)).to_contain_text("Nothing was tuned yet")
    only(page, "title weight", "description b")
    form(page).get_by_label("Values of title weight").fill("1..3/0.5")
    form(page).get_by_label("Guard rails, one a line").fill("index at most 1x")
    form(page).get_by_role("button", name="Tune 2 knobs").click()
    expect(found(page).get_by_role("heading", level=2)).to_have_text(
        re.compile(r"on 99 queries held out ndcg@10 goes from 0\.504 to 0\.\d{3}"), timeout=180_000
    )
    expect(page).to_have_url(re.compile(r"tuning=\d+"))
    offered = found(page).get_by_label("The simplest that is as good within luck")
    expect(offered).to_contain_text("title weight 3 → ")
    expect(found(page)).to_contain_text("kept index at most 1x")
    expect(found(page).get_by_role("img", name="title weight from 1 to 3")).to_be_visible()
    expect(found(page).get_by_role("region", name="Surface of two knobs").get_by_role("cell")).not_to_have_count(0)
    promised = offered.locator(".figure").first.inner_text().split(" → ")[1]
    page.keyboard.press("m")
    # The meter measures the draft at just what was promised.
    expect(page.get_by_role("banner").get_by_role("link")).to_contain_text(promised)
    expect(form(page).get_by_role("heading")).to_have_text("The draft of first 1")
    assert faults(page) == []
    assert page.evaluate(UNREADABLE) == []


def test_a_chain_is_tuned_by_two_measures(page: Page):
    page.goto(FIRST)
    only(page, "title chain")
    chains = form(page).get_by_label("Values of title chain")
    expect(chains).to_have_value(re.compile("^nfkc > words > lower > accents > stopwords"))
    chains.fill("nfkc > words > lower | words > lower > accents")
    form(page).get_by_role("button", name="and by another measure").click()
    form(page).get_by_label("Measure 2", exact=True).select_option("RR")
    form(page).get_by_label("Weight of measure 2").fill("2")
    form(page).get_by_role("button", name="one more measure").click()
    form(page).get_by_role("button", name="Leave measure 3 out").click()
    with page.expect_request(re.compile(r"/judged/visitors/tunings$")) as asked:
        form(page).get_by_role("button", name="Tune 1 knob").click()
    plan = asked.value.post_data_json
    assert plan is not None
    assert plan["measures"] == [{"measure": "ndcg@10", "weight": 1}, {"measure": "rr", "weight": 2}]
    assert plan["knobs"] == ["readings[0].chain=nfkc > words > lower | words > lower > accents"]
    expect(found(page).get_by_role("heading", level=2)).to_contain_text("nothing that was tried is better")
    # Three chains: those that were named, and the one that stands.
    expect(found(page)).to_contain_text("title chain")
    # The form holds what was chosen, and lets go of it again.
    form(page).get_by_role("button", name="Leave measure 1 out").click()
    form(page).get_by_role("button", name="Leave measure 1 out").click()
    expect(form(page)).to_contain_text("by nDCG@10 on the open queries of visitors")


def test_what_cannot_be_tuned_is_said_where_it_is_asked(page: Page):
    page.goto(FIRST)
    only(page)
    expect(form(page).get_by_role("button", name="Tune 0 knobs")).to_be_disabled()
    form(page).get_by_label("Other knobs, one a line").fill("readings.titel.weight=0..3")
    form(page).get_by_role("button", name="Tune 1 knob").click()
    expect(form(page).get_by_role("alert")).to_contain_text("Its readings: title, description")
    # What was typed is held while another place is looked at.
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Measures").click()
    page.get_by_role("link", name="Tuning").click()
    expect(form(page).get_by_label("Other knobs, one a line")).to_have_value("readings.titel.weight=0..3")


def test_a_long_tuning_shows_how_the_best_rises_and_is_stopped_with_what_it_has(page: Page):
    page.goto(FIRST)
    form(page).get_by_label("Search", exact=True).select_option("at random")
    form(page).get_by_label("Seconds").fill("300")
    form(page).get_by_role("button", name=re.compile("^Tune 13 knobs")).click()
    expect(found(page).get_by_role("status")).to_contain_text(re.compile(r"settings tried, best so far 0\.\d{3}"))
    expect(found(page).get_by_role("img", name=re.compile(r"^From 0\.504 to"))).to_be_visible()
    found(page).get_by_role("button", name="Stop and keep what was found").click()
    expect(found(page)).to_contain_text("it was stopped")
    expect(found(page).get_by_label("The simplest that is as good within luck")).to_be_visible()
    earlier = page.get_by_role("region", name="Tunings").get_by_role("button")
    before = earlier.count()
    found(page).get_by_role("button", name="Forget it").click()
    expect(earlier).to_have_count(before - 1)


def test_the_ledger_tells_what_each_part_earns_and_a_part_is_left_out_of_the_draft(page: Page):
    page.goto("/saltmere/tuning?ranker=first:1&view=ledger")
    ledger = page.get_by_role("region", name="The ledger")
    expect(ledger).to_contain_text("Not told yet")
    ledger.get_by_role("button", name="Make the ledger").click()
    # Eighteen parts, each asked for all queries: on a busy machine that takes its time.
    expect(ledger.get_by_role("button", name="Make it anew")).to_be_visible(timeout=240_000)
    rows = ledger.locator("tbody tr")
    expect(rows.first).to_contain_text("earns nothing")
    title = rows.filter(has_text="reading title")
    expect(title).to_contain_text("+0.213")
    title.get_by_role("button").click()
    moved = ledger.locator("tbody li")
    expect(moved.first).to_contain_text("without it")
    ledger.get_by_role("button", name="Leave it out of the draft").click()
    # The meter measures what the ledger said: 0.504 less 0.213.
    expect(page.get_by_role("banner").get_by_role("link")).to_contain_text("0.291")
    # Of this draft nothing was told yet.
    expect(ledger).to_contain_text("What each part of the draft of first 1 earns")
    expect(ledger).to_contain_text("Not told yet")
    page.go_back()
    expect(title).to_be_visible()
    assert faults(page) == []
    assert page.evaluate(UNREADABLE) == []


def test_the_worst_queries_are_grouped_by_what_ails_them_and_a_remedy_is_taken_into_the_draft(page: Page):
    page.goto("/saltmere/tuning?ranker=first:1&view=remedies")
    view = page.get_by_role("region", name="What would help")
    expect(view).to_contain_text("Not looked for yet")
    view.get_by_role("button", name="Look for remedies").click()
    expect(view.get_by_role("button", name="Make it anew")).to_be_visible(timeout=240_000)
    unknown = view.get_by_role("region", name="Words that no record holds")
    expect(unknown).to_contain_text("harpon")
    expect(unknown).to_contain_text("without “harpon”")
    slack = unknown.get_by_role("button", name="spelling slack by the length of the word", exact=True)
    row = slack.locator("xpath=ancestor::tr")
    gain = row.get_by_role("cell").first.inner_text()
    assert gain.startswith("+0.")
    slack.click()
    expect(unknown.get_by_text("0.000 to 1.000").first).to_be_visible()
    assert faults(page) == []
    assert page.evaluate(UNREADABLE) == []
    unknown.get_by_role("button", name="Take it into the draft").click()
    # The meter measures just the gain that was told.
    expect(page.get_by_role("banner").get_by_role("link")).to_contain_text(gain)
    expect(view).to_contain_text("What would help the draft of first 1")


def test_a_synonym_that_was_found_is_kept_as_a_list_and_read_by_the_draft(page: Page):
    page.goto("/saltmere/tuning?ranker=first:1&view=remedies")
    view = page.get_by_role("region", name="What would help")
    words = "“wetterglas” and “barometer” in title, by @synonyms"
    view.get_by_role("button", name=words).click(timeout=240_000)
    expect(view).to_contain_text("It keeps version 1 of @synonyms.")
    view.get_by_role("button", name="Take it into the draft").click()
    expect(page.get_by_role("banner").get_by_role("link")).to_contain_text("▲1 ▼0 of 99")
    page.goto("/saltmere/chains?ranker=first:1")
    expect(page.get_by_role("main")).to_contain_text("synonyms")


def test_a_collection_without_judgments_is_tuned_on_queries_made_up_from_its_records(page: Page):
    page.goto("/saltmere/records?view=import")
    ships = "petrel tern gannet plover dunlin curlew avocet knot".split()
    rows = "".join(f"s{i},The {ship} of Saltmere\n" for i, ship in enumerate(ships))
    file: FilePayload = {"name": "ships.csv", "mimeType": "text/csv", "buffer": f"id,title\n{rows}".encode()}
    page.get_by_label("File to import").set_input_files(file)
    page.get_by_label("Collection to import into").fill("made-up")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page).to_have_url(re.compile("/made-up/records"))
    page.get_by_role("button", name="Tune the first ranker on made-up queries").click()
    expect(page).to_have_url(re.compile(r"/made-up/tuning\?.*set=simulated"))
    expect(found(page).get_by_role("note")).to_have_text("Kept as start:2, since the gain holds.", timeout=180_000)
    expect(page.get_by_role("banner")).to_contain_text("simulated")


def test_a_tick_at_an_import_has_its_first_ranker_tuned_without_another_word(page: Page):
    page.goto("/saltmere/records?view=import")
    ships = "petrel tern gannet plover dunlin curlew avocet knot".split()
    rows = "".join(f"s{i},The {ship} of Saltmere\n" for i, ship in enumerate(ships))
    file: FilePayload = {"name": "ships.csv", "mimeType": "text/csv", "buffer": f"id,title\n{rows}".encode()}
    tick = page.get_by_role("checkbox", name="and tune the first ranker on made-up queries")
    page.get_by_label("File to import").set_input_files(file)
    # Where records and rankers are there already nothing is tuned behind anybody's back.
    page.get_by_label("Collection to import into").fill("saltmere")
    expect(page.get_by_role("button", name="See what it would do")).to_be_visible()
    expect(tick).to_be_hidden()
    page.get_by_label("Collection to import into").fill("ticked")
    tick.check()
    page.get_by_role("button", name="Import", exact=True).click()
    page.get_by_role("link", name=re.compile("the first ranker")).click(timeout=60_000)
    expect(found(page).get_by_role("note")).to_have_text("Kept as start:2, since the gain holds.", timeout=180_000)
