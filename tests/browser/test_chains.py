"""The Chains place: two texts meet, and what is wrong is shown where it is."""

import re

from playwright.sync_api import Page, Route, expect

from tests.conftest import ROOT

PLAIN = "rc=words+%3E+lower"


def test_the_records_text_and_the_query_meet_at_the_quay_line(page: Page):
    page.goto("/saltmere/chains?q=the+lighthouse+keepers&key=sm0035&field=title")
    meeting = page.get_by_role("table", name="Meeting")
    expect(meeting.locator("tr[data-stage='record words']")).to_contain_text("keeper's")
    expect(meeting.locator("tr[data-stage='record stem(en)']")).to_contain_text("lighthous")
    expect(meeting.locator("tr[data-stage='query words']")).to_contain_text("keepers")
    expect(meeting.locator("tr[data-stage='query stopwords(en)']")).to_contain_text("dropped")
    expect(page.get_by_label("The record's text").locator("mark")).to_have_text(["Lighthouse", "keeper's"])


def test_typing_notation_changes_what_meets(page: Page):
    page.goto(f"/saltmere/chains?q=harpoons&key=sm0002&field=title&{PLAIN}")
    nobody = page.get_by_label("Terms that met nobody")
    expect(nobody).to_contain_text("harpoons")
    page.keyboard.press("e")
    page.keyboard.press("End")
    page.keyboard.type(" > stem(en)")
    expect(nobody).to_have_count(0)
    expect(page.get_by_label("The record's text").locator("mark")).to_have_text(["harpoon"])


def test_a_broken_chain_is_underlined_at_the_exact_place_and_mended_with_one_key(page: Page):
    page.goto(f"/saltmere/chains?q=harpoons&key=sm0002&field=title&{PLAIN}")
    chain = page.get_by_label("Record chain", exact=True)
    chain.fill("words > lower > stm(en)")
    expect(page.locator(".cm-lintRange-error")).to_have_text("stm")
    expect(page.get_by_role("alert")).to_contain_text(
        'Line 1, column 17: there is no stage "stm". Did you mean "stem"?'
    )
    chain.press("Alt+Enter")
    expect(chain).to_have_text("words > lower > stem(en)")
    expect(page.locator(".cm-lintRange-error")).to_have_count(0)
    expect(page.get_by_role("alert")).to_have_count(0)


def lit(page: Page, stage: str):
    return page.get_by_role("table", name="Meeting").locator(f"tr[data-stage='{stage}'] td[data-lit='true']")


def test_hovering_a_token_lights_its_descent_and_whom_it_meets(page: Page):
    page.goto("/saltmere/chains?q=keepers&key=sm0035&field=title")
    meeting = page.get_by_role("table", name="Meeting")
    meeting.locator("tr[data-stage='query words'] td", has_text="keepers").hover()
    for stage, text in (("record words", "keeper's"), ("record stem(en)", "keeper"), ("query stem(en)", "keeper")):
        expect(lit(page, stage)).to_have_text(text)


def test_arrows_light_one_word_after_another(page: Page):
    page.goto("/saltmere/chains?q=keepers&key=sm0035&field=title")
    page.get_by_role("group", name=re.compile("Words that meet")).focus()
    page.keyboard.press("ArrowRight")
    expect(lit(page, "record words")).to_have_text("Lighthouse")
    page.keyboard.press("ArrowRight")
    expect(lit(page, "record words")).to_have_text("keeper's")
    expect(lit(page, "query stem(en)")).to_have_text("keeper")
    page.keyboard.press("Escape")
    expect(lit(page, "record words")).to_have_count(0)


def test_the_query_may_have_a_chain_of_its_own(page: Page):
    page.goto(f"/saltmere/chains?q=harpoons&key=sm0002&field=title&{PLAIN}")
    page.get_by_label("Query chain", exact=True).fill("words > lower > stem(en)")
    expect(page.get_by_label("Terms that met nobody")).to_have_count(0)
    expect(page).to_have_url(re.compile("qc="))


def test_records_are_walked_through_and_a_text_of_ones_own_is_typed(page: Page):
    page.goto("/saltmere/chains?q=fog&key=sm0001&field=title")
    expect(page.get_by_label("The record's text")).to_have_text("Toggle-head harpoon")
    page.keyboard.press("n")
    expect(page.get_by_label("The record's text")).to_contain_text("Two-flued harpoon")
    page.keyboard.press("p")
    expect(page.get_by_label("The record's text")).to_have_text("Toggle-head harpoon")
    page.get_by_role("button", name="Type a text of your own").click()
    page.get_by_label("A text of your own").fill("FOG over the bay")
    expect(page.get_by_role("table", name="Meeting").locator("tr[data-stage='record words']")).to_contain_text("FOG")


