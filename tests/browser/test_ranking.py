"""The Ranking place, as an engineer uses it."""

import json
import re
from urllib.parse import quote

import pytest
from playwright.sync_api import Page, expect

from tests.browser.addresses import weighing


def rows(page: Page):
    return page.get_by_label("Results").locator("[data-row]")


def weight(page: Page, field: str):
    return page.get_by_role("slider", name=f"Weight of {field}", exact=True)


def test_the_first_visit_shows_the_demo_with_a_query_already_run(page: Page):
    page.goto("/")
    expect(page).to_have_url(re.compile(r"/saltmere/ranking\?q="))
    expect(page.get_by_label("Query", exact=True)).not_to_have_value("")
    expect(rows(page).first).to_be_visible()
    expect(rows(page).first.locator("mark").first).to_be_visible()
    expect(page.get_by_role("complementary", name="Why").get_by_test_id("why-score")).to_be_visible()
    expect(page.get_by_label("Judged meter")).to_contain_text("nDCG@10")


def test_the_parts_of_why_add_up_to_the_score_of_the_row(page: Page):
    page.goto("/saltmere/ranking?q=lighthouse+keepers")
    rows(page).nth(2).click()
    why = page.get_by_role("complementary", name="Why")
    expect(why).to_contain_text("Why it is number 3")
    score = float(why.get_by_test_id("why-score").inner_text())
    parts = [float(text) for text in why.get_by_test_id("why-part").all_inner_texts()]
    assert abs(sum(parts) - score) < 0.003
    expect(rows(page).nth(2)).to_contain_text(f"{score:.3f}")


def test_turning_a_weight_moves_rows_and_tells_every_judged_query(page: Page):
    page.goto("/saltmere/ranking?q=lighthouse+keepers")
    expect(page.get_by_label("Waterline")).to_contain_text("The draft is the baseline")
    first = rows(page).first.get_attribute("data-row")
    slider = weight(page, "title")
    slider.focus()
    slider.press("Home")
    for _ in range(3):
        slider.press("ArrowRight")
    expect(page).to_have_url(re.compile("weight%22%3A0.3"))
    expect(rows(page).first).not_to_have_attribute("data-row", first or "")
    expect(page.get_by_label("Results").get_by_label(re.compile("up$")).first).to_be_visible()
    expect(page.get_by_label("Waterline")).to_contain_text(re.compile(r"\d+ gained, \d+ lost, \d+ still"))
    expect(page.get_by_label("Knobs")).to_contain_text("title weight 3 to 0.3")


def test_a_weight_can_be_taken_back_and_put_again(page: Page):
    page.goto("/saltmere/ranking?q=bell")
    box = page.get_by_label("Weight of title, as a number")
    box.fill("0.5")
    box.press("Enter")
    expect(page).to_have_url(re.compile("weight%22%3A0.5"))
    page.locator("body").press("Control+z")
    expect(page).not_to_have_url(re.compile(r"[?&]d="))
    page.locator("body").press("Control+Shift+z")
    expect(page).to_have_url(re.compile("weight%22%3A0.5"))
    page.locator("body").press("b")
    expect(page).not_to_have_url(re.compile(r"[?&]d="))


