"""How long the running server takes over HTTP, and its page in headless Chromium."""

import json
import os
import re
from collections.abc import Generator
from contextlib import contextmanager
from http.client import HTTPConnection
from statistics import median
from time import perf_counter
from typing import Any, Final
from urllib.parse import quote_plus, urlsplit

from playwright.sync_api import Page, sync_playwright

from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address

_NOT_RUNNING: Final = {"page": "not measured: start the application first with ./paleharbor up"}

# Runs in the page: presses a key on what has the focus, and waits until the list has other scores.
_PRESS = """
(key) => new Promise((resolve) => {
  const list = document.querySelector('section[aria-label=Results]')
  const before = list.innerText
  const started = performance.now()
  const seen = new MutationObserver(() => {
    if (list.innerText === before) return
    seen.disconnect()
    requestAnimationFrame(() => resolve(performance.now() - started))
  })
  seen.observe(list, { subtree: true, childList: true, characterData: true })
  const slider = document.activeElement
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
  set.call(slider, String(Number(slider.value) + Number(key)))
  slider.dispatchEvent(new Event('input', { bubbles: true }))
})
"""


# Runs in the page: types into the record chain, and waits until the meeting shows another trace.
# From the letter that arrives in the chain to the next painting of another meeting.
_WATCH = """
() => {
  const meeting = document.querySelector('table[aria-label=Meeting]')
  const before = meeting.innerText
  let started = 0
  document.addEventListener('input', () => (started ||= performance.now()), { capture: true, once: true })
  window.repainted = new Promise((resolve) => {
    const seen = new MutationObserver(() => {
      if (meeting.innerText === before) return
      seen.disconnect()
      requestAnimationFrame(() => resolve(performance.now() - started))
    })
    seen.observe(meeting, { subtree: true, childList: true, characterData: true })
  })
}
"""
_SENTENCE = "The harpoons of the Whalers rusted in a garden wall. "
_TYPED = ("words > lower > stem(en)", "words > lower", "words > lower > accents > stopwords(en)", "words > grams(2, 4)")


def chains_page_figures(rounds: int = 10) -> dict[str, Any]:
    """Median and worst time from an edit of a chain to its repainted trace of 2,000 characters, in milliseconds."""
    with _page("chains?q=harpoons&rc=words&field=description") as page:
        if page is None:
            return _NOT_RUNNING
        page.get_by_role("button", name="Type a text of your own").click()
        page.get_by_label("A text of your own").fill((_SENTENCE * 40)[:2_000])
        page.get_by_role("table", name="Meeting").wait_for()
        page.wait_for_load_state("networkidle")
        # A comment makes every edit a new one, which no cache has the answer to.
        edits = [f"{notation} # {number}" for number in range(rounds) for notation in _TYPED]
        chain = page.get_by_label("Record chain", exact=True)
        times: list[float] = []
        for notation in edits:
            page.evaluate(_WATCH)
            chain.fill(notation)
            times.append(float(page.evaluate("window.repainted")))
    return {"edits": len(times), "p50_ms": round(median(times), 1), "worst_ms": round(max(times), 1)}


def page_figures(collection: str, query: str, presses: int = 40) -> dict[str, Any]:
    """Median and worst time from a turn of the first weight to a repainted list, in milliseconds."""
    with _page(f"ranking?q={quote_plus(query)}", collection) as page:
        if page is None:
            return _NOT_RUNNING
        page.get_by_role("slider", name=re.compile("^Weight of ")).first.focus()
        times = [float(page.evaluate(_PRESS, "0.1" if i % 2 else "-0.1")) for i in range(presses)]
    return {"presses": presses, "p50_ms": round(median(times), 1), "worst_ms": round(max(times), 1)}


@contextmanager
def _page(path: str, collection: str = "saltmere") -> Generator[Page | None]:
    """The running page of a collection at a path, all of it there; None where the application does not run."""
    address = running_address(settings())
    if address is None:
        yield None
        return
    with sync_playwright() as playwright:
        arguments = ["--no-sandbox"] if os.geteuid() == 0 else []
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=arguments)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/{collection}/{path}")
        page.wait_for_load_state("networkidle")
        yield page
        browser.close()


_DRAFT: Final = '{"readings":{"0":{"weight":0.5}}}'
# What is there when a place is ready: by its name, its address and a part of the page with a figure or a token in it.
_PLACES: Final = (
    ("Ranking", "ranking?q=fog+bell", "section[aria-label=Results] li"),
    (
        "Rankers, with a draft",
        f"measures?view=rankers&d={quote_plus(_DRAFT)}",
        "section[aria-label=Rankers] tbody tr:last-child svg",
    ),
    ("Head to head", "measures?view=head", "section[aria-label='The difference']"),
    ("Chains", "chains?q=harpoon&field=description", "table[aria-label=Meeting]"),
)


def opening_figures(collection: str, rounds: int = 5) -> list[dict[str, Any]]:
    """Median and worst time from an address to a place that is ready, the scripts kept from the time before, in ms."""
    figures: list[dict[str, Any]] = []
    with _page("records", collection) as page:
        if page is None:
            return [_NOT_RUNNING]
        base = page.url.rpartition("/")[0]
        for name, path, ready in _PLACES:
            times: list[float] = []
            for _ in range(rounds):
                page.goto("about:blank")
                page.goto(f"{base}/{path}", wait_until="commit")
                page.locator(ready).first.wait_for()
                times.append(float(page.evaluate("performance.now()")))
            figures.append({"place": name, "p50_ms": round(median(times), 1), "worst_ms": round(max(times), 1)})
    return figures


def door_figures(collection: str, query: str, rounds: int = 200) -> dict[str, Any]:
    """A search over HTTP, 20 rows, beside a sign of life and beside what the engine itself took, in milliseconds.

    Over one plain connection that is kept, as a browser keeps one: a client's own work is not the door's.
    """
    address = running_address(settings())
    if address is None:
        return _NOT_RUNNING
    where = urlsplit(address)
    server = HTTPConnection(str(where.hostname), where.port)
    question = json.dumps({"query": query, "top": 20})

    def answered(method: str, path: str, body: str | None = None) -> tuple[float, Any]:
        started = perf_counter()
        server.request(method, path, body, {} if body is None else {"Content-Type": "application/json"})
        content = server.getresponse().read()
        return 1_000 * (perf_counter() - started), json.loads(content)

    def life() -> tuple[float, Any]:
        return answered("GET", "/api/health")

    def found() -> tuple[float, Any]:
        return answered("POST", f"/api/collections/{collection}/search", question)

    for _ in range(20):
        life()
        found()
    both = [(life()[0], found()) for _ in range(rounds)]
    server.close()
    return {
        "search_p50_ms": round(median(time for _, (time, _) in both), 2),
        "sign_of_life_p50_ms": round(median(time for time, _ in both), 2),
        "engine_p50_ms": round(median(answer["elapsed_ms"] for _, (_, answer) in both), 2),
    }
