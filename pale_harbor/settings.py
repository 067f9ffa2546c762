"""Where things are: the project's folder, its data folder, and what is kept there."""

import os
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


@dataclass(frozen=True, slots=True)
class Settings:
    """The data folder and the places in it. `PALEHARBOR_DATA` names another data folder.

    database_options: for the database's server, such as `-c shared_buffers=1GB`; `PALEHARBOR_DATABASE_OPTIONS`.
    """

    data: Path
    database_options: str = ""

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
        return self.data / "logs"

    @property
    def server(self) -> Path:
        """What is known of the running server: its process and its address."""
        return self.data / "server.json"


def settings() -> Settings:
    """The settings of this process, read from the environment."""
    named = os.environ.get("PALEHARBOR_DATA")
    data = Path(named).resolve() if named else ROOT / "data"
    return Settings(data, os.environ.get("PALEHARBOR_DATABASE_OPTIONS", ""))
