"""`up`, `down` and `serve`: the running application."""

import os
import signal
import socket
import sys
from contextlib import ExitStack
from pathlib import Path
from types import FrameType
from typing import Annotated, Final

import typer

# Of the interpreter, for each thread that wants one.
_SECONDS_A_TURN: Final = 0.0005
# Requests that are under way when it is stopped have so long to end.
_SECONDS_TO_END: Final = 15
# A connection that is idle is closed by whoever asks, not here: closed just as a request is sent, that one is lost.
# Browsers and proxies keep theirs for a minute or less.
_SECONDS_KEPT_OPEN: Final = 75


def add_to(app: typer.Typer) -> None:
    app.command()(up)
    app.command()(down)
    app.command()(serve)


def up() -> None:
    """Starts the database and the server, with the demo loaded, and prints the address."""
    from pale_harbor.settings import settings
    from pale_harbor.work.demo_wanted import demo_is_wanted, logbooks_are_wanted
    from pale_harbor.work.serving import kept_port, ready_pool, server_of, start_server

    here = settings()
    here.data.mkdir(parents=True, exist_ok=True)
    with ready_pool(here) as pool:
        database = str(pool.conninfo)
        if demo_is_wanted(pool):
            from pale_harbor.work.demo import load_demo
            from pale_harbor.work.workbench import Workbench, memory_of

            load_demo(Workbench(pool, here.indexes, memory_of(here)))
        if logbooks_are_wanted(pool):
            from pale_harbor.work.demo_logbooks import load_logbooks
            from pale_harbor.work.workbench import Workbench, memory_of

            load_logbooks(Workbench(pool, here.indexes, memory_of(here)))
    before = kept_port(here)
    address = server_of(here, database) or start_server(here, database)
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
    # A database that is there already is somebody else's to stop.
    if here.database is None:
        cluster = Cluster(here.cluster, here.database_options)
        was_running = cluster.running() or was_running
        cluster.stop()
    print("Stopped." if was_running else "Nothing was running.")


def serve(
    file: Annotated[
        Path | None, typer.Option("--settings", help="A file of settings (TOML); over it the environment counts.")
    ] = None,
    listening: Annotated[
        int | None, typer.Option(hidden=True, help="A descriptor that listens on loopback already.")
    ] = None,
    port: Annotated[int | None, typer.Option(min=1, max=65_535, help="The port, whatever the settings say.")] = None,
) -> None:
    """Serves as the settings say until it is stopped; `up` begins one on loopback in the background."""
    import uvicorn

    from pale_harbor.api.app import make_app
    from pale_harbor.cli.in_server import CommandsInServer
    from pale_harbor.logs import log_file_named, set_up_logs
    from pale_harbor.settings import settings
    from pale_harbor.store.cluster import Cluster
    from pale_harbor.work.backups.upgrading import drop_cut_off_upgrade
    from pale_harbor.work.people.kept_keys import kept_key
    from pale_harbor.work.people.provider import provider_of
    from pale_harbor.work.running.door import door_of, use_door
    from pale_harbor.work.running.memory_arenas import keep_few_arenas
    from pale_harbor.work.running.processes import Processes
    from pale_harbor.work.running.serving_alone import ServingAlone
    from pale_harbor.work.serving import pool_to_search, ready_pool, refuse_strangers
    from pale_harbor.work.workbench import Workbench, budget_of, memory_of, sealing_of

    # Before there are threads.
    keep_few_arenas()
    here = settings(file)
    here.data.mkdir(parents=True, exist_ok=True)
    set_up_logs(as_server=True, file=log_file_named(), level_named=here.log_level)
    alone: ServingAlone | None = None
    with ExitStack() as held:
        pool = held.enter_context(pool_to_search(here) if here.searches_only else ready_pool(here))
        if not here.searches_only:
            alone = ServingAlone(str(pool.conninfo), lambda: os.kill(os.getpid(), signal.SIGTERM))
            held.enter_context(alone)
            drop_cut_off_upgrade(here)
        is_open = listening is None and not here.listens_on_loopback
        if is_open:
            refuse_strangers(pool, here.host)
        bench = Workbench(pool, here.indexes, memory_of(here), Processes(str(pool.conninfo)), sealing_of(here))
        use_door(door_of(here))
        app = make_app(
            bench,
            commands=CommandsInServer(bench),
            local_key=kept_key(here.local_key),
            names=here.names,
            below=here.path,
            provider=provider_of(here),
            budget=budget_of(here, bench),
            needs_sign_in=is_open,
            searches_only=here.searches_only,
            changes_days=here.changes_days,
        )
        # After its own database began, which is not held on a processor.
        _run_as_server(here.processor, stands_back=here.stands_back)
        config = uvicorn.Config(
            app,
            host=here.host,
            port=port or here.port_wanted,
            log_config=None,
            access_log=False,
            # Whoever asks tells who they are; what stands between them and here is believed if the settings say so.
            proxy_headers=bool(here.forwarded_from),
            forwarded_allow_ips=list(here.forwarded_from),
            timeout_graceful_shutdown=_SECONDS_TO_END,
            timeout_keep_alive=_SECONDS_KEPT_OPEN,
        )
        # Once it has ended, the signal is raised again: then everything is let go of, and the program ends well.
        signal.signal(signal.SIGTERM, _end_well)
        try:
            uvicorn.Server(config).run(sockets=None if listening is None else [socket.socket(fileno=listening)])
        except KeyboardInterrupt:
            code: object = 0
        except SystemExit as ended:
            # Its own, too, as where the port is another program's: whoever waits for it hears of that.
            code = ended.code
        else:
            code = 0
    is_overtaken = alone is not None and alone.is_overtaken
    if listening is None and here.database is None and not here.searches_only and not is_overtaken:
        # Whoever manages services wants nothing left behind; `up` and `down` see to it themselves.
        Cluster(here.cluster, here.database_options).stop()
    if code or is_overtaken:
        raise typer.Exit(1)


def _run_as_server(processor: int | None, *, stands_back: bool) -> None:
    from pale_harbor.work.running.open_files import allow_open_files
    from pale_harbor.work.running.processors import hold_on, stand_back

    # Five milliseconds, which is usual, are as long as a search takes: it waits so for each turn of its own.
    sys.setswitchinterval(_SECONDS_A_TURN)
    allow_open_files()
    if processor is not None:
        hold_on(processor)
    if stands_back:
        stand_back()


def _end_well(_number: int, _frame: FrameType | None) -> None:
    sys.exit(0)
