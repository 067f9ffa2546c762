"""Settings: from a file and from the environment, each declared here once; and where things are in the data folder."""

import os
import re
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from difflib import get_close_matches
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network
from pathlib import Path
from typing import Any, Final
from urllib.parse import urlsplit

from pale_harbor.errors import BadInput

ROOT = Path(__file__).resolve().parent.parent

# Names a file of settings; the others are named after the settings themselves.
FILE: Final = "PALEHARBOR_SETTINGS"
_PREFIX: Final = "PALEHARBOR_"
# In the environment beside settings: who gives a command, and where a server's log goes.
_OTHERS: Final = (FILE, "PALEHARBOR_PERSON", "PALEHARBOR_LOG_FILE")
# In the data folder: what seals secrets where the settings name no key.
SECRET_KEY: Final = "secret-key"
LOG_LEVELS: Final = ("debug", "info", "warning", "error")
# With less, a server would do nothing but make again what it let go of.
_LEAST_BYTES: Final = 10_000_000
# Of a key: 128 bits and more, however it is written.
_LEAST_LETTERS: Final = 32


@dataclass(frozen=True)
class Settings:
    """The data folder and the places in it, and how a server is run.

    database: the address of a PostgreSQL that is there already (a libpq connection string); None: its own, in the
    data folder. database_options: for its own one, such as `-c shared_buffers=1GB`. memory_bytes: what a server may
    keep in memory to be quick. index_bytes: of index files on disk, which can be built again. most_bytes: of memory
    that it and the processes that it began may hold, beyond which nothing more is begun; request_bytes: that one
    request may take; None: by what the machine has. host, port_wanted:
    where `serve` listens; path: below which a proxy has the page, such as /search, "" at the top of its host;
    searches_only: whether it changes nothing, beside the one server that does; stands_back: whether whatever else needs
    the processors goes first; processor: on which one its threads take
    turns, counted from 0, None: on all; names: beside loopback's, by which
    it is asked, without ports. forwarded_from: addresses of proxies whose word on who asks is believed. provider:
    the issuer that says who people are (OpenID Connect), to which this server is known as provider_client with
    provider_secret; provider_name: what it is called on the page. asks_inside: networks inside, loopback too, whose
    services may be asked; None: all of them, unless others reach the server. secret_keys: random texts that seal
    what is secret, the newest first; none: one that is made in the data folder. changes_days: for how long it is kept
    who changed what; None: as long as there is data. log_level: what is told of.
    """

    data: Path
    database: str | None = None
    database_options: str = ""
    memory_bytes: int = 1_000_000_000
    index_bytes: int = 20_000_000_000
    most_bytes: int | None = None
    request_bytes: int | None = None
    host: str = "127.0.0.1"
    port_wanted: int = 7340
    path: str = ""
    searches_only: bool = False
    stands_back: bool = False
    processor: int | None = None
    names: tuple[str, ...] = ()
    forwarded_from: tuple[str, ...] = ()
    provider: str | None = None
    provider_client: str | None = None
    provider_secret: str | None = None
    provider_name: str = "your house's account"
    asks_inside: tuple[IPv4Network | IPv6Network, ...] | None = None
    secret_keys: tuple[str, ...] = ()
    changes_days: int | None = None
    log_level: str = "info"

    @property
    def others_reach_it(self) -> bool:
        """Whether others than whoever is at this machine are meant to reach the server, if only through a proxy."""
        return not self.listens_on_loopback or bool(self.names or self.forwarded_from)

    @property
    def listens_on_loopback(self) -> bool:
        """Whether nobody but whoever is at this machine can ask."""
        return self.host == "localhost" or (_is_address(self.host) and ip_address(self.host).is_loopback)

    @property
    def cluster(self) -> Path:
        """The database's own folder."""
        return self.data / "database"

    @property
    def indexes(self) -> Path:
        """Index files; they can always be built again."""
        return self.data / "indexes"

    @property
    def uploads(self) -> Path:
        """Files on their way in."""
        return self.data / "uploads"

    @property
    def logs(self) -> Path:
        """The folder of the logs."""
        return self.data / "logs"

    @property
    def port(self) -> Path:
        """The port that `up` had last: links to it are to lead there again."""
        return self.data / "port"

    @property
    def local_key(self) -> Path:
        """What a command at this machine shows to the server: it keeps the installation."""
        return self.data / "local-key"

    @property
    def server(self) -> Path:
        """What is known of the running server: its process and its address."""
        return self.data / "server.json"


def settings(file: Path | None = None) -> Settings:
    """The settings of this process: as they are usually, as the file says, and as the environment says over that.

    file: TOML; the one that PALEHARBOR_SETTINGS names where it is None. Raises BadInput that names every one that is
    wrong or unknown.
    """
    problems: list[tuple[str, str]] = []
    named = file or (Path(os.environ[FILE]) if os.environ.get(FILE) else None)
    written: dict[str, Any] = {"data": str(ROOT / "data")}
    if named is not None:
        written |= _of_file(named, problems)
    said = _of_environment(os.environ, problems)
    written |= said
    read: dict[str, Any] = {}
    for name, value in written.items():
        try:
            read[_FIELD_OF.get(name, name)] = _READ[name](value)
        except ValueError as error:
            problems.append((f"{_PREFIX}{name.upper()}" if name in said else name, str(error)))
    if problems:
        raise BadInput("These settings cannot be used.", problems)
    return Settings(**read)


def _of_file(file: Path, problems: list[tuple[str, str]]) -> dict[str, Any]:
    try:
        written = tomllib.loads(file.read_text("utf-8"))
    except OSError as error:
        raise BadInput(f"The settings {file} cannot be read: {error.strerror}.") from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise BadInput(f"The settings {file} are no TOML: {error}.") from error
    problems += [(name, _unknown(name)) for name in written if name not in _READ]
    return {name: value for name, value in written.items() if name in _READ}


