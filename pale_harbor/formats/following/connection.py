"""How another database is reached, as a JSON document; its password is kept apart from it."""

from pathlib import PurePath
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from pale_harbor.errors import BadInput

PASSWORD: Final = "password"

# As libpq names them: what a connection promises of encryption and of whom it reached.
SslMode = Literal["disable", "allow", "prefer", "require", "verify-ca", "verify-full"]

_Name = Annotated[str, Field(min_length=1, max_length=200, pattern=r"^[^\x00-\x1f]+$")]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class PostgreSQLAddress(_Strict):
    """A database of a PostgreSQL server."""

    kind: Literal["postgresql"] = "postgresql"
    host: _Name
    port: Annotated[int, Field(ge=1, le=65_535)] = 5432
    database: _Name
    user: _Name
    sslmode: SslMode = "prefer"

    @property
    def title(self) -> str:
        """What it is called where it is told of."""
        return f"{self.database} on {self.host}"

    @property
    def reached(self) -> tuple[str, ...]:
        """Whom a password is sent to: kept for another one, it is asked for again."""
        return (self.kind, self.host, str(self.port), self.user)


class MySQLAddress(_Strict):
    """A database of a MySQL or MariaDB server. encrypted: whether it is talked to by TLS alone."""

    kind: Literal["mysql"] = "mysql"
    host: _Name
    port: Annotated[int, Field(ge=1, le=65_535)] = 3306
    database: _Name
    user: _Name
    encrypted: bool = False

    @property
    def title(self) -> str:
        """What it is called where it is told of."""
        return f"{self.database} on {self.host}"

    @property
    def reached(self) -> tuple[str, ...]:
        """Whom a password is sent to."""
        return (self.kind, self.host, str(self.port), self.user)


class SQLiteAddress(_Strict):
    """A SQLite file on the machine of the server."""

    kind: Literal["sqlite"] = "sqlite"
    path: Annotated[str, Field(min_length=1, max_length=2_000, pattern=r"^/[^\x00]*$")]

    @property
    def title(self) -> str:
        """What it is called where it is told of."""
        return PurePath(self.path).name

    @property
    def reached(self) -> tuple[str, ...]:
        """There is no password."""
        return (self.kind, self.path)


DatabaseAddress = Annotated[PostgreSQLAddress | MySQLAddress | SQLiteAddress, Field(discriminator="kind")]


def database_address(data: Any) -> PostgreSQLAddress | MySQLAddress | SQLiteAddress:
    """The document, checked. Raises BadInput that names every place that is wrong."""
    try:
        return TypeAdapter[PostgreSQLAddress | MySQLAddress | SQLiteAddress](DatabaseAddress).validate_python(data)
    except ValidationError as error:
        problems = [(".".join(str(step) for step in one["loc"][1:]), one["msg"]) for one in error.errors()]
        raise BadInput("This connection cannot be used.", problems) from error
