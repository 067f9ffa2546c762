"""Settings: from a file and from the environment, each declared here once; and where things are in the data folder."""

import os
import tomllib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from difflib import get_close_matches
from ipaddress import ip_address
from pathlib import Path
from typing import Any, Final

from pale_harbor.errors import BadInput

ROOT = Path(__file__).resolve().parent.parent

# Names a file of settings; the others are named after the settings themselves.
FILE: Final = "PALEHARBOR_SETTINGS"
_PREFIX: Final = "PALEHARBOR_"
# In the environment beside settings: who gives a command, and where a server's log goes.
_OTHERS: Final = (FILE, "PALEHARBOR_PERSON", "PALEHARBOR_LOG_FILE")
LOG_LEVELS: Final = ("debug", "info", "warning", "error")
# With less, a server would do nothing but make again what it let go of.
_LEAST_BYTES: Final = 10_000_000


@dataclass(frozen=True)
class Settings:
    """The data folder and the places in it, and how a server is run.

    database: the address of a PostgreSQL that is there already (a libpq connection string); None: its own, in the data
    folder. database_options: for its own one, such as `-c shared_buffers=1GB`. memory_bytes: what a server may keep in
    memory to be quick. index_bytes: of index files on disk, which can be built again. host, port_wanted: where `serve`
    listens; names: beside loopback's, by which it is asked, without ports. forwarded_from: addresses of proxies whose
    word on who asks is believed. log_level: what is told of.
    """

    data: Path
    database: str | None = None
    database_options: str = ""
    memory_bytes: int = 1_000_000_000
    index_bytes: int = 20_000_000_000
    host: str = "127.0.0.1"
    port_wanted: int = 7340
    names: tuple[str, ...] = ()
    forwarded_from: tuple[str, ...] = ()
    log_level: str = "info"

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


def _addresses(value: Any) -> tuple[str, ...]:
    for address in (addresses := _texts(value)):
        if not _is_address(address):
            raise ValueError(f"holds addresses of proxies, such as 10.0.0.5; not {address!r}.")
    return addresses


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
    "host": _text,
    "port": _port,
    "names": _names,
    "forwarded_from": _addresses,
    "log_level": _level,
}
_FIELD_OF: Final = {"port": "port_wanted"}
assert {_FIELD_OF.get(name, name) for name in _READ} == {field.name for field in fields(Settings)}