def test_a_chain_is_saved_under_a_name(page: Page):
    page.goto(f"/saltmere/chains?q=fog&field=title&{PLAIN}")
    page.get_by_role("button", name="Save as").click()
    page.get_by_label("Name of the chain").fill("Not A Name")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Chains", exact=True)).to_contain_text("cannot be a name")
    page.get_by_label("Name of the chain").fill("lowered")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Chains", exact=True)).to_contain_text("Saved: @lowered, version 1")


def test_a_prefix_chain_is_built_from_nothing_by_keyboard_alone(page: Page):
    page.goto("/saltmere/chains?q=harp&key=sm0002&field=title")
    chain = page.get_by_label("Record chain", exact=True)
    expect(chain).to_be_visible()
    page.keyboard.press("e")
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    page.keyboard.type("wo")
    expect(page.get_by_role("listbox").get_by_role("option")).to_have_count(1)
    page.keyboard.press("Tab")
    page.keyboard.type(" > lo")
    page.keyboard.press("Enter")
    page.keyboard.type(" > pre")
    page.keyboard.press("Tab")
    page.keyboard.type("(2, 8)")
    expect(chain).to_have_text("words > lower > prefixes(2, 8)")
    page.keyboard.press("Escape")
    page.keyboard.press("w")
    page.keyboard.type("words > lower")
    page.keyboard.press("Escape")
    expect(page.get_by_label("The record's text").locator("mark")).to_have_text(["harpoon"])
    cards = page.get_by_role("list", name="Cards of the record chain").get_by_role("listitem")
    expect(cards).to_have_count(3)


def test_what_is_typed_right_after_an_offer_was_taken_stands_behind_it(page: Page):
    # On a busy machine the next letters come before the next frame.
    page.add_init_script("window.held = []; window.requestAnimationFrame = (act) => held.push(act)")
    page.goto(f"/saltmere/chains?q=fog&field=title&{PLAIN}")
    chain = page.get_by_label("Record chain", exact=True)
    expect(chain).to_be_visible()
    page.keyboard.press("e")
    page.keyboard.press("Control+a")
    page.keyboard.type("words > pre")
    expect(page.get_by_role("listbox").get_by_role("option")).to_have_count(1)
    page.keyboard.press("Tab")
    page.keyboard.type("(2")
    page.evaluate("held.forEach((act) => act())")
    page.keyboard.type(", 8)")
    expect(chain).to_have_text("words > prefixes(2, 8)")


LONGEST = "rc=words+%3E+lower+%3E+prefixes(2,+5)&qc=words+%3E+lower"


