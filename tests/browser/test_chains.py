"""The Chains place: two texts meet, and what is wrong is shown where it is."""

import re

from playwright.sync_api import Page, expect

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
    chain = page.get_by_label("Record chain")
    chain.fill("words > lower > stm(en)")
    expect(page.get_by_test_id("underlined")).to_have_text("stm")
    expect(page.get_by_role("alert")).to_contain_text(
        'Line 1, column 17: there is no stage "stm". Did you mean "stem"?'
    )
    chain.press("Alt+Enter")
    expect(chain).to_have_value("words > lower > stem(en)")
    expect(page.get_by_test_id("underlined")).to_have_count(0)
    expect(page.get_by_role("alert")).to_have_count(0)


def test_hovering_a_token_lights_its_descent_and_whom_it_meets(page: Page):
    page.goto("/saltmere/chains?q=keepers&key=sm0035&field=title")
    meeting = page.get_by_role("table", name="Meeting")
    meeting.locator("tr[data-stage='query words'] td", has_text="keepers").hover()
    for stage in ("record words", "record stem(en)", "query stem(en)"):
        lit = meeting.locator(f"tr[data-stage='{stage}'] td", has_text=re.compile("keeper"))
        expect(lit).to_have_class(re.compile("mark"))


def test_the_query_may_have_a_chain_of_its_own(page: Page):
    page.goto(f"/saltmere/chains?q=harpoons&key=sm0002&field=title&{PLAIN}")
    page.get_by_label("Query chain").fill("words > lower > stem(en)")
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
