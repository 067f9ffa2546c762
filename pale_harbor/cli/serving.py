"""`up`, `down` and `serve`: the running application."""

import socket
import sys
from typing import Annotated, Final

import typer

# Of the interpreter, for each thread that wants one.
_SECONDS_A_TURN: Final = 0.0005


def add_to(app: typer.Typer) -> None:
    app.command()(up)
    app.command()(down)
    app.command(hidden=True)(serve)


def up() -> None:
    """Starts the database and the server, with the demo loaded, and prints the address."""
    from pale_harbor.settings import settings
    from pale_harbor.work.demo_wanted import demo_is_wanted
    from pale_harbor.work.serving import kept_port, ready_pool, running_address, start_server

    here = settings()
    here.data.mkdir(parents=True, exist_ok=True)
    with ready_pool(here) as pool:
        if demo_is_wanted(pool):
            from pale_harbor.work.demo import load_demo
            from pale_harbor.work.workbench import Workbench, memory_of

            load_demo(Workbench(pool, here.indexes, memory_of(here)))
    before = kept_port(here)
    address = running_address(here) or start_server(here)
    if before is not None and not address.endswith(f":{before}"):
        print(
            f"Another program has taken port {before}, which the server had before: links to it lead elsewhere now.",
            file=sys.stderr,
        )
    print(address)


def down() -> None:
    """Stops the server and the database."""
    from pale_harbor.settings import settings
    from pale_harbor.store.cluster import Cluster
    from pale_harbor.work.serving import stop_server

    here = settings()
    was_running = stop_server(here)
    cluster = Cluster(here.cluster, here.database_options)
    was_running = cluster.running() or was_running
    cluster.stop()
    print("Stopped." if was_running else "Nothing was running.")


def serve(
    port: Annotated[int, typer.Option(min=1, max=65_535)],
    listening: Annotated[int | None, typer.Option(help="A descriptor that listens on the port already.")] = None,
) -> None:
    """Serves the application on loopback until it is stopped; `up` starts this in the background."""
    import uvicorn

    from pale_harbor.api.app import make_app
    from pale_harbor.cli.in_server import CommandsInServer
    from pale_harbor.settings import settings
    from pale_harbor.work.people.local_key import local_key
    from pale_harbor.work.running.open_files import allow_open_files
    from pale_harbor.work.running.processes import Processes
    from pale_harbor.work.serving import ready_pool
    from pale_harbor.work.workbench import Workbench, memory_of

    here = settings()
    with ready_pool(here) as pool:
        bench = Workbench(pool, here.indexes, memory_of(here), Processes(str(pool.conninfo)))
        app = make_app(bench, commands=CommandsInServer(bench), local_key=local_key(here.local_key))
        # Five milliseconds, which is usual, are as long as a search takes: it waits so for each turn of its own.
        sys.setswitchinterval(_SECONDS_A_TURN)
        allow_open_files()
        server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_config=None, access_log=False))
        server.run(sockets=None if listening is None else [socket.socket(fileno=listening)])
