"""The Measures place: means, queries, tags, and the way into Ranking."""

import re

from playwright.sync_api import Page, expect


def queries(page: Page):
    return page.get_by_label("Queries").locator("tbody tr")


def test_the_means_are_those_of_the_queries(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(124)
    shown = float(page.get_by_test_id("mean-ndcg@10").inner_text())
    values = [float(text) for text in queries(page).locator("td:nth-child(3)").all_inner_texts()]
    assert abs(sum(values) / 124 - shown) < 0.001


def test_a_click_opens_the_query_in_ranking(page: Page):
    page.goto("/saltmere/measures")
    queries(page).get_by_role("button", name="foghorn", exact=True).click()
    expect(page).to_have_url(re.compile("/saltmere/ranking.*q=foghorn"))
    expect(page.get_by_label("Query", exact=True)).to_have_value("foghorn")
    expect(page.get_by_label("Results").get_by_role("img", name=re.compile("^grade")).first).to_be_visible()


def test_a_draft_is_shown_beside_its_baseline(page: Page):
    page.goto("/saltmere/measures?ranker=first:1&w=0.5,1,1,5")
    expect(page.get_by_label("By tag")).to_contain_text("Draft on first 1")
    expect(page.get_by_role("button", name="change")).to_be_visible()
    page.get_by_role("button", name="change").click()
    changes = [text.replace("\u2212", "-") for text in queries(page).locator("td:nth-child(4)").all_inner_texts()]
    assert [float(text) for text in changes] == sorted((float(text) for text in changes), reverse=True)
    assert float(changes[0]) > 0 > float(changes[-1])


def test_a_tag_shows_its_queries_alone(page: Page):
    page.goto("/saltmere/measures")
    page.get_by_label("By tag").get_by_role("button", name="misspelling").click()
    expect(queries(page)).to_have_count(11)
    expect(page).to_have_url(re.compile("tag=misspelling"))
    page.get_by_label("By tag").get_by_role("button", name="all").click()
    expect(queries(page)).to_have_count(124)


def test_the_table_is_copied_as_csv(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(124)
    page.get_by_role("button", name="Copy").click()
    expect(page.get_by_role("button", name="Copied")).to_be_visible()
    lines = page.evaluate("navigator.clipboard.readText()").splitlines()
    assert lines[0] == "query_id,query,need,tags,ndcg@10,change,ap,rr,judged@10,found"
    assert len(lines) == 125


def test_the_keyboard_walks_through_the_queries(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(124)
    page.keyboard.press("j")
    page.keyboard.press("j")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/saltmere/ranking.*q=lighthouse"))


def test_what_a_measurement_was_made_of_stands_beside_it(page: Page):
    page.goto("/saltmere/measures?ranker=first:1")
    told = page.get_by_label("By tag")
    expect(told).to_contain_text(
        re.compile(r"records revision \d+ \([0-9a-f]{8}\), visitors revision 1, first 1, program")
    )
    expect(told).to_contain_text(re.compile(r"\d+ % of the first ten are judged"))
