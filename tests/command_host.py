"""Carries out commands of the command line, each in a process of its own that is forked from a warm one.

A fresh interpreter spends two seconds on loading compiled kernels before a command begins. Here that is done once:
what a command sees is otherwise what it sees when a user calls it: its arguments, input, environment and folder.
"""

import os
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from subprocess import CompletedProcess
from types import TracebackType
from typing import BinaryIO, NoReturn

import orjson

ROOT = Path(__file__).parents[1]


class CommandHost:
    """A warm process; one command at a time."""

    def __init__(self) -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="paleharbor-host-")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "tests.command_host"],
            cwd=ROOT,
            env=os.environ | {"PYTHONPATH": str(ROOT)},
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )

    def __enter__(self) -> "CommandHost":
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None):
        assert self.process.stdin is not None
        self.process.stdin.close()
        self.process.wait(20)
        self.folder.cleanup()

    def run(self, arguments: list[str], text: str, environment: dict[str, str]) -> "CompletedProcess[str]":
        """What a command printed and its exit code."""
        folder = Path(self.folder.name)
        (folder / "in").write_text(text, "utf-8")
        asked = {"arguments": arguments, "environment": environment, "folder": str(folder)}
        stdin, stdout = self.process.stdin, self.process.stdout
        assert stdin is not None
        assert stdout is not None
        stdin.write(orjson.dumps(asked) + b"\n")
        stdin.flush()
        code = int(stdout.readline())
        out, err = ((folder / name).read_bytes().decode("utf-8") for name in ("out", "err"))
        return CompletedProcess(["paleharbor", *arguments], code, out, err)


def _serve(lines: BinaryIO) -> None:
    from pale_harbor.cli import rooms
    from pale_harbor.work.warm_up import compile_kernels

    rooms.app_for(None)
    compile_kernels()
    _fork_servers()
    for line in lines:
        asked = orjson.loads(line)
        child = os.fork()
        if child == 0:
            _become(asked["arguments"], asked["environment"], Path(asked["folder"]))
        print(_ended(child), flush=True)


class _ForkedServer:
    """What the command that began it wants to know of it."""

    def __init__(self, pid: int) -> None:
        self.pid = pid

    def poll(self) -> int | None:
        done, status = os.waitpid(self.pid, os.WNOHANG)
        return os.waitstatus_to_exitcode(status) if done else None

    def kill(self) -> None:
        os.kill(self.pid, 9)


def _fork_server(port: int, listener: socket.socket, said: BinaryIO, log: Path) -> _ForkedServer:
    child = os.fork()
    if child == 0:
        _become_server(port, listener.fileno(), said, log)
    return _ForkedServer(child)


def _become_server(port: int, listening: int, said: BinaryIO, log: Path) -> NoReturn:
    os.setsid()
    os.environ["PALEHARBOR_LOG_FILE"] = str(log)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    for number in (1, 2):
        os.dup2(said.fileno(), number)
    # As of a process begun anew: it holds nothing that its parent had open but what is handed on.
    if listening != 3:
        os.dup2(listening, 3)
    os.closerange(4, 4_096)
    _carry_out(["serve", "--listening", "3", "--port", str(port)])


def _fork_servers() -> None:
    """Servers too are there without loading anything anew."""
    from pale_harbor.work import serving

    serving._begin_server = _fork_server  # pyright: ignore
    serving._is_server = lambda called_as, port: called_as[-1] == "tests.command_host"  # pyright: ignore


def _ended(child: int, seconds: float = 240) -> int:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            return os.waitstatus_to_exitcode(status)
        time.sleep(0.002)
    os.kill(child, 9)
    os.waitpid(child, 0)
    return -9


def _become(arguments: list[str], environment: dict[str, str], folder: Path) -> NoReturn:
    written = os.O_RDWR | os.O_CREAT | os.O_TRUNC
    for number, (name, flags) in enumerate([("in", os.O_RDONLY), ("out", written), ("err", written)]):
        os.dup2(os.open(folder / name, flags, 0o600), number)
    os.environ.clear()
    os.environ.update(environment)
    _carry_out(arguments)


def _carry_out(arguments: list[str]) -> NoReturn:
    sys.argv = ["paleharbor", *arguments]
    for number, (name, mode) in enumerate([("stdin", "r"), ("stdout", "w"), ("stderr", "w")]):
        setattr(sys, name, os.fdopen(number, mode, encoding="utf-8", closefd=False))
    code: object = 1
    try:
        from pale_harbor.cli.__main__ import main

        main()
        code = 0
    except SystemExit as ended:
        code = 0 if ended.code is None else ended.code
    except BaseException:
        import traceback

        traceback.print_exc()
    for stream in (sys.stdout, sys.stderr):
        if not stream.closed:
            stream.flush()
    os._exit(code if isinstance(code, int) else 1)


if __name__ == "__main__":
    _serve(sys.stdin.buffer)
