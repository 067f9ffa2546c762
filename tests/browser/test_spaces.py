"""Meaning beside words, as an engineer brings it in: a space made, watched, blended, seen from both sides, kept."""

import re

from playwright.sync_api import Page, expect

QUESTION = "how+did+sailors+keep+warm"


def place(page: Page, name: str):
    page.get_by_role("navigation", name="Places").get_by_role("link", name=name).click()


def filled(page: Page, name: str):
    """Waits until the space of that name is filled."""
    page.goto(f"/saltmere/spaces?space={name}")
    expect(page.get_by_label("The space", exact=True).get_by_role("status")).to_contain_text("vectors of")


def test_a_space_is_made_filled_blended_in_and_kept(page: Page):
    page.goto(f"/saltmere/spaces?q={QUESTION}")
    page.get_by_role("button", name="Make a space").click()
    make = page.get_by_role("form", name="A new space")
    expect(make.get_by_role("button", name="Make it")).to_be_disabled()
    make.get_by_label("Name", exact=True).fill("passages")
    make.get_by_label("How texts are cut").select_option("sentences")
    make.get_by_role("button", name="Make it and fill it").click()
    space = page.get_by_label("The space", exact=True)
    expect(space).to_contain_text("in passages of 2 sentences")
    expect(space.get_by_role("status")).to_contain_text(re.compile(r"5,\d+ vectors of 1,554 records"))
    near = page.get_by_label("Nearest records").locator("[data-row]")
    expect(near).to_have_count(10)

    place(page, "Ranking")
    page.get_by_role("button", name=re.compile("Meaning")).click()
    page.get_by_label("Add a space").select_option("passages")
    found = page.get_by_label("Results").locator("[data-row]")
    expect(found.first).to_contain_text(re.compile(r"words \d+|only by meaning"))
    expect(page.get_by_label("Judged meter").get_by_label(re.compile(r"[1-9]\d* gained"))).to_be_visible()
    expect(page.get_by_test_id("draft-differences")).to_contain_text("new space passages, weight 1")

    slider = page.get_by_role("slider", name="Blend, from words to meaning")
    slider.focus()
    slider.press("End")
    expect(page.get_by_test_id("draft-differences")).to_contain_text("blend, meaning: 0.5 to 1")
    expect(found.first).to_contain_text("only by meaning")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("draft-differences")).not_to_contain_text("blend, meaning")

    page.get_by_role("button", name="side by side").click()
    expect(page.get_by_label("List Words").get_by_role("listitem").first).to_be_visible()
    assert page.get_by_label("List passages").locator("[data-side=meaning]").count() > 0
    assert page.get_by_label("List Words").locator("[data-side=words]").count() > 0

    page.get_by_role("button", name="Keep as a new version").click()
    expect(page.get_by_text("Kept as first 2.")).to_be_visible()
    page.reload()
    expect(page.get_by_label("List Blended").get_by_role("listitem").first).to_be_visible()


def test_why_adds_up_over_the_lists_and_a_row_of_one_side_is_explained(page: Page):
    filled(page, "everyday")
    filled(page, "house")
    page.goto(f"/saltmere/ranking?q={QUESTION}&ranker=blended:1")
    why = page.get_by_role("complementary", name="Why")
    expect(why.get_by_label("The blend")).to_contain_text("scores, made comparable")
    expect(why).to_contain_text("of the kind “question”")
    score = float(why.get_by_test_id("blend-score").inner_text())
    parts = [float(part.locator("p").first.inner_text().split()[-1]) for part in why.get_by_test_id("blend-part").all()]
    assert abs(sum(parts) - score) < 0.003
    page.keyboard.press("l")
    only = page.get_by_label("List everyday").locator("[data-side=meaning]").first
    only.get_by_role("button").click()
    expect(why.get_by_test_id("blend-part").first).to_contain_text("not in this list")


def test_which_side_is_right_is_told_by_kind_and_tag(page: Page):
    filled(page, "everyday")
    filled(page, "house")
    page.goto(f"/saltmere/ranking?q={QUESTION}&ranker=blended:1")
    page.get_by_role("tab", name="Sides").click()
    sides = page.get_by_role("complementary", name="Sides")
    mean = sides.get_by_role("table", name="All 99 judged queries").locator("tbody tr td")
    words, meaning, blended = (float(mean.nth(i).inner_text().split()[0]) for i in (1, 2, 3))
    assert blended > max(words, meaning)
    expect(sides.get_by_role("table", name="By kind of query")).to_contain_text("question")
    expect(sides.get_by_role("table", name="By tag")).to_contain_text("question in plain words")


def test_like_this_and_not_like_that_by_link(page: Page):
    filled(page, "everyday")
    page.goto("/saltmere/spaces?space=everyday&q=whaling+iron")
    rows = page.get_by_label("Nearest records").locator("[data-row]")
    first = rows.first.get_attribute("data-row")
    rows.first.get_by_role("button", name="like this").click()
    expect(page).to_have_url(re.compile(f"like={first}"))
    expect(page.locator(f"[data-row={first}]")).to_have_count(0)
    second = rows.first.get_attribute("data-row")
    rows.first.get_by_role("button", name="not like this").click()
    expect(page.get_by_label("Nearest records")).to_contain_text("away from")
    page.reload()
    expect(page.get_by_role("button", name=f"Leave {second} out")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("Map of 1,554 records"))).to_be_visible()


def test_a_wrong_formula_is_said_where_it_is_wrong(page: Page):
    filled(page, "everyday")
    page.goto(f"/saltmere/ranking?q={QUESTION}&ranker=blended:1")
    page.get_by_role("button", name=re.compile("Meaning")).click()
    page.get_by_label("Blend", exact=True).select_option("formula")
    formula = page.get_by_role("textbox", name="Formula", exact=True)
    expect(formula).to_have_text("words + 10 * space.everyday")
    formula.fill("words + 3")
    # The first one closes what is offered to be taken, where something is by then.
    formula.press("Escape")
    formula.press("Escape")
    expect(formula).to_have_text("words + 10 * space.everyday")
    formula.fill("words + space.everydy")
    formula.press("Enter")
    expect(page.get_by_label("Results").get_by_role("alert")).to_contain_text('Did you mean "space.everyday"?')
    expect(page.locator(".cm-lintRange-error")).to_have_text("space.everydy")
    formula.fill("words + 20 * space.everyday")
    formula.press("Enter")
    expect(page.get_by_label("Results").locator("[data-row]").first).to_be_visible()
