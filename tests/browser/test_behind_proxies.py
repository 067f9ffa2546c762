"""The examples of docs/examples as they stand: below a path, behind TLS, by two proxies, and a service file."""

import configparser
import os
import shlex
import socket
import subprocess
import sys
import time
from collections.abc import Generator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path

import httpx
import psycopg
import pytest
from playwright.sync_api import Browser, expect

from pale_harbor.store.cluster import Cluster
from pale_harbor.work.serving import DATABASE
from tests.browser.conftest import Command
from tests.certificates import make_certificate, trusting
from tests.conftest import NO_FSYNC, ROOT
from tests.provider import CLIENT, SECRET, TestProvider, a_provider

EXAMPLES = ROOT / "docs/examples"
PASSWORD = "a lamp for every ship"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def example(name: str, folder: Path, port: int, own: int) -> str:
    """An example with this test's ports and files in it, and nothing else changed."""
    text = (EXAMPLES / name).read_text()
    changes = {
        "/etc/ssl/saltmere": str(folder),
        "listen 443": f"listen 127.0.0.1:{port}",
        "bind :443": f"bind 127.0.0.1:{port}",
        "127.0.0.1:7340": f"127.0.0.1:{own}",
        "port = 7340": f"port = {own}",
        "search.saltmere.example": "localhost",
    }
    for old, new in changes.items():
        text = text.replace(old, new)
    return text


def nginx(folder: Path, port: int, own: int) -> list[str]:
    return nginx_with(folder, example("nginx.conf", folder, port, own))


def nginx_with(folder: Path, server: str) -> list[str]:
    file = folder / "nginx.conf"
    file.write_text(
        f"daemon off; pid {folder}/nginx.pid; error_log {folder}/error.log;\nevents {{}}\n"
        f"http {{ access_log off; client_body_temp_path {folder}/body; proxy_temp_path {folder}/proxy;\n"
        f"fastcgi_temp_path {folder}/f; uwsgi_temp_path {folder}/u; scgi_temp_path {folder}/s;\n{server}\n}}\n"
    )
    return ["/usr/sbin/nginx", "-c", str(file), "-e", f"{folder}/error.log"]


def haproxy(folder: Path, port: int, own: int) -> list[str]:
    file = folder / "haproxy.cfg"
    file.write_text(example("haproxy.cfg", folder, port, own))
    return ["/usr/sbin/haproxy", "-f", str(file), "-db"]


PROXIES = {"nginx": nginx, "haproxy": haproxy}


