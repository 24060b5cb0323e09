"""Start everything: database, demo data, server; stop all of it again."""

from __future__ import annotations

import contextlib
import fcntl
import os
import signal
import socket
import sys
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import uvicorn

from fenwit import demo as demo_data
from fenwit.store.cluster import Cluster, ClusterError
from fenwit.store.database import Database
from fenwit.store.migrate import migrate
from fenwit.web.app import create_app
from fenwit.web.settings import folder, value


def say(text: str) -> None:
    """Tell the person at the terminal what is going on."""
    print(f"fenwit: {text}", flush=True)


@contextlib.contextmanager
def _one_at_a_time(state: Path) -> Iterator[bool]:
    """Hold the lock of the state folder; yields False when another server holds it."""
    state.mkdir(parents=True, exist_ok=True)
    with (state / "lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.seek(0)
            say(f"already running: {lock.read().strip() or 'starting up'}")
            yield False
            return
        yield True


def serve(*, demo: bool, fresh: bool, port: int | None, reload: bool) -> int:
    """Run until Ctrl-C; returns the exit code."""
    state = folder("FENWIT_STATE")
    # The server hands a SIGTERM back to us when it is done; without this it would end us before PostgreSQL is stopped.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    with _one_at_a_time(state) as alone:
        if not alone:
            return 0
        try:
            return _serve(state, demo=demo, fresh=fresh, port=port, reload=reload)
        except ClusterError as error:
            print(f"fenwit: {error}", file=sys.stderr)
            return 1
        except KeyboardInterrupt:
            return 0


def _serve(state: Path, *, demo: bool, fresh: bool, port: int | None, reload: bool) -> int:
    url, cluster = value("FENWIT_DATABASE_URL"), Cluster(state / "postgres")
    private = not url
    if not url:
        if fresh:
            say("throwing the private database away")
            cluster.remove()
        say(
            "starting PostgreSQL on loopback"
            if cluster.data.exists()
            else "making a private PostgreSQL on loopback"
        )
        url = cluster.start()
    elif fresh:
        print("fenwit: --fresh is only for the private database; FENWIT_DATABASE_URL is set", file=sys.stderr)
        return 2
    try:
        for number in migrate(url):
            say(f"database brought to version {number}")
        if demo:
            database = Database(url).open()
            try:
                say(
                    "demo jobs loaded" if demo_data.load(database) else "jobs are there already; keeping them"
                )
            finally:
                database.close()
        listener = _listen(port or int(value("FENWIT_PORT")))
        address = f"http://127.0.0.1:{listener.getsockname()[1]}/"
        (state / "lock").write_text(address)
        _run(url, listener, address, reload)
    finally:
        # The lock makes us its only user, also when it was left over from a crash.
        if private:
            say("stopping PostgreSQL")
            cluster.stop()
    return 0


def _listen(port: int) -> socket.socket:
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError:
        say(f"port {port} is busy; taking a free one")
        listener.bind(("127.0.0.1", 0))
    return listener


def _run(url: str, listener: socket.socket, address: str, reload: bool) -> None:
    threading.Thread(target=_announce, args=(address,), daemon=True).start()
    if not reload:
        config = uvicorn.Config(create_app(Database(url)), log_level="warning", timeout_graceful_shutdown=3)
        uvicorn.Server(config).run(sockets=[listener])
        return
    os.environ["FENWIT_DATABASE_URL"] = url
    config = uvicorn.Config(
        "fenwit.web.serve:reloading_app",
        factory=True,
        log_level="info",
        reload=True,
        reload_dirs=[str(Path(__file__).resolve().parents[1])],
    )
    from uvicorn.supervisors import ChangeReload

    ChangeReload(config, target=uvicorn.Server(config).run, sockets=[listener]).run()


def reloading_app() -> object:
    """The application on the database that the parent process started."""
    return create_app(Database(value("FENWIT_DATABASE_URL")))


def _announce(address: str) -> None:
    """Name the address once the server answers on it."""
    ready = threading.Event()
    for _ in range(200):
        with contextlib.suppress(OSError):
            urllib.request.urlopen(address + "api/kinds", timeout=2).read()
            say(f"ready at {address}   (Ctrl-C stops it)")
            return
        ready.wait(0.1)