def test_the_doctor_says_that_a_query_is_longer_than_the_longest_gram_and_one_key_mends_it(page: Page):
    page.goto(f"/saltmere/chains?q=harpoon&key=sm0002&field=title&{LONGEST}")
    expect(page.get_by_label("Terms that met nobody")).to_contain_text("harpoon")
    doctor = page.get_by_role("region", name="Chain doctor")
    expect(doctor).to_contain_text("prefixes(2, 5) cuts pieces of at most 5 letters")
    expect(doctor).to_contain_text("has “harpoon”, of 7 letters")
    page.keyboard.press("m")
    expect(page.get_by_label("Record chain", exact=True)).to_have_text(
        re.compile(r"words > lower > prefixes\(2, \d+\)")
    )
    expect(doctor).not_to_contain_text("a longer word of a query can never match")
    expect(page.get_by_label("Terms that met nobody")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Record chain", exact=True)).to_have_text("words > lower > prefixes(2, 5)")


def card(page: Page, text: str):
    cards = page.get_by_role("list", name="Cards of the record chain")
    return cards.get_by_role("button", name=re.compile(f"^{re.escape(text)}"))


def test_a_stage_is_dragged_to_another_place(page: Page):
    page.goto("/saltmere/chains?q=fog&key=sm0001&field=title&rc=words+%3E+stem(en)+%3E+lower")
    card(page, "lower").drag_to(card(page, "stem(en)"))
    expect(page.get_by_label("Record chain", exact=True)).to_have_text("words > lower > stem(en)")


def test_cards_move_go_and_are_switched_off_by_keys(page: Page):
    page.goto("/saltmere/chains?q=fog&key=sm0001&field=title&rc=words+%3E+stem(en)+%3E+lower+%23+why")
    chain = page.get_by_label("Record chain", exact=True)
    expect(card(page, "words")).to_be_visible()
    page.keyboard.press("c")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Alt+ArrowLeft")
    expect(chain).to_have_text("words > lower > stem(en) # why")
    expect(card(page, "lower")).to_be_focused()
    page.keyboard.press(" ")
    expect(card(page, "lower, switched off")).to_be_focused()
    meeting = page.get_by_role("table", name="Meeting")
    expect(meeting.locator("tr[data-stage='record lower']")).to_have_count(0)
    expect(page).to_have_url(re.compile("ro=1"))
    page.keyboard.press(" ")
    expect(meeting.locator("tr[data-stage='record lower']")).to_have_count(1)
    page.keyboard.press("Delete")
    expect(chain).to_have_text("words > stem(en) # why")


def test_two_chains_stand_side_by_side_on_one_text(page: Page):
    page.goto("/saltmere/chains?key=sm0002&field=title&rc=words+%3E+lower")
    expect(page.get_by_label("The record's text")).to_contain_text("Two-flued harpoon")
    page.keyboard.press("b")
    status = page.get_by_role("region", name="Side by side").get_by_role("status")
    expect(status).to_contain_text("0 of")
    second = page.get_by_label("Second chain", exact=True)
    second.fill("blanks > lower")
    rows = page.get_by_role("table", name="Stretches").locator("tr[data-differs='true']")
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("two-flued")
    page.get_by_label("only what differs").check()
    expect(page.get_by_role("table", name="Stretches").locator("tr[data-differs='false']")).to_have_count(0)
    expect(page).to_have_url(re.compile("with=blanks"))


def test_four_chains_stand_side_by_side(page: Page):
    page.goto("/saltmere/chains?key=sm0002&field=title&rc=words+%3E+lower&with=blanks+%3E+lower")
    expect(page.get_by_label("Second chain", exact=True)).to_have_text("blanks > lower")
    more = page.get_by_role("button", name="compare one more chain")
    more.click()
    page.get_by_label("Third chain", exact=True).fill("letters")
    table = page.get_by_role("table", name="Stretches")
    expect(table.get_by_role("columnheader", name="third chain")).to_be_visible()
    expect(table.locator("tr[data-differs='true']").first).to_contain_text("Two")
    more.click()
    expect(page.get_by_label("Fourth chain", exact=True)).to_have_text("letters")
    expect(more).to_have_count(0)
    page.get_by_role("button", name="Take the third chain out").click()
    expect(page.get_by_label("Fourth chain", exact=True)).to_have_count(0)
    expect(page).to_have_url(re.compile("third=letters"))
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Back to the query").click()
    expect(page.get_by_label("Query chain", exact=True)).to_be_visible()


def test_a_saved_chain_shows_what_it_says_is_extended_and_written_out(page: Page):
    page.goto(f"/saltmere/chains?key=sm0002&field=title&{PLAIN}")
    chain = page.get_by_label("Record chain", exact=True)
    page.get_by_role("button", name="Save as").first.click()
    page.get_by_label("Name of the chain").fill("small")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="Saved: @small, version 1")).to_be_visible()
    chain.fill("@small > prefixes(1, 3)")
    cards = page.get_by_role("list", name="Cards of the record chain")
    expect(cards).to_contain_text("@small words › lower")
    expect(card(page, "prefixes(1, 3)")).to_be_visible()
    page.get_by_role("button", name="write out @small").click()
    expect(chain).to_have_text("words > lower > prefixes(1, 3)")


def test_without_a_query_nothing_is_said_of_one(page: Page):
    page.goto("/saltmere/chains?key=sm0001&field=title&rc=words+%3E+lower")
    meeting = page.get_by_role("group", name="Words that meet")
    expect(meeting.get_by_role("table", name="Meeting")).to_be_visible()
    expect(meeting).not_to_contain_text("leaves no term")
    page.get_by_role("searchbox", name="Query").fill("???")
    expect(meeting).to_contain_text("The query chain leaves no term of this query")


def test_the_consequences_are_exact_when_all_is_read(page: Page):
    page.goto("/saltmere/chains?key=sm0002&field=description&rc=words+%3E+lower+%3E+stem(en)")
    whole = page.get_by_role("region", name="Consequences")
    expect(whole).to_contain_text("All 1,554 records, exact.")
    expect(whole).to_contain_text("tokens per record")
    words = page.get_by_role("list", name="Words that share a term").get_by_role("button")
    chosen = words.first.inner_text()
    words.first.click()
    expect(page.get_by_role("searchbox", name="Query")).to_have_value(chosen)


