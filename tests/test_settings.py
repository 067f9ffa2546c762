"""Settings: of a file, of the environment over it, each checked, unknown ones named."""

import os
from ipaddress import ip_network
from pathlib import Path

import pytest

from pale_harbor.errors import BadInput
from pale_harbor.settings import ROOT, Settings, settings


@pytest.fixture(autouse=True)
def nothing_set(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in [name for name in os.environ if name.startswith("PALEHARBOR_")]:
        monkeypatch.delenv(name)


def file_of(folder: Path, text: str) -> Path:
    path = folder / "harbor.toml"
    path.write_text(text, "utf-8")
    return path


def test_what_is_not_set_means_this_machine_its_own_database_and_nobody_else():
    here = settings()
    assert here == Settings(ROOT / "data")
    assert (here.host, here.port_wanted, here.database, here.names) == ("127.0.0.1", 7340, None, ())
    assert here.listens_on_loopback


def test_a_file_counts_and_the_environment_counts_over_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    text = f"""
        data = "{tmp_path}/own"
        host = "0.0.0.0"
        port = 8100
        names = ["search.saltmere.example"]
        forwarded_from = ["10.0.0.5"]
        memory_bytes = 20000000
        log_level = "warning"
    """
    file = file_of(tmp_path, text)
    here = settings(file)
    assert (here.data, here.host, here.port_wanted) == (tmp_path / "own", "0.0.0.0", 8100)
    assert (here.names, here.forwarded_from) == (("search.saltmere.example",), ("10.0.0.5",))
    assert (here.memory_bytes, here.log_level) == (20_000_000, "warning")
    monkeypatch.setenv("PALEHARBOR_SETTINGS", str(file))
    monkeypatch.setenv("PALEHARBOR_PORT", "8200")
    monkeypatch.setenv("PALEHARBOR_NAMES", "one.example, two.example")
    # Set to nothing is not set.
    monkeypatch.setenv("PALEHARBOR_HOST", "")
    over = settings()
    assert (over.port_wanted, over.names, over.host) == (8200, ("one.example", "two.example"), "0.0.0.0")


@pytest.mark.parametrize(
    ("text", "where", "says"),
    [
        ('hosts = "x"', "hosts", "is no setting. Is host meant?"),
        ('wind = "x"', "wind", "There are: data, database,"),
        ('secret_keys = ["thirty-one letters are too few!"]', "secret_keys", "random texts of 32 letters or more"),
        ('path = "search"', "path", "a path of plain letters, such as /search"),
        ('path = "/a//b"', "path", "a path of plain letters"),
        ('path = "/a\\"b"', "path", "a path of plain letters"),
        ('asks_inside = ["10.0.0.1/8"]', "asks_inside", "addresses and networks, such as 10.1.0.0/16"),
        ("processor = -1", "processor", "a processor's number, counted from 0; here it is -1"),
        ("processor = 1024", "processor", "a processor's number"),
        ("port = 0", "port", "a port from 1 to 65535; here it is 0"),
        ("port = 65536", "port", "a port from 1 to 65535"),
        ("port = true", "port", "a port from 1 to 65535"),
        ("memory_bytes = 9999999", "memory_bytes", "a number of bytes from 10,000,000 on"),
        ("changes_days = 0", "changes_days", "a number of days from 1 to 36500; here it is 0"),
        ("changes_days = 36501", "changes_days", "a number of days from 1 to 36500"),
        ("request_bytes = 9999999", "request_bytes", "a number of bytes from 10,000,000 on"),
        ('names = ["http://x.example"]', "names", "names alone"),
        ('names = ["x.example:80"]', "names", "without ports"),
        ('names = ["*"]', "names", "without ports and signs"),
        ('names = [""]', "names", "a list of texts"),
        ('forwarded_from = ["proxy.example"]', "forwarded_from", "addresses of proxies"),
        ('log_level = "loud"', "log_level", "one of debug, info, warning, error"),
        ("host = 7", "host", "is a text"),
    ],
)
def test_what_is_wrong_is_named(tmp_path: Path, text: str, where: str, says: str):
    with pytest.raises(BadInput) as refused:
        settings(file_of(tmp_path, text))
    ((found, what),) = refused.value.problems
    assert found == where
    assert says in what


@pytest.mark.parametrize(
    "text",
    [
        "port = 1",
        "port = 65535",
        "stands_back = true",
        "processor = 0",
        "processor = 1023",
        "changes_days = 1",
        "changes_days = 36500",
        "memory_bytes = 10000000",
        'names = ["[::1]"]',
    ],
)
def test_what_is_just_right_is_taken(tmp_path: Path, text: str):
    settings(file_of(tmp_path, text))


def test_everything_that_is_wrong_is_told_at_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setenv("PALEHARBOR_PORTS", "8100")
    with pytest.raises(BadInput) as refused:
        settings(file_of(tmp_path, 'hosts = "x"\nport = "a"'))
    assert [where for where, _ in refused.value.problems] == ["hosts", "PALEHARBOR_PORTS", "port"]
    # What the environment says is named as it is called there.
    monkeypatch.delenv("PALEHARBOR_PORTS")
    monkeypatch.setenv("PALEHARBOR_PORT", "a")
    with pytest.raises(BadInput) as refused:
        settings()
    assert [where for where, _ in refused.value.problems] == ["PALEHARBOR_PORT"]


def test_a_file_that_is_none_is_told_of(tmp_path: Path):
    with pytest.raises(BadInput, match="cannot be read"):
        settings(tmp_path / "nowhere.toml")
    with pytest.raises(BadInput, match="are no TOML"):
        settings(file_of(tmp_path, "port 8100"))


@pytest.mark.parametrize(
    ("host", "is_loopback"),
    [("127.0.0.1", True), ("127.8.0.1", True), ("::1", True), ("localhost", True)]
    + [("0.0.0.0", False), ("::", False), ("10.0.0.5", False), ("search.example", False)],
)
def test_where_nobody_else_can_ask(host: str, is_loopback: bool):
    assert Settings(ROOT, host=host).listens_on_loopback is is_loopback


def test_a_path_is_read_without_its_last_stroke(tmp_path: Path):
    for written, path in (("/search/", "/search"), ("/", ""), ("", ""), ("/a-b/c.d_~1", "/a-b/c.d_~1")):
        assert settings(file_of(tmp_path, f'path = "{written}"')).path == path


def test_networks_and_keys_are_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    key = "thirty-two letters are just right"[:32]
    here = settings(file_of(tmp_path, f'asks_inside = ["10.1.0.0/16", "::1"]\nsecret_keys = ["{key}"]'))
    assert here.asks_inside == (ip_network("10.1.0.0/16"), ip_network("::1"))
    assert here.secret_keys == (key,)
    # Said to be none, nothing inside is asked; unsaid, it is as others reach the server or not.
    assert settings(file_of(tmp_path, "asks_inside = []")).asks_inside == ()
    assert settings().asks_inside is None


def test_others_reach_a_server_that_listens_elsewhere_has_a_name_or_a_proxy(tmp_path: Path):
    assert not Settings(tmp_path).others_reach_it
    assert Settings(tmp_path, host="0.0.0.0").others_reach_it
    assert Settings(tmp_path, names=("search.example",)).others_reach_it
    assert Settings(tmp_path, forwarded_from=("127.0.0.1",)).others_reach_it
