"""Takes the pictures of docs/screenshots from the running demo.

./paleharbor up && PYTHONPATH=. .venv/bin/python tools/take_screenshots.py
"""

import os
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import FilePayload, Page, sync_playwright

from pale_harbor.settings import settings
from pale_harbor.work.serving import running_address
from tests.browser.addresses import weighing

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"

# Name, theme, address.
PICTURES = [
    ("records", "fog", "/saltmere/records"),
    ("record", "deep", "/saltmere/records?view=browse&key=sm0035&part=Readings"),
    ("ranking", "fog", f"/saltmere/ranking?q=lighthouse+keepers&{weighing(1, 1, 1, 5)}"),
    ("why-not", "fog", "/saltmere/ranking?q=harpon&tab=not&key=sm0001"),
    ("page", "fog", "/logbooks/ranking?q=fog+bell&tab=page"),
    ("chains", "fog", "/saltmere/chains?q=the+lighthouse+keepers+lamp&key=sm0041"),
    (
        "chains-doctor",
        "deep",
        "/saltmere/chains?q=harpoons+of+whalers&field=description&rc=words+>+lower+>+prefixes(2,+5)&qc=words+>+lower",
    ),
    ("spaces", "fog", "/saltmere/spaces?q=how+did+sailors+keep+warm"),
    ("blend", "fog", "/saltmere/ranking?q=how+did+sailors+keep+warm&ranker=blended:1&lists=yes"),
    ("measures", "fog", f"/saltmere/measures?{weighing(1, 1, 1, 5)}"),
    ("rankers", "deep", "/saltmere/measures?view=rankers&ranker=first:1"),
    ("head-to-head", "fog", "/saltmere/measures?view=head&first=first:1&second=blended:1"),
    ("agreement", "fog", "/saltmere/judging?view=agreement"),
]


# Seen before it is stored: a file with rows that cannot be read.
BELLS = "Number;Name;Notes;Year;Materials;Seen\n" + "".join(
    f"N-{i:03d};Fog bell {i};A bell of bronze for the fog over Gull Sound;{1790 + i};bronze|ash;1899-05-0{1 + i % 9}\n"
    if i not in (40, 60, 80)
    else f"N-{i:03d};Fog bell {i};dated by its maker;about {1790 + i};bronze;1899-05-01\n"
    for i in range(1, 200)
)


def take_import(page: Page, address: str) -> None:
    """The picture of an import's plan."""
    page.goto(f"{address}/saltmere/records?view=import")
    file: FilePayload = {"name": "fog bells.csv", "mimeType": "text/csv", "buffer": BELLS.encode()}
    page.get_by_label("File to import").set_input_files(file)
    page.get_by_label("The first rows").wait_for()
    page.get_by_label("Collection to import into").fill("bells")
    page.screenshot(path=FOLDER / "import.png", animations="disabled")


def take_judge(page: Page, address: str) -> None:
    """The picture of a judge's page; the demo stays as it was."""
    rankers = [{"ranker": {"name": name}} for name in ("first", "blended")]
    wanted = {
        "name": "Lamps and lights",
        "judges": ["Maud Ferrin"],
        "same": ["Maud Ferrin"],
        "sides": rankers,
        "queries": ["q03"],
        "depth": 100,
    }
    made = page.request.post(f"{address}/api/collections/saltmere/judged/visitors/tasks", data=wanted).json()[0]
    page.goto(address + made["judges"][0]["path"])
    page.get_by_label("Record", exact=True).get_by_role("heading").wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / "judge.png", animations="disabled")
    page.request.delete(f"{address}/api/collections/saltmere/judged/visitors/tasks/{made['id']}")


