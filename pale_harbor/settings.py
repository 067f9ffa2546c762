"""Where things are: the project's folder, its data folder, and what is kept there."""

import os
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from pale_harbor.errors import BadInput

ROOT = Path(__file__).resolve().parent.parent


# With less, a server would do nothing but make again what it let go of.
_LEAST_BYTES: Final = 10_000_000


@dataclass(frozen=True)
class Settings:
    """The data folder and the places in it. `PALEHARBOR_DATA` names another data folder.

    database_options: for the database's server, such as `-c shared_buffers=1GB`; `PALEHARBOR_DATABASE_OPTIONS`.
    memory_bytes: what the server may keep in memory to be quick; `PALEHARBOR_MEMORY_BYTES`. index_bytes: of index
    files on disk, which can be built again; `PALEHARBOR_INDEX_BYTES`.
    """

    data: Path
    database_options: str = ""
    memory_bytes: int = 1_000_000_000
    index_bytes: int = 20_000_000_000

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
        """The port that the server had last: links to it are to lead there again."""
        return self.data / "port"

    @property
    def local_key(self) -> Path:
        """What a command at this machine shows to the server: it keeps the installation."""
        return self.data / "local-key"

    @property
    def server(self) -> Path:
        """What is known of the running server: its process and its address."""
        return self.data / "server.json"


def settings() -> Settings:
    """The settings of this process, read from the environment. Raises BadInput for a number that is none."""
    named = os.environ.get("PALEHARBOR_DATA")
    return Settings(
        Path(named).resolve() if named else ROOT / "data",
        os.environ.get("PALEHARBOR_DATABASE_OPTIONS", ""),
        _bytes_of("PALEHARBOR_MEMORY_BYTES", Settings.memory_bytes),
        _bytes_of("PALEHARBOR_INDEX_BYTES", Settings.index_bytes),
    )


def _bytes_of(variable: str, usual: int) -> int:
    written = os.environ.get(variable, str(usual))
    if not (written.isdecimal() and int(written) >= _LEAST_BYTES):
        raise BadInput(f"{variable} is a number of bytes from {_LEAST_BYTES:,} on; here it is {written!r}.")
    return int(written)