def _of_environment(environment: Mapping[str, str], problems: list[tuple[str, str]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for variable, value in environment.items():
        if not variable.startswith(_PREFIX) or variable in _OTHERS:
            continue
        name = variable.removeprefix(_PREFIX).lower()
        if name in _READ:
            if value:
                found[name] = value
        else:
            problems.append((variable, _unknown(name)))
    return found


def _unknown(name: str) -> str:
    near = get_close_matches(name, _READ, 1)
    return f"is no setting. {f'Is {near[0]} meant?' if near else 'There are: ' + ', '.join(_READ) + '.'}"


def _path(value: Any) -> Path:
    return Path(_text(value)).resolve()


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"is a text; here it is {value!r}.")
    return value


def _bytes(value: Any) -> int:
    number = _whole(value)
    if number is None or number < _LEAST_BYTES:
        raise ValueError(f"is a number of bytes from {_LEAST_BYTES:,} on; here it is {value!r}.")
    return number


def _days(value: Any) -> int:
    number = _whole(value)
    if number is None or not 1 <= number <= 36_500:
        raise ValueError(f"is a number of days from 1 to 36500; here it is {value!r}.")
    return number


def _processor(value: Any) -> int:
    number = _whole(value)
    if number is None or not 0 <= number <= 1_023:
        raise ValueError(f"is a processor's number, counted from 0; here it is {value!r}.")
    return number


def _port(value: Any) -> int:
    number = _whole(value)
    if number is None or not 1 <= number <= 65_535:
        raise ValueError(f"is a port from 1 to 65535; here it is {value!r}.")
    return number


def _whole(value: Any) -> int | None:
    if isinstance(value, str) and value.isdecimal():
        return int(value)
    return value if isinstance(value, int) and not isinstance(value, bool) else None


def _texts(value: Any) -> tuple[str, ...]:
    """A list of texts, in the environment with commas between them."""
    many: Any = [one.strip() for one in value.split(",")] if isinstance(value, str) else value
    if not isinstance(many, list) or not all(isinstance(one, str) and one for one in many):
        raise ValueError(f"is a list of texts; here it is {value!r}.")
    return tuple(many)


def _names(value: Any) -> tuple[str, ...]:
    for name in (names := _texts(value)):
        if "/" in name or "*" in name or (":" in name and not name.startswith("[")):
            raise ValueError(f"holds names alone, such as search.example.org, without ports and signs; not {name!r}.")
    return names


def _flag(value: Any) -> bool:
    found = {"true": True, "false": False}.get(value) if isinstance(value, str) else value
    if not isinstance(found, bool):
        raise ValueError(f"is true or false; here it is {value!r}.")
    return found


def _below(value: Any) -> str:
    path = _text(value).rstrip("/")
    if path and re.fullmatch(r"(/[A-Za-z0-9._~-]+)+", path) is None:
        raise ValueError(f"is a path of plain letters, such as /search; not {value!r}.")
    return path


def _addresses(value: Any) -> tuple[str, ...]:
    for address in (addresses := _texts(value)):
        if not _is_address(address):
            raise ValueError(f"holds addresses of proxies, such as 10.0.0.5; not {address!r}.")
    return addresses


def _issuer(value: Any) -> str:
    parts = urlsplit(issuer := _text(value))
    # OpenID Connect Discovery 1.0: without anything behind its path. Plainly only at this machine.
    is_plain_here = parts.scheme == "http" and (parts.hostname or "") in ("127.0.0.1", "localhost", "::1")
    if not parts.hostname or parts.query or parts.fragment or (parts.scheme != "https" and not is_plain_here):
        raise ValueError(f"is the address by which a provider calls itself, https://…; not {value!r}.")
    return issuer


def _networks(value: Any) -> tuple[IPv4Network | IPv6Network, ...]:
    try:
        return tuple(ip_network(one) for one in _texts(value))
    except ValueError as error:
        raise ValueError(f"holds addresses and networks, such as 10.1.0.0/16; not {value!r}.") from error


def _keys(value: Any) -> tuple[str, ...]:
    keys = _texts(value)
    if any(len(key) < _LEAST_LETTERS for key in keys):
        raise ValueError(f"holds random texts of {_LEAST_LETTERS} letters or more each.")
    return keys


def _level(value: Any) -> str:
    if value not in LOG_LEVELS:
        raise ValueError(f"is one of {', '.join(LOG_LEVELS)}; here it is {value!r}.")
    return str(value)


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True


# How each setting is read, by the name that it has in a file; in the environment it is PALEHARBOR_ and the name.
_READ: Final[dict[str, Callable[[Any], Any]]] = {
    "data": _path,
    "database": _text,
    "database_options": _text,
    "memory_bytes": _bytes,
    "index_bytes": _bytes,
    "most_bytes": _bytes,
    "request_bytes": _bytes,
    "host": _text,
    "port": _port,
    "path": _below,
    "searches_only": _flag,
    "stands_back": _flag,
    "processor": _processor,
    "names": _names,
    "forwarded_from": _addresses,
    "provider": _issuer,
    "provider_client": _text,
    "provider_secret": _text,
    "provider_name": _text,
    "asks_inside": _networks,
    "secret_keys": _keys,
    "changes_days": _days,
    "log_level": _level,
}
_FIELD_OF: Final = {"port": "port_wanted"}
assert {_FIELD_OF.get(name, name) for name in _READ} == {field.name for field in fields(Settings)}
