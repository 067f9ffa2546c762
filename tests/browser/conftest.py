"""A running server with the demo, and a real browser on it."""

import os
from collections.abc import Callable, Generator
from pathlib import Path
from subprocess import CompletedProcess

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.command_host import CommandHost
from tests.conftest import demo_copy

Command = Callable[..., "CompletedProcess[str]"]

# A machine may have much else to do.
expect.set_options(timeout=45_000)


@pytest.fixture(scope="module")
def command(host: CommandHost, demo_folder: Path) -> Generator[Command]:
    """A command line on a copy of the demo of this file's own."""
    with demo_copy(host, demo_folder) as call:
        yield call


@pytest.fixture(scope="module")
def address(command: Command) -> str:
    """The address of a running server that holds the demo."""
    result = command("up")
    assert result.returncode == 0, result.stderr
    return result.stdout.strip()


@pytest.fixture(scope="session")
def browser() -> Generator[Browser]:
    # Half the work of the whole browser.
    chromium = "/usr/bin/chromium-headless-shell"
    with sync_playwright() as playwright:
        arguments = ["--disable-background-networking", *(["--no-sandbox"] if os.geteuid() == 0 else [])]
        opened = playwright.chromium.launch(executable_path=chromium, args=arguments)
        yield opened
        opened.close()


def refused(text: str) -> bool:
    """Whether a browser complains of a request that was refused with a sentence, which the page shows."""
    return "422" in text or "409" in text


@pytest.fixture
def page(browser: Browser, address: str) -> Generator[Page]:
    """A page on the running server. Anything asked of another address, or said as an error, fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.grant_permissions(["clipboard-read", "clipboard-write"], origin=address)
    opened = context.new_page()
    strangers: list[str] = []
    complaints: list[str] = []
    opened.on("request", lambda r: None if r.url.startswith((address, "data:")) else strangers.append(r.url))
    opened.on("pageerror", lambda error: complaints.append(str(error)))
    opened.on("console", lambda m: complaints.append(m.text) if m.type == "error" and not refused(m.text) else None)
    yield opened
    context.close()
    assert strangers == []
    assert complaints == []


@pytest.fixture
def board(page: Page) -> Generator[Page]:
    """The page, with a judged set "board" of this test's own in place."""
    request, path = page.request, "/api/collections/saltmere/judged/board"
    files = {"queries": "q1\tfog bell\nq2\tharpoon gun\nq3\tship in a bottle\n", "judgments": "q1 0 sm0029 3\n"}
    assert request.put(f"{path}/files", data=files).ok
    yield page
    # Whatever the page still asks for is let go before the set goes.
    page.goto("about:blank")
    assert request.delete(path).ok
