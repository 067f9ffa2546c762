"""An installation backed up while it runs, restored elsewhere, and found there by whoever worked in it."""

from pathlib import Path

from playwright.sync_api import Browser, expect

from tests.browser.conftest import Command
from tests.command_host import CommandHost
from tests.conftest import command_line

PASSWORD = "a lamp for every ship"


def test_who_worked_there_signs_in_to_what_was_restored_and_finds_it(
    command: Command, address: str, host: CommandHost, browser: Browser, tmp_path: Path
):
    made = command("person", "add", "nora", "--shown", "Nora Vane", "--keeper", text=f"{PASSWORD}\n")
    assert made.returncode == 0, made.stderr
    assert command("measure", "saltmere", "--set", "visitors", "--ranker", "first").returncode == 0
    file = tmp_path / "kept.zip"
    backed = command("backup", str(file))
    assert backed.stdout.startswith("logbooks: 60 records\nsaltmere: 1,554 records\nBacked up "), backed.stderr
    assert "is there already" in command("backup", str(file)).stderr
    # Whoever took everything along stands in the list of changes.
    assert "By command: backup" in command("changes").stdout
    assert "Another server works on this data already" in command("restore", str(file)).stderr

    with command_line(host) as elsewhere:
        restored = elsewhere("restore", str(file))
        assert restored.returncode == 0, restored.stderr
        assert "every table has the digest that it had" in restored.stdout
        assert "first:1 on visitors, searched again: 124 lists, the same to the last digit" in restored.stdout
        assert "is the newest that is installed" in elsewhere("upgrade").stdout
        second = elsewhere("up")
        assert second.returncode == 0, second.stderr
        page = browser.new_context(base_url=second.stdout.strip()).new_page()
        page.goto("/saltmere/records?view=browse")
        page.get_by_label("Name").fill("nora")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text("1,554").first).to_be_visible()
        page.context.close()
        assert "Stop it with ./paleharbor down first" in elsewhere("upgrade").stderr
