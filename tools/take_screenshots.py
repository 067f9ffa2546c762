"""Takes the pictures of docs/screenshots from the running demo.

./paleharbor up && PYTHONPATH=. .venv/bin/python tools/take_screenshots.py
"""

import os
from pathlib import Path

from playwright.sync_api import sync_playwright

from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"

# Name, theme, address.
PICTURES = [
    ("ranking", "fog", "/saltmere/ranking?q=lighthouse+keepers&w=1,1,1,5"),
    ("ranking-night", "deep", "/saltmere/ranking?q=crossing+the+bar&w=1,1,1,5"),
    ("chains", "fog", "/saltmere/chains?q=the+lighthouse+keepers+lamp&key=sm0041"),
    ("measures", "fog", "/saltmere/measures?w=1,1,1,5"),
]


def main() -> None:
    """Writes every picture anew, at 1280 by 800."""
    address = running_address(settings())
    assert address is not None, "Start the application first: ./paleharbor up"
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        arguments = ["--no-sandbox"] if os.geteuid() == 0 else []
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)
        for name, theme, path in PICTURES:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(f"localStorage.setItem('paleharbor.theme', '{theme}')")
            page.goto(address + path)
            page.wait_for_load_state("networkidle")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=FOLDER / f"{name}.png", animations="disabled")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