def test_a_chain_is_taken_into_the_draft_and_the_meter_shows_what_moves(page: Page):
    page.goto("/saltmere/chains?q=harpoons&key=sm0002&field=title&rc=whole")
    draft = page.get_by_role("region", name="In the draft")
    draft.get_by_role("button", name="read it through these chains").click()
    expect(draft).to_contain_text("read through these chains")
    expect(page.get_by_label("Judged meter").get_by_label(re.compile(r"\d+ gained, [1-9]\d* lost"))).to_be_visible()
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Ranking").click()
    expect(page.get_by_text("whole", exact=True)).to_be_visible()


def test_a_chain_that_the_draft_took_is_given_back_for_the_baselines(page: Page):
    page.goto("/saltmere/chains?q=harpoons&key=sm0002&field=title&rc=whole&ranker=first:1")
    draft = page.get_by_role("region", name="In the draft")
    draft.get_by_role("button", name="read it through these chains").click()
    expect(page).to_have_url(re.compile(r"[?&]d=[^&]*whole"))
    draft.get_by_role("button", name="back to the baseline’s").click()
    expect(page).not_to_have_url(re.compile(r"[?&]d="))
    expect(draft.get_by_role("button", name="read it through these chains")).to_be_visible()
    expect(draft.get_by_role("button", name="back to the baseline’s")).to_have_count(0)


def test_nothing_is_said_of_a_text_that_has_not_come_yet(page: Page):
    held: list[Route] = []
    page.route(re.compile(r"/saltmere/record\b"), lambda route: held.append(route))  # noqa: PLW0108
    page.goto("/saltmere/chains?field=title&rc=words&key=sm0002")
    text = page.get_by_label("The record's text")
    expect(text).to_have_text("Fetching the record …")
    beside = page.get_by_role("complementary", name="Beside the chains")
    expect(beside).to_contain_text("Fetching what it does to a sample")
    expect(beside).not_to_contain_text("Mend the chain")
    for route in held:
        route.continue_()
    expect(text).to_contain_text("harpoon")


def test_samples_are_drawn_from_the_collection(page: Page):
    page.goto("/saltmere/chains?field=title&rc=words")
    expect(page.get_by_label("The record's text").locator("bdi")).to_be_visible()
    page.keyboard.press("s")
    samples = page.get_by_role("dialog", name="Samples")
    samples.get_by_role("button", name="with a word").click()
    samples.get_by_label("Which word").fill("barometer")
    first = samples.get_by_role("listitem").first
    expect(first).to_contain_text(re.compile("barometer", re.IGNORECASE))
    first.get_by_role("button").click()
    expect(page.get_by_label("The record's text")).to_contain_text(re.compile("barometer", re.IGNORECASE))


def test_a_word_list_is_made_mended_line_by_line_and_read_at_once(page: Page):
    page.goto("/saltmere/chains?q=gansey&key=sm0002&field=title&rc=words+%3E+lower+%3E+synonyms(@mine)&aside=lists")
    expect(page.get_by_role("alert").first).to_contain_text('there is no word list "@mine"')
    lists = page.get_by_role("complementary", name="Beside the chains")
    lists.get_by_role("button", name="synonyms", exact=True).click()
    lists.get_by_label("Name of the list").fill("mine")
    entries = lists.get_by_label("Entries as CSV")
    entries.fill("words,means,way\nharpoon,gansey,sideways\n")
    lists.get_by_role("button", name="Keep", exact=True).click()
    expect(lists.get_by_role("alert")).to_contain_text('line 2 the way is "both" or "one"; "sideways" is neither.')
    entries.fill("words,means,way\nharpoon,gansey,both\n")
    lists.get_by_role("button", name="Keep", exact=True).click()
    expect(lists.get_by_role("button", name="@mine")).to_be_visible()
    expect(page.get_by_label("The record's text").locator("mark")).to_have_text(["harpoon"])