def test_a_link_brings_query_draft_and_row(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&{weighing(0.5, 2, 1, 5)}")
    expect(rows(page).nth(3)).to_be_visible()
    key = rows(page).nth(3).get_attribute("data-row")
    rows(page).nth(3).click()
    expect(page).to_have_url(re.compile(f"row={key}"))
    page.goto(page.url)
    expect(page.get_by_role("complementary", name="Why")).to_contain_text(f"Why it is number 4 · {key}")
    expect(page.get_by_label("Weight of description, as a number")).to_have_value("2")


def test_everything_is_reached_by_keyboard(page: Page):
    page.goto("/saltmere/ranking?q=bell")
    expect(rows(page).first).to_have_attribute("aria-current", "true")
    page.keyboard.press("/")
    page.keyboard.type("herring")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    expect(rows(page).first).to_contain_text(re.compile("herring", re.IGNORECASE))
    page.keyboard.press("j")
    expect(rows(page).nth(1)).to_have_attribute("aria-current", "true")
    page.keyboard.press("k")
    expect(rows(page).first).to_have_attribute("aria-current", "true")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("next row, row before")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("g")
    page.keyboard.press("m")
    expect(page).to_have_url(re.compile("/saltmere/measures.*q=herring"))
    page.keyboard.press("g")
    page.keyboard.press("c")
    expect(page).to_have_url(re.compile("/saltmere/chains.*q=herring"))


def test_the_night_theme_stays(page: Page):
    page.goto("/saltmere/ranking?q=bell")
    expect(rows(page).first).to_be_visible()
    page.keyboard.press("t")
    chosen = page.locator("html").get_attribute("data-theme")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", chosen or "")


@pytest.mark.parametrize(
    ("query", "told"),
    [
        ("zzyzx", "No record holds “zzyzx” in any reading"),
        ("", "Type one above"),
    ],
)
def test_a_query_that_finds_nothing_says_what_to_do(page: Page, query: str, told: str):
    page.goto(f"/saltmere/ranking?q={query}")
    expect(page.get_by_label("Results")).to_contain_text(told)


def test_a_query_is_text_and_never_markup(page: Page):
    page.goto("/saltmere/ranking?q=%3Cimg+src%3Dx+onerror%3D%22document.title%3D1%22%3E+bell")
    expect(rows(page).first).to_be_visible()
    expect(page).to_have_title("Pale Harbor")
    expect(page.locator("main img[src='x']")).to_have_count(0)


def test_a_draft_is_kept_as_a_version_with_its_reason(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&{weighing(2, 1, 1, 5)}")
    page.get_by_label("Why this version is kept").fill("titles were too loud")
    page.get_by_role("button", name="Keep as a new version").click()
    expect(page.get_by_label("Knobs")).to_contain_text(re.compile(r"Kept as first \d+\."))
    expect(page).not_to_have_url(re.compile(r"[?&]d="))
    expect(page.get_by_label("Weight of title, as a number")).to_have_value("2")


def test_a_key_press_changes_the_results_without_a_wait(page: Page):
    page.goto("/saltmere/ranking?q=bell")
    expect(rows(page).first).to_be_visible()
    with page.expect_response(lambda response: '"query":"bell f"' in (response.request.post_data or "")) as got:
        box = page.get_by_label("Query", exact=True)
        box.focus()
        box.press("End")
        box.press_sequentially(" f")
    assert got.value.ok
    expect(page.get_by_label("Results")).to_contain_text("read as “bell” “f”")


def test_compact_rows_show_twice_as_many_and_stay_so(page: Page):
    page.goto("/saltmere/ranking?q=bell&ranker=first:1")
    first = page.get_by_label("Results").locator("[data-row]").first
    expect(first).to_be_visible()
    high = first.bounding_box()
    page.keyboard.press("j")
    page.keyboard.press("k")
    page.get_by_role("button", name="compact rows").click()
    expect(page.get_by_role("button", name="compact rows")).to_have_attribute("aria-pressed", "true")
    expect(page).to_have_url(re.compile("rows=compact"))
    # The first row is the one in view, with its tools; the next is a line.
    low = page.get_by_label("Results").locator("[data-row]").nth(1).bounding_box()
    assert high is not None
    assert low is not None
    assert low["height"] < 0.5 * high["height"]
    page.goto("/saltmere/ranking?q=lamp&ranker=first:1")
    expect(page.get_by_role("button", name="compact rows")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("d")
    expect(page.get_by_role("button", name="compact rows")).to_have_attribute("aria-pressed", "false")


def test_the_waterline_is_walked_from_the_worst_loss_up_and_marks_what_breaks_an_expectation(page: Page):
    page.goto(f"/saltmere/ranking?q=nowhere&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    foot = page.get_by_label("Waterline")
    strokes = foot.get_by_role("group", name="Judged queries, from gain to loss").get_by_role("button")
    worst, next_worst = (strokes.nth(place).get_attribute("aria-label") for place in (-1, -2))
    assert worst is not None
    assert next_worst is not None
    page.keyboard.press("w")
    expect(page.get_by_label("Query", exact=True)).to_have_value(worst.split(": ")[0])
    page.keyboard.press("w")
    expect(page.get_by_label("Query", exact=True)).to_have_value(next_worst.split(": ")[0])
    expect(foot.get_by_role("button", name="next loss")).to_be_visible()
    expect(foot.get_by_role("link", name="an expectation")).to_be_visible()


def test_a_stroke_tells_which_records_came_and_which_went(page: Page):
    page.goto(f"/saltmere/ranking?q=bell&ranker=first:1&{weighing(0.5, 1, 1, 5)}")
    strokes = page.get_by_role("group", name="Judged queries, from gain to loss").get_by_role("button")
    strokes.last.hover()
    told = page.get_by_role("status", name="What moved")
    expect(told).to_contain_text("Went from the first 10")
    expect(told).to_contain_text(re.compile(r"\d+ → (\d+|nowhere)"))
    worst = (strokes.last.get_attribute("aria-label") or "").split(": ")[0]
    expect(told).to_contain_text(worst)
    # By keys as well; Escape puts it away.
    strokes.first.focus()
    page.keyboard.press("ArrowRight")
    expect(told).to_contain_text((strokes.nth(1).get_attribute("aria-label") or "").split(": ")[0])
    page.keyboard.press("Escape")
    expect(told).to_have_count(0)


def test_feedback_is_switched_on_told_above_the_list_and_in_why(page: Page):
    page.goto("/saltmere/ranking?q=lighthouse+keepers&ranker=first:1")
    page.get_by_label("Knobs").get_by_role("button", name=re.compile("^.?Feedback")).click()
    page.get_by_label("Words of the first count too").check()
    expect(page.get_by_label("How the query was read")).to_contain_text(
        re.compile("Fed back from the first 10 records: .*“keeper”")
    )
    expect(page.get_by_label("Knobs").get_by_label("Share of feedback, as a number")).to_have_value("0.3")
    expect(page.get_by_role("complementary", name="Why")).to_contain_text("fed back")
    expect(page.get_by_label("Waterline")).to_contain_text(re.compile(r"[1-9]\d* gained"))
    page.get_by_label("Words of the first count too").uncheck()
    expect(page.get_by_label("How the query was read")).to_have_count(0)


def test_a_space_says_how_it_read_a_misspelled_word(page: Page):
    draft = json.dumps({"spelling": {}, "spaces": [{"space": "everyday", "mended": True}]})
    page.goto(f"/saltmere/ranking?q=barometter&ranker=first:1&d={quote(draft)}")
    expect(page.get_by_label("How the query was read")).to_contain_text(
        re.compile("Spaces read it as “barometer”", re.IGNORECASE)
    )