def take_tuning(page: Page, address: str) -> None:
    """The picture of a tuning's report; the demo stays as it was."""
    collection = f"{address}/api/collections/saltmere"
    knobs = ["readings.title.weight=0.5..6/0.5", "readings.description.b=0..1/0.1", "readings.description.k1=0..3/0.5"]
    plan = {"ranker": "first", "version": 1, "knobs": knobs}
    made = page.request.post(f"{collection}/judged/visitors/tunings", data=plan).json()["id"]
    page.goto(f"{address}/saltmere/tuning?ranker=first:1&tuning={made}")
    page.get_by_role("heading", name="Each knob").wait_for(timeout=120_000)
    page.screenshot(path=FOLDER / "tuning.png", animations="disabled")
    page.request.delete(f"{collection}/tunings/{made}")


def take_people(page: Page, address: str) -> None:
    """The picture of a collection's members; nobody is left afterwards."""
    password = "a lamp for every ship"
    people = {"nora": "Nora Vane", "ib": "Ib Sand", "aud": "Aud Holm", "tor": "Tor Lund"}
    roles = {"nora": "owner", "ib": "engineer", "aud": "reader", "tor": "judge"}
    collection = f"{address}/api/collections/saltmere"
    for name, shown in people.items():
        asked = {"name": name, "shown": shown, "password": password, "keeper": name == "nora"}
        page.request.post(f"{address}/api/people", data=asked)
        if name == "nora":
            page.request.post(f"{address}/api/sign-in", data={"name": name, "password": password})
        page.request.put(f"{collection}/members/{name}", data={"role": roles[name]})
    page.request.post(f"{collection}/invitations", data={"shown": "Siv Falk", "role": "engineer"})
    page.goto(f"{address}/saltmere/people")
    page.get_by_role("table", name="Members").get_by_text("Tor Lund").wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / "people.png", animations="disabled")
    page.goto("about:blank")
    for name in reversed(people):
        page.request.delete(f"{address}/api/people/{name}")


def take_delivery(page: Page, address: str) -> None:
    """The pictures of what visitors asked, and of their page; the visitors are made up, and their key is no more."""
    asked = ["visitors", "saltmere", "--set", "visitors", "--visitors", "400", "--days", "14"]
    subprocess.run([sys.executable, "-m", "pale_harbor.cli", *asked], check=True, timeout=600)
    page.goto(f"{address}/saltmere/delivery?view=past&days=30")
    page.get_by_role("region", name="Queries").get_by_role("row").nth(5).wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / "delivery.png", animations="disabled")
    keys = f"{address}/api/collections/saltmere/delivery/keys"
    made = page.request.post(f"{keys}/visitors", data={"label": "a picture"}).json()
    page.goto(f"{address}/visit/saltmere?key={made['shown']}&q=fog+bell")
    page.get_by_role("heading", level=2).first.wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=FOLDER / "visitors-page.png", animations="disabled")
    page.request.delete(f"{keys}/{made['id']}")


def discard_drafts(page: Page, address: str) -> None:
    """What one picture turned is not offered again in the next."""
    page.goto("about:blank")
    drafts = f"{address}/api/collections/saltmere/drafts"
    for draft in page.request.get(drafts).json():
        page.request.delete(f"{drafts}/{draft['id']}")


def main() -> None:
    """Writes every picture anew, at 1280 by 800."""
    address = running_address(settings())
    assert address is not None, "Start the application first: ./paleharbor up"
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        arguments = ["--no-sandbox"] if os.geteuid() == 0 else []
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=arguments)
        for name, theme, path in PICTURES:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(f"localStorage.setItem('paleharbor.theme', '{theme}')")
            page.goto(address + path)
            page.wait_for_load_state("networkidle")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=FOLDER / f"{name}.png", animations="disabled")
            discard_drafts(page, address)
            page.close()
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script("localStorage.setItem('paleharbor.theme', 'fog')")
        take_import(page, address)
        take_judge(page, address)
        take_tuning(page, address)
        take_delivery(page, address)
        take_people(page, address)
        browser.close()


if __name__ == "__main__":
    main()
