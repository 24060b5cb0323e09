"""The real application in a process of its own, on a real database."""

from __future__ import annotations

import contextlib
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

CHROMIUM_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@dataclass
class Server:
    """A running application."""

    address: str
    process: subprocess.Popen[bytes]

    def kill(self) -> None:
        """End it as a power cut would."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(10)


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
    command = [sys.executable, "-m", "fenwit", "serve", "--port", str(port), *(["--demo"] if demo else [])]
    given = {"FENWIT_DATABASE_URL": database_url, "FENWIT_STATE": state, "FENWIT_WORKERS": str(workers)}
    process = subprocess.Popen(command, env={**os.environ, **given})
    server = Server(f"http://127.0.0.1:{port}", process)
    try:
        _wait(server)
        yield server
    finally:
        if process.poll() is None:
            process.send_signal(signal.SIGINT)
            process.wait(15)


def _wait(server: Server) -> None:
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        if server.process.poll() is not None:
            raise RuntimeError("the application ended at once")
        try:
            with urllib.request.urlopen(server.address + "/api/kinds", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            with contextlib.suppress(subprocess.TimeoutExpired):
                server.process.wait(0.1)
    raise RuntimeError("the application does not answer")
