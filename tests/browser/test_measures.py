"""The Measures place: means, queries, tags, and the way into Ranking."""

import re
from io import BytesIO

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from tests.browser.addresses import weighing


def queries(page: Page):
    return page.get_by_label("Queries").locator("tbody tr")


def test_the_means_are_those_of_the_queries(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(99)
    shown = float(page.get_by_test_id("mean-ndcg@10").inner_text())
    values = [float(text) for text in queries(page).locator("td:nth-child(3)").all_inner_texts()]
    assert abs(sum(values) / 99 - shown) < 0.001


def test_a_click_opens_the_query_in_ranking(page: Page):
    page.goto("/saltmere/measures")
    queries(page).get_by_role("button", name="foghorn", exact=True).click()
    expect(page).to_have_url(re.compile("/saltmere/ranking.*q=foghorn"))
    expect(page.get_by_label("Query", exact=True)).to_have_value("foghorn")
    expect(page.get_by_label("Results").get_by_role("img", name=re.compile("^grade")).first).to_be_visible()


def test_a_draft_is_shown_beside_its_baseline(page: Page):
    page.goto(f"/saltmere/measures?ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    expect(page.get_by_label("By tag")).to_contain_text("Draft on first 1")
    expect(page.get_by_role("button", name="change")).to_be_visible()
    page.get_by_role("button", name="change").click()
    changes = [text.replace("\u2212", "-") for text in queries(page).locator("td:nth-child(4)").all_inner_texts()]
    assert [float(text) for text in changes] == sorted((float(text) for text in changes), reverse=True)
    assert float(changes[0]) > 0 > float(changes[-1])


def test_a_tag_shows_its_queries_alone(page: Page):
    page.goto("/saltmere/measures")
    page.get_by_label("By tag").get_by_role("button", name="misspelling").click()
    expect(queries(page)).to_have_count(9)
    expect(page).to_have_url(re.compile("tag=misspelling"))
    page.get_by_label("By tag").get_by_role("button", name="all").click()
    expect(queries(page)).to_have_count(99)


def test_the_table_is_copied_as_csv(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(99)
    page.get_by_role("button", name="Copy").click()
    expect(page.get_by_role("button", name="Copied")).to_be_visible()
    lines = page.evaluate("navigator.clipboard.readText()").splitlines()
    assert lines[0] == "query_id,query,need,tags,ndcg@10,change,ap,rr,judged@10,found"
    assert len(lines) == 100


def test_the_keyboard_walks_through_the_queries(page: Page):
    page.goto("/saltmere/measures")
    expect(queries(page)).to_have_count(99)
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
    expect(told).to_contain_text(re.compile(r"\d+ % of what nDCG@10 looks at is unjudged"))


def test_the_rules_of_the_figures_are_switched_and_carried_by_the_address(page: Page):
    page.goto("/saltmere/measures?ranker=first:1")
    mean = page.get_by_test_id("mean-ndcg@10")
    expect(mean).to_have_text(re.compile(r"\d"))
    before = mean.inner_text()
    page.get_by_label("Unjudged records").select_option("left_out")
    expect(page).to_have_url(re.compile("rules=unjudged%3Aleft_out"))
    expect(page.get_by_label("By tag")).to_contain_text("unjudged records are left out of every list")
    expect(mean).not_to_have_text(before)


def test_rankers_stand_by_measures_the_old_search_box_among_them(page: Page):
    page.goto("/saltmere/measures?view=rankers&ranker=first:1")
    rows = page.get_by_label("Rankers", exact=True).locator("tbody tr")
    # The first time every ranker's lists are made, those of two spaces among them.
    expect(rows.filter(has_text="old-search-box")).to_contain_text("no list for", timeout=90_000)
    expect(rows.first).to_contain_text("the others against it")
    rows.filter(has_text="old-search-box").get_by_role("button", name="head to head").click()
    # From what was there to what is proposed, whatever the others are compared with.
    expect(page.get_by_test_id("verdict")).to_have_text(
        "first:1 is better than old-search-box, more than luck would give."
    )
    expect(page.get_by_test_id("gain")).to_contain_text("+0.")


def test_the_locked_queries_are_opened_on_purpose_and_the_diary_knows(page: Page):
    page.goto("/saltmere/measures?view=head&first=first:1&second=outside/old-search-box")
    expect(page.get_by_test_id("verdict")).to_be_visible()
    expect(page.get_by_label("The difference")).to_contain_text("of 99")
    reasons = page.get_by_test_id("reason")
    expect(reasons.nth(1)).to_have_text("25 locked queries were not opened for these two.")
    page.get_by_role("button", name="Open the locked ones").click()
    page.get_by_role("button", name="Open 25 locked queries; the diary notes it").click()
    expect(page.get_by_label("The difference")).to_contain_text("On the locked queries")
    expect(page.get_by_label("The difference")).to_contain_text("of 25")
    # Both parts are one verdict, here and among the open ones, on the owner's page and in the diary.
    expect(reasons.nth(0)).to_contain_text("99 open queries: ")
    expect(reasons.nth(1)).to_contain_text("25 locked queries: ")
    headline = page.get_by_test_id("verdict").inner_text()
    page.get_by_role("button", name="Back to the open ones").click()
    expect(reasons.nth(1)).to_contain_text("25 locked queries, opened ")
    expect(page.get_by_test_id("verdict")).to_have_text(headline)
    page.keyboard.press("6")
    newest = page.get_by_label("Diary").get_by_role("listitem").first
    expect(newest).to_contain_text("The locked queries of visitors were opened for first:1 and old-search-box.")
    expect(newest).to_contain_text(f"ndcg@10: {headline} 99 open queries: ")
    page.goto("/saltmere/measures?view=owner&first=first:1&second=outside/old-search-box")
    expect(page.get_by_label("The owner’s page")).to_contain_text("25 searches had been kept back for this question")
    expect(page.get_by_label("The owner’s page")).not_to_contain_text("not looked at for this page")


def test_the_owner_reads_one_page_with_the_decision_on_it(page: Page):
    page.goto("/saltmere/measures?view=owner&first=outside/old-search-box&second=first:1")
    sheet = page.get_by_label("The owner’s page")
    expect(sheet).to_contain_text("Is the proposed search better than today's?")
    expect(sheet).to_contain_text("Yes, it is better.")
    page.get_by_label("Decision").fill("The new ranker goes out.")
    page.get_by_label("Why").fill("It finds what the old one never did.")
    page.get_by_role("button", name="Write it down").click()
    expect(sheet).to_contain_text("The new ranker goes out. It finds what the old one never did.")
    page.get_by_role("button", name="Copy").click()
    expect(page.get_by_role("button", name="Copied")).to_be_visible()
    assert page.evaluate("navigator.clipboard.readText()").startswith("# Is the proposed search better than today's?")


def test_the_owners_page_prints_on_one_sheet_with_nothing_of_the_workbench(page: Page):
    page.goto("/saltmere/measures?view=owner&first=outside/old-search-box&second=first:1")
    expect(page.get_by_label("The owner’s page")).to_contain_text("What was decided, and why")
    printed = PdfReader(BytesIO(page.pdf(format="A4", prefer_css_page_size=True)))
    assert len(printed.pages) == 1
    text = printed.pages[0].extract_text()
    assert "Is the proposed search better than today's?" in text
    for work in ("Write it down", "Head to head", "Records", "nDCG@10"):
        assert work not in text


def test_what_would_decide_is_ready_as_a_judging_task(page: Page):
    page.goto("/saltmere/measures?view=head&first=first:1&second=start:1")
    ready = page.get_by_label("What to judge next")
    expect(ready).to_contain_text("judgments")
    ready.get_by_label("Who judges").fill("Maud Ferrin")
    ready.get_by_role("button", name=re.compile("^Make a task of")).click()
    # Somebody of that name has judged; that it is she, the engineer says.
    expect(ready.get_by_role("alert")).to_contain_text('"Maud Ferrin" has judged "visitors" before')
    ready.get_by_label("Maud Ferrin is the one who judged before").check()
    ready.get_by_role("button", name=re.compile("^Make a task of")).click()
    expect(ready.get_by_role("status")).to_contain_text("records are ready")
    page.goto(ready.get_by_role("link", name="judge them").get_attribute("href") or "")
    expect(page.get_by_text("visitors: what tells most")).to_be_visible()
    # A judge is told of no ranker; the engineer finds what the task is for.
    expect(page.get_by_text("start")).to_have_count(0)
    page.goto("/saltmere/judging?view=tasks")
    expect(page.get_by_label("Judging tasks")).to_contain_text("named one by one, to decide between first:1, start:1")
