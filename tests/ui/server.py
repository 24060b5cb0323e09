"""The real application in a process of its own, on a real database."""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from multiprocessing.context import ForkServerProcess

# A start is mostly the reading of its code: one process reads it, and every server is a fork of that one.
_FORKS = multiprocessing.get_context("forkserver")
_FORKS.set_forkserver_preload(["fenwit.web.serve"])

CHROMIUM_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class Forked:
    """A forked process, handled like one of subprocess."""

    def __init__(self, process: ForkServerProcess) -> None:
        self._process = process
        self.pid = process.pid or 0

    def poll(self) -> int | None:
        """Its exit code; None while it runs."""
        return self._process.exitcode

    def wait(self, seconds: float) -> None:
        """Until it has ended; raises TimeoutExpired."""
        self._process.join(seconds)
        if self._process.exitcode is None:
            raise subprocess.TimeoutExpired("fenwit serve", seconds)

    def send_signal(self, number: int) -> None:
        """Sends it a signal."""
        os.kill(self.pid, number)


@dataclass
class Server:
    """A running application."""

    address: str
    process: Forked | subprocess.Popen[bytes]

    def kill(self) -> None:
        """End it as a power cut would."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(60)


def free_port() -> int:
    """A port nobody uses just now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextlib.contextmanager
def running(
    database_url: str, state: str, *, demo: bool = True, port: int | None = None, workers: int = 1
) -> Iterator[Server]:
    """Start the application on a database and wait until it answers."""
    port = port or free_port()
    command = ["serve", "--port", str(port), *(["--demo"] if demo else [])]
    given = {"FENWIT_DATABASE_URL": database_url, "FENWIT_STATE": state, "FENWIT_WORKERS": str(workers)}
    environment = {**os.environ, **given}
    process: Forked | subprocess.Popen[bytes]
    if workers == 1:
        forked = _FORKS.Process(target=_serve, args=(command, environment))
        forked.start()
        process = Forked(forked)
    else:
        process = subprocess.Popen([sys.executable, "-m", "fenwit", *command], env=environment)
    server = Server(f"http://127.0.0.1:{port}", process)
    try:
        _wait(server)
        yield server
    finally:
        if process.poll() is None:
            process.send_signal(signal.SIGINT)
            process.wait(60)


def _serve(command: list[str], environment: dict[str, str]) -> None:
    from fenwit.__main__ import main

    os.environ.clear()
    os.environ.update(environment)
    sys.exit(main(command))


def _wait(server: Server) -> None:
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline:
        if server.process.poll() is not None:
            raise RuntimeError("the application ended at once")
        try:
            with urllib.request.urlopen(server.address + "/api/kinds", timeout=20):
                return
        except (urllib.error.URLError, OSError):
            with contextlib.suppress(subprocess.TimeoutExpired):
                server.process.wait(0.1)
    raise RuntimeError("the application does not answer")
