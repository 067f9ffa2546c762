"""Two knobs turned together: a surface that promises what the draft then comes to."""

import re

from playwright.sync_api import Page, expect

from tests.browser.test_curves import TURNS
from tests.browser.test_waiting import HeldBack

FIRST = "/saltmere/ranking?q=fog+bell&ranker=first:1"


def test_a_surface_promises_what_both_turned_knobs_then_do(page: Page):
    page.goto(FIRST)
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    page.get_by_label("Weight of maker", exact=True).focus()
    page.keyboard.press("s")
    surface = page.get_by_role("dialog", name="Two knobs together")
    # The knob in hand stands down the side.
    expect(surface.get_by_label("Down", exact=True)).to_have_value("Weight of maker")
    surface.get_by_label("Down", exact=True).select_option("Weight of title")
    # Choosing the one that stands across put both the other way round.
    expect(surface.get_by_label("Across", exact=True)).to_have_value("Weight of maker")
    surface.get_by_label("Across", exact=True).select_option("Weight of description")
    draft = surface.get_by_role("button", pressed=True)
    expect(draft).to_have_accessible_name(re.compile("^Weight of title 3, Weight of description 1: 0.504"))
    promise = re.search(r"The best comes to (0\.\d{3}), \+(0\.\d{3})", surface.get_by_role("status").inner_text())
    assert promise is not None
    best, gain = promise.groups()
    assert float(best) == round(0.504 + float(gain), 3)
    surface.get_by_role("button", name=re.compile("^take ")).click()
    expect(surface.get_by_role("status")).to_contain_text("The draft stands at the best of these.")
    expect(draft).to_have_accessible_name(re.compile(f"{best}$"))
    page.keyboard.press("Escape")
    expect(surface).to_have_count(0)
    meter = page.get_by_role("group", name="Judged meter")
    expect(meter).to_contain_text(best)
    # Both were one change.
    page.keyboard.press("Control+z")
    expect(meter).to_contain_text("0.504")
    expect(page.get_by_label("Weight of title", exact=True)).to_have_value("3")
    expect(page.get_by_label("Weight of description", exact=True)).to_have_value("1")


def test_a_surface_is_walked_by_arrows_and_taken_by_enter(page: Page):
    page.goto(f"{FIRST}&surface=yes")
    surface = page.get_by_role("dialog", name="Two knobs together")
    draft = surface.get_by_role("button", pressed=True)
    expect(draft).to_have_accessible_name(re.compile("^Weight of title 3, Weight of description 1:"))
    draft.focus()
    for key in ("ArrowDown", "ArrowRight", "ArrowRight", "ArrowLeft", "ArrowUp", "ArrowUp"):
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    expect(draft).to_have_accessible_name(re.compile("^Weight of title 2.5, Weight of description 1.3:"))
    expect(draft).to_be_focused()


def test_a_surface_waits_for_its_settings_and_ends_with_its_dialog(page: Page):
    page.goto(FIRST)
    expect(page.locator("[data-curve=there]")).to_have_count(4)
    held = HeldBack(page, TURNS)
    page.get_by_role("button", name="two knobs").click()
    surface = page.get_by_role("dialog", name="Two knobs together")
    expect(surface).to_contain_text("Measuring 100 settings")
    with page.expect_event("requestfailed") as ended:
        surface.get_by_role("button", name="Close").click()
    assert TURNS.search(ended.value.url)
    held.let_go()