@contextmanager
def running(
    arguments: list[str], environment: dict[str, str] | None = None, *, ends_well: bool = False
) -> Generator["subprocess.Popen[str]"]:
    process = subprocess.Popen(
        arguments, cwd=ROOT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    try:
        yield process
    finally:
        process.terminate()
        code = process.wait(60)
        assert code == 0 or not ends_well


def wait_for(address: str, process: "subprocess.Popen[str]", folder: Path) -> None:
    until = time.monotonic() + 120
    while time.monotonic() < until:
        assert process.poll() is None, process.communicate()[0]
        with suppress(httpx.HTTPError, ValueError):
            if httpx.get(f"{address}/api/health", verify=trusting(folder / "certificate.pem")).json().get("ready"):
                return
        time.sleep(0.1)
    raise AssertionError(f"nobody answers at {address}")


def environment() -> dict[str, str]:
    """Of a server that settings tell everything else."""
    own = {name: value for name, value in os.environ.items() if not name.startswith("PALEHARBOR_")}
    return own | {"PALEHARBOR_DATABASE_OPTIONS": NO_FSYNC}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = tmp_path_factory.mktemp("proxies")
    made.chmod(0o755)
    make_certificate(made)
    return made


@pytest.fixture(scope="module")
def place() -> Generator[TestProvider]:
    """Another place that says who people are."""
    with a_provider() as own:
        own.claims = {"sub": "17", "preferred_username": "ib@ferry.example", "name": "Ib Sand"}
        yield own


@pytest.fixture(scope="module")
def server(command: Command, folder: Path, place: TestProvider) -> Generator[int]:
    """A server as the example of settings and the service file say, with the demo; gives its port."""
    assert command("person", "add", "nora", "--shown", "Nora Vane", "--keeper", text=f"{PASSWORD}\n").returncode == 0
    port = free_port()
    data = str(command.data)  # type: ignore[attr-defined]
    settings = folder / "harbor.toml"
    settings.write_text(
        example("harbor.toml", folder, 0, port).replace("/var/lib/paleharbor", data)
        + f'provider = "{place.address}"\nprovider_client = "{CLIENT}"\nprovider_secret = "{SECRET}"\n'
        'provider_name = "the Ferry House"\n'
    )
    assert command("person", "add", "ib@ferry.example", "--shown", "Ib Sand", "--elsewhere").returncode == 0
    assert command("member", "set", "saltmere", "ib@ferry.example", "reader").returncode == 0
    made = command("key", "visitor", "saltmere", "the site")
    assert made.returncode == 0, made.stderr
    (folder / "key.txt").write_text(made.stdout.strip())
    service = configparser.RawConfigParser(strict=False)
    service.optionxform = str  # type: ignore[assignment, method-assign]
    service.read(EXAMPLES / "paleharbor.service")
    program, *arguments = shlex.split(service["Service"]["ExecStart"])
    assert program == f"{service['Service']['WorkingDirectory']}/paleharbor"
    arguments = [str(settings) if one == "/etc/paleharbor/harbor.toml" else one for one in arguments]
    with running([sys.executable, "-m", "pale_harbor.cli", *arguments], environment(), ends_well=True) as process:
        wait_for(f"http://127.0.0.1:{port}/search", process, folder)
        yield port
    # Nothing is left behind: its own database ended with it.
    assert not (Path(data) / "database/cluster/postmaster.pid").exists()


@pytest.fixture(scope="module", params=sorted(PROXIES))
def address(request: pytest.FixtureRequest, server: int, tmp_path_factory: pytest.TempPathFactory) -> Generator[str]:
    """Where the page is, by each proxy."""
    own = tmp_path_factory.mktemp(request.param)
    own.chmod(0o777)
    make_certificate(own)
    port = free_port()
    with running(PROXIES[request.param](own, port, server)) as process:
        address = f"https://localhost:{port}/search"
        wait_for(address, process, own)
        (own / "certificate.pem").replace(own.parent / f"{port}.pem")
        yield address


@pytest.fixture
def client(address: str, tmp_path_factory: pytest.TempPathFactory) -> Generator[httpx.Client]:
    port = address.split(":")[2].split("/", maxsplit=1)[0]
    with httpx.Client(base_url=address, verify=trusting(tmp_path_factory.getbasetemp() / f"{port}.pem")) as asking:
        yield asking


def sign_in(client: httpx.Client) -> httpx.Response:
    return client.post("/api/sign-in", json={"name": "nora", "password": PASSWORD})


def test_one_signs_in_below_the_path_and_over_tls_alone(client: httpx.Client):
    assert client.get("/api/collections").status_code == 401
    cookie = sign_in(client).headers["set-cookie"]
    assert {"Secure", "HttpOnly", "Path=/search", "SameSite=lax"} <= set(cookie.split("; "))
    assert [one["name"] for one in client.get("/api/collections").json()] == ["logbooks", "saltmere"]
    # Changes from the page itself come through, from another site's they do not.
    origin = str(client.base_url).removesuffix("/search/")
    for asked, status in ((origin, 204), ("https://other.example", 403)):
        assert client.post("/api/sign-out", headers={"Origin": asked}).status_code == status
        sign_in(client)


def test_who_asks_is_who_the_proxy_says_and_nobody_says_so_themselves(command: Command, client: httpx.Client):
    # Fifty failed attempts from one address are too many, and all come from this one, whatever they claim.
    said = [
        client.post(
            "/api/sign-in",
            json={"name": f"nobody{i}", "password": "x" * 12},
            headers={"X-Forwarded-For": f"203.0.113.{i}", "Forwarded": f"for=203.0.113.{i}"},
        ).status_code
        for i in range(51)
    ]
    assert said == [403] * 50 + [429]
    data: Path = command.data  # type: ignore[attr-defined]
    with psycopg.connect(Cluster(data / "database").address(DATABASE)) as connection:
        addresses = connection.execute("delete from failed_visits returning address").fetchall()
    assert set(addresses) == {("127.0.0.1",)}


def test_events_come_as_they_are_told(client: httpx.Client):
    sign_in(client)
    path = "/api/collections/saltmere/judged/board"
    files = {"queries": "q1\tfog bell\n", "judgments": "q1 0 sm0029 3\n"}
    with client.stream("GET", "/api/events", timeout=20) as told:
        assert told.status_code == 200
        heard = told.iter_lines()
        # Told at once, since something may have been missed.
        assert next(heard) == 'data: {"subject":"again"}'
        assert client.put(f"{path}/files", json=files).is_success
        # A sign of life comes every fifteen seconds; what was done is told before that.
        lines = [next(heard) for _ in range(3)]
        assert any('"subject":"judging"' in line for line in lines), lines
    assert client.delete(path).is_success


def test_a_visitor_finds_their_way_below_the_path(browser: Browser, address: str):
    context = browser.new_context(viewport={"width": 1280, "height": 800}, ignore_https_errors=True)
    page = context.new_page()
    strangers: list[str] = []
    complaints: list[str] = []
    page.on("request", lambda r: None if r.url.startswith((f"{address}/", "data:")) else strangers.append(r.url))
    page.on("pageerror", lambda error: complaints.append(str(error)))
    # The way in is told without its last stroke, too.
    page.goto(address)
    page.get_by_label("Name").fill("nora")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url(f"{address}/saltmere**")
    page.goto(f"{address}/saltmere/records?view=browse")
    expect(page.get_by_text("1,554").first).to_be_visible()
    page.goto(f"{address}/saltmere/ranking?q=harpoon+gun")
    page.reload()
    for own in ("favicon", "/pictures/"):
        page.wait_for_function(
            "own => [...document.images].some(one => one.src.includes(own) && one.naturalWidth > 0)", arg=own
        )
    page.goto(f"{address}/saltmere/people?view=members")
    page.get_by_label("Who, as others see the name").fill("Ib Sand")
    page.get_by_role("button", name="Make a link").click()
    link = page.get_by_role("status").filter(has_text="Send this to Ib Sand").locator("code").inner_text()
    assert link.startswith(f"{address}/invited/")
    other = browser.new_context(ignore_https_errors=True).new_page()
    other.goto(link)
    expect(other.get_by_role("heading", name="Come to saltmere")).to_be_visible()
    other.get_by_role("link", name="Sign in first").click()
    other.wait_for_url(f"{address}/sign-in?to=%2Finvited%2F*")
    with page.expect_download() as saved:
        page.goto(f"{address}/saltmere/people?view=changes")
        page.locator("a[download]").first.click()
    assert saved.value.suggested_filename.endswith(".csv")
    assert strangers in ([], [address])
    assert complaints == []
    other.context.close()
    context.close()


def test_one_signs_in_by_the_account_of_the_house(browser: Browser, address: str, place: TestProvider):
    context = browser.new_context(viewport={"width": 1280, "height": 800}, ignore_https_errors=True)
    page = context.new_page()
    page.goto(f"{address}/saltmere/people?view=you")
    page.get_by_role("link", name="Sign in with the Ferry House").click()
    # Back from there, where one wanted to go.
    page.wait_for_url(f"{address}/saltmere/people?view=you")
    expect(page.get_by_role("heading", name="Ib Sand")).to_be_visible()
    expect(page.get_by_text("You sign in as ib@ferry.example")).to_be_visible()
    page.get_by_role("button", name="Sign out", exact=True).click()
    # The page is begun anew then, and asks who is here.
    page.wait_for_url(f"{address}/sign-in?to=%2F")
    place.refuses = "access_denied"
    page.get_by_role("link", name="Sign in with the Ferry House").click()
    expect(page.get_by_role("alert")).to_have_text("the Ferry House did not let you in (access_denied).")
    place.refuses = None
    context.close()


def test_the_service_file_is_one():
    checked = subprocess.run(
        ["systemd-analyze", "verify", "--man=no", str(EXAMPLES / "paleharbor.service")],
        check=False,
        capture_output=True,
        text=True,
    )
    # That the program is not installed where the example has it is no fault of the example's.
    faults = [line for line in checked.stderr.splitlines() if "paleharbor.service" in line]
    assert [line for line in faults if "is not executable" not in line] == []


def test_visitors_are_answered_by_servers_that_only_search(
    server: int, folder: Path, tmp_path_factory: pytest.TempPathFactory
):
    own = tmp_path_factory.mktemp("visitors")
    own.chmod(0o777)
    make_certificate(own)
    port, *others = free_port(), free_port(), free_port()
    text = example("nginx-visitors.conf", own, port, server)
    with ExitStack() as held:
        for number, other in zip((7350, 7351), others, strict=True):
            text = text.replace(f"127.0.0.1:{number}", f"127.0.0.1:{other}")
            arguments = ["serve", "--settings", str(folder / "harbor.toml"), "--port", str(other)]
            searches_only = environment() | {"PALEHARBOR_SEARCHES_ONLY": "true"}
            process = held.enter_context(running([sys.executable, "-m", "pale_harbor.cli", *arguments], searches_only))
            wait_for(f"http://127.0.0.1:{other}/search", process, own)
        proxy = held.enter_context(running(nginx_with(own, text)))
        wait_for(f"https://localhost:{port}/search", proxy, own)
        address = f"https://localhost:{port}/search"
        client = held.enter_context(httpx.Client(base_url=address, verify=trusting(own / "certificate.pem")))
        said = {"query": "fog bell", "session": "a-visit-1", "key": (folder / "key.txt").read_text()}
        found = client.get("/v1/saltmere/search", params=said).json()
        assert found["results"]
        # The list is known where it is clicked in, though it is hardly written yet.
        told = {"query_id": found["query_id"], "kind": "click", "record": found["results"][0]["key"]}
        assert client.post("/v1/saltmere/events", params={"key": said["key"]}, json=told).status_code == 204
        # Whatever is not theirs is the other server's.
        assert sign_in(client).status_code == 204
        assert client.get("/api/collections").status_code == 200
        asked = [_searches_answered(other) for other in others]
        assert sorted(one > 0 for one in asked) == [False, True], asked


def _searches_answered(port: int) -> float:
    """By a server's own count."""
    with httpx.Client(base_url=f"http://127.0.0.1:{port}/search") as client:
        # Not by TLS, as a browser would want it.
        cookie = sign_in(client).headers["set-cookie"].split(";")[0]
        counted = client.get("/metrics", headers={"Cookie": cookie}).text
    return sum(float(line.split()[-1]) for line in counted.splitlines() if line.startswith(_SEARCHES))


_SEARCHES = 'paleharbor_requests_total{endpoint="world_search"'