def test_a_newer_list_is_told_to_who_reads_the_older_and_taken_by_one_key(page: Page):
    request, path = page.request, "/api/collections/saltmere"
    version = request.put(f"{path}/word-lists/tide", data={"csv": "words,means,way\ngansey,jersey,both\n"}).json()[
        "version"
    ]
    chain = "words > lower > synonyms(@tide)"
    document = {"readings": [{"field": "title", "chain": chain}, {"field": "maker", "chain": "words"}]}
    assert request.put(f"{path}/rankers/tidal", data={"document": document}).ok
    page.goto("/saltmere/chains?q=gansey&key=sm0002&field=title&ranker=tidal:1&aside=lists")
    record = page.get_by_role("textbox", name="Record chain")
    expect(record).to_have_text(chain)
    lists = page.get_by_role("complementary", name="Beside the chains")
    lists.get_by_role("button", name="@tide").click()
    lists.get_by_label("Entries as CSV").fill("words,means,way\ngansey,harpoon,both\n")
    lists.get_by_role("button", name="Keep", exact=True).click()
    expect(lists).to_contain_text("An older version is still read by tidal 1 (title).")
    # The kept ranker goes on reading the older list, and so does what is shown.
    expect(page.get_by_label("The record's text").locator("mark")).to_have_count(0)
    expect(lists.get_by_role("button", name=f"Take version {version + 1} into the draft")).to_be_focused()
    page.keyboard.press("Enter")
    expect(record).to_have_text(f"words > lower > synonyms(@tide:{version + 1})")
    expect(page.get_by_label("The record's text").locator("mark")).to_have_text(["harpoon"])
    expect(page).to_have_url(re.compile("ranker=tidal(%3A|:)1"))

    page.goto("/saltmere/chains?q=gansey&key=sm0002&field=title&ranker=tidal:1")
    behind = page.get_by_label("Read in older versions")
    expect(behind).to_contain_text(f"tidal 1 reads word list @tide in version {version}, and so it is shown here.")
    behind.get_by_role("button", name=f"try version {version + 1}").click()
    expect(record).to_have_text(f"words > lower > synonyms(@tide:{version + 1})")
    expect(behind).to_be_hidden()


def test_a_reading_by_language_is_shown_and_edited_language_by_language(page: Page):
    request, path = page.request, "/api/collections/saltmere"
    chain = {"by": "language", "en": "words > lower > stem(en)", "else": "words > lower"}
    document = {"readings": [{"field": "title", "chain": chain}]}
    assert request.put(f"{path}/rankers/tongues", data={"document": document}).ok
    page.goto("/saltmere/chains?q=bells&key=sm0002&field=title&ranker=tongues:1")
    record, language = (
        page.get_by_role("textbox", name="Record chain"),
        page.get_by_label("Language that the chain is for"),
    )
    # The record is in English, so its own chain is shown.
    expect(language).to_have_value("en")
    expect(record).to_have_text("words > lower > stem(en)")
    language.select_option("else")
    expect(record).to_have_text("words > lower")
    expect(page).to_have_url(re.compile("lang=else"))
    record.fill("words > lower > accents")
    page.get_by_role("button", name="read it through these chains for other languages").click()
    expect(page.get_by_label("In the draft")).to_contain_text("read through these chains for other languages.")
    language.select_option("en")
    expect(record).to_have_text("words > lower > stem(en)")
    changed = re.compile("else%22%3A%22words\\+%3E\\+lower\\+%3E\\+accents")
    expect(page).to_have_url(changed)


def test_a_thesaurus_becomes_synonyms(page: Page):
    page.goto("/saltmere/chains?field=title&rc=words&aside=lists")
    lists = page.get_by_role("complementary", name="Beside the chains")
    lists.get_by_role("button", name="@seafaring").click()
    expect(lists.get_by_label("Entries as CSV")).to_have_value(re.compile("foghorn"))
    lists.get_by_label("A CSV file or a SKOS thesaurus").set_input_files(ROOT / "demo/thesaurus.ttl")
    expect(lists.get_by_role("status")).to_contain_text("rules from thesaurus.ttl")
    expect(lists.get_by_label("Entries as CSV")).to_have_value(re.compile("lifeboat,life boat,both"))


def test_a_stage_is_found_and_added_where_it_belongs(page: Page):
    page.goto("/saltmere/chains?field=title&rc=words+%3E+lower&aside=stages")
    stages = page.get_by_role("region", name="Stages")
    stages.get_by_label("Find a stage").fill("entities")
    stages.get_by_role("button", name="Add markup").click()
    expect(page.get_by_label("Record chain", exact=True)).to_have_text("markup > words > lower")
    stages.get_by_label("Find a stage").fill("no stage does this")
    expect(stages).to_contain_text("No stage has that name")
