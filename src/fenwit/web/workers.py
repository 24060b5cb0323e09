"""The processes that answer: one here, or several on one socket, all alike and without a memory of their own."""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import signal
import socket
from pathlib import Path

import uvicorn
from uvicorn.supervisors import ChangeReload, Multiprocess
from uvicorn.supervisors.multiprocess import Process

from fenwit.store.database import Database
from fenwit.web.guard import Hosts

_GIVEN = "FENWIT_GIVEN_TO_WORKER"
_PR_SET_PDEATHSIG = 1


def run(url: str, listener: socket.socket, hosts: Hosts, processes: int) -> None:
    """Answer on a socket until a signal; 0 processes: one that restarts when a source file changes."""
    if processes == 1:
        from fenwit.web.app import create_app

        app = create_app(Database(url), hosts=hosts)
        uvicorn.Server(_config(app)).run(sockets=[listener])
        return
    given = {"url": url, "bound": hosts.bound, "names": hosts.names}
    os.environ[_GIVEN] = json.dumps({**given, "parent": os.getpid(), "reload": processes == 0})
    config = uvicorn.Config(
        "fenwit.web.workers:app_of_worker",
        factory=True,
        log_level="info" if processes == 0 else "warning",
        timeout_graceful_shutdown=3,
        workers=processes or None,
        # A process that computes hard is not dead.
        timeout_worker_healthcheck=30,
        reload=processes == 0,
        reload_dirs=[str(Path(__file__).resolve().parents[1])] if processes == 0 else None,
    )
    if processes:
        _Shared(config, sockets=_one_each(listener, processes)).run()
    else:
        ChangeReload(config, target=uvicorn.Server(config).run, sockets=[listener]).run()


def _one_each(listener: socket.socket, processes: int) -> list[socket.socket]:
    """As many sockets on the same address: the kernel deals new connections out evenly.

    On one socket for all whoever wakes first takes every connection that waits. The plain listener has shown that nobody
    else has the port.
    """
    family, where = listener.family, listener.getsockname()
    listener.close()
    found = []
    for _ in range(processes):
        one = socket.socket(family)
        one.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        one.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
        one.bind(where)
        one.listen(128)
        found.append(one)
    return found


class _Shared(Multiprocess):
    """Each process has a socket of its own; one that takes the place of a dead one gets the same."""

    def init_processes(self) -> None:
        for one in self.sockets:
            process = Process(self.config, [one])
            process.start()
            self.processes.append(process)

    def keep_subprocess_alive(self) -> None:
        every = self.sockets
        processes = self.processes
        try:
            for place, one in enumerate(every):
                self.sockets, self.processes = [one], processes[place : place + 1]
                super().keep_subprocess_alive()
                processes[place : place + 1] = self.processes
        finally:
            self.sockets, self.processes = every, processes


def _config(app: object) -> uvicorn.Config:
    return uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3)  # type: ignore[arg-type]


def app_of_worker() -> object:
    """The application in a process of its own, on what the parent process started."""
    # When the parent is killed nobody is left who would stop us, and the port would stay taken.
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    # Only those that answer read what computes: the parent process has no use for it.
    from fenwit.web.app import create_app

    given = json.loads(os.environ[_GIVEN])
    if os.getppid() != given["parent"] and not given["reload"]:
        # It was killed while this process was still getting ready.
        os._exit(0)
    return create_app(Database(given["url"]), hosts=Hosts(given["bound"], tuple(given["names"])))
