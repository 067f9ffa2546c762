"""Other databases reached by kept connections: through the one door, with what is secret opened for that alone."""

from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from psycopg.conninfo import make_conninfo

from pale_harbor.errors import BadInput
from pale_harbor.formats.following.connection import (
    PASSWORD,
    MySQLAddress,
    PostgreSQLAddress,
    SQLiteAddress,
    database_address,
)
from pale_harbor.store.following.connections import KeptConnection
from pale_harbor.store.following.live.postgresql import LivePostgreSQL
from pale_harbor.store.following.live.rows import Bounds, LiveDatabase, SourceAway, SourceRefuses
from pale_harbor.store.following.live.sqlite import LiveSQLite
from pale_harbor.work.running.door import Closed, the_door
from pale_harbor.work.running.sealing import Sealing

if TYPE_CHECKING:
    from pale_harbor.store.following.live.mysql import LiveMySQL

# Reading everything takes its time; what concerns a few records does not.
USUAL: Final = Bounds()
WHOLE: Final = Bounds(statement_s=3_600.0)


def reach(kept: KeptConnection, sealing: Sealing, bounds: Bounds = USUAL) -> LiveDatabase:
    """Another database, open. Raises SourceAway, SourceRefuses, BadInput where it may not be asked from here."""
    return reach_at(kept.document, sealing.opened(kept.secrets), bounds)


def reach_at(document: dict[str, Any], secrets: dict[str, str], bounds: Bounds = USUAL) -> LiveDatabase:
    """The same by a document and what is secret. Raises SourceAway, SourceRefuses, BadInput."""
    address = database_address(document)
    password = secrets.get(PASSWORD, "")
    match address:
        case PostgreSQLAddress():
            return LivePostgreSQL(postgresql_address(address, password), bounds)
        case MySQLAddress():
            return _mysql()(
                _host(address.host, address.port),
                address.port,
                address.database,
                address.user,
                password,
                encrypted=address.encrypted,
                bounds=bounds,
            )
        case SQLiteAddress():
            if the_door().inside is not None:
                raise BadInput(
                    "Files of the server's machine are read only where nobody but who is at that machine reaches the "
                    "server."
                )
            return LiveSQLite(Path(address.path), bounds)


def reach_postgresql(kept: KeptConnection, sealing: Sealing, bounds: Bounds = USUAL) -> LivePostgreSQL:
    """Another PostgreSQL, open. Raises BadInput where it is none, and as `reach`."""
    live = reach(kept, sealing, bounds)
    if not isinstance(live, LivePostgreSQL):
        live.__exit__(None, None, None)
        raise BadInput(f'"{kept.name}" is no PostgreSQL: its tables are not told, and it is followed by asking alone.')
    return live


def postgresql_address(address: PostgreSQLAddress, password: str) -> str:
    """The libpq connection string of an address, as it may be connected by. Raises BadInput, SourceAway."""
    parts = make_conninfo(
        "",
        host=address.host,
        port=address.port,
        dbname=address.database,
        user=address.user,
        sslmode=address.sslmode,
        **({"password": password} if password else {}),
    )
    return the_door().database_address(parts)


def _mysql() -> "type[LiveMySQL]":
    try:
        from pale_harbor.store.following.live.mysql import LiveMySQL  # noqa: PLC0415  # an extra, which may be missing
    except ModuleNotFoundError as error:
        raise SourceRefuses(
            "To read MySQL or MariaDB its driver is needed: have PyMySQL installed beside Pale Harbor "
            '(pip install "pale-harbor[mysql]"), and start the server anew.'
        ) from error
    return LiveMySQL


def _host(host: str, port: int) -> str:
    door = the_door()
    if door.inside is None:
        return host
    try:
        return door.address_of(host, port)
    except Closed as error:
        raise SourceAway(f"This database cannot be asked: {error}.") from error
