"""Power cuts: what the screen had shown as saved is there afterwards, whoever was killed."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import threading
import urllib.error
import urllib.request
from pathlib import Path

import psycopg
import pytest

from fenwit.store.cluster import Cluster
from tests.ui.server import running

ENOUGH = 25


def post(address: str, path: str, body: dict[str, object]) -> dict[str, object] | None:
    """The answer of a save, or None where there was none: then nothing was shown as saved."""
    request = urllib.request.Request(
        address + path, json.dumps(body).encode(), {"content-type": "application/json"}
    )
    try:
        with urllib.request.urlopen(request, timeout=10) as answer:
            found: dict[str, object] = json.load(answer)
            return found
    except (OSError, urllib.error.URLError, ValueError):
        return None


def write_until_dead(address: str, saved: list[int], enough: threading.Event) -> None:
    """Correct one reading again and again, as fast as it goes, until nobody answers any more."""
    newest: int | None = None
    with urllib.request.urlopen(address + "/api/jobs/1") as answer:
        asked = json.load(answer)["wanted_readings"]
        newest = next(w["reading_id"] for w in asked if w["quantity"] == "input_power_w")
    for i in range(100_000):
        body = {
            "quantity": "input_power_w",
            "text": f"{70 + (i % 50) / 10:.1f}W",
            "who": "kill",
            "supersedes": newest,
        }
        page = post(address, "/api/jobs/1/readings", body)
        if page is None:
            return
        readings = page["readings"]
        assert isinstance(readings, list)
        newest = int(readings[-1]["id"])
        saved.append(newest)
        if len(saved) == ENOUGH:
            enough.set()


def kill_postgres(cluster: Cluster) -> None:
    """End the database as a power cut would: the postmaster and all its children at once."""
    postmaster = int((cluster.data / "postmaster.pid").read_text().splitlines()[0])
    children = Path(f"/proc/{postmaster}/task/{postmaster}/children").read_text().split()
    for process in (postmaster, *map(int, children)):
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)
    gone = threading.Event()
    for _ in range(200):
        if not Path(f"/proc/{postmaster}").exists():
            return
        gone.wait(0.05)
    raise AssertionError("the killed server is still there")


@pytest.mark.parametrize("victim", ["server", "postgres"])
def test_no_reading_that_was_shown_as_saved_is_lost(tmp_path: Path, victim: str) -> None:
    cluster = Cluster(tmp_path / "postgres")  # durable, as the demo's own
    url = cluster.start()
    saved: list[int] = []
    enough = threading.Event()
    try:
        with running(url, str(tmp_path / "state")) as server:
            writer = threading.Thread(target=write_until_dead, args=(server.address, saved, enough))
            writer.start()
            assert enough.wait(60)
            # In the middle of a save: the writer never pauses.
            if victim == "server":
                server.kill()
            else:
                kill_postgres(cluster)
            writer.join(60)
            assert not writer.is_alive()
        url = cluster.start()
        with psycopg.connect(url) as connection:
            there = {row[0] for row in connection.execute("SELECT id FROM reading").fetchall()}
            unlinked = connection.execute(
                "SELECT count(*) FROM reading r WHERE supersedes IS NOT NULL"
                " AND NOT EXISTS (SELECT FROM reading o WHERE o.id = r.supersedes)"
            ).fetchone()
        assert len(saved) >= ENOUGH
        assert set(saved) <= there
        assert unlinked == (0,)
        # And work goes on where it stopped: page, card and history agree.
        with running(url, str(tmp_path / "state")) as server:
            with urllib.request.urlopen(server.address + "/api/jobs/1") as answer:
                page = json.load(answer)
            last = max(r["id"] for r in page["readings"])
            assert last >= saved[-1]
            body: dict[str, object] = {
                "quantity": "input_power_w",
                "text": "73W",
                "who": "",
                "supersedes": last,
            }
            assert post(server.address, "/api/jobs/1/readings", body) is not None
    finally:
        cluster.stop()


def test_a_database_that_comes_back_is_used_again(tmp_path: Path) -> None:
    cluster = Cluster(tmp_path / "postgres")
    url = cluster.start()
    port = url.rsplit(":", 1)[1].split("/")[0]
    try:
        with running(url, str(tmp_path / "state")) as server:
            kill_postgres(cluster)
            assert post(server.address, "/api/jobs", {"name": "away"}) is None
            cluster.start(port=int(port))
            # The pool asks again at growing intervals; on a busy machine the first request may still come too early.
            pause = threading.Event()
            for _ in range(60):
                if post(server.address, "/api/jobs", {"name": "back"}) is not None:
                    break
                pause.wait(0.5)
            else:
                raise AssertionError("the database is back, and the server does not use it")
            with urllib.request.urlopen(server.address + "/api/jobs?find=away") as answer:
                assert json.load(answer)["cards"] == []
    finally:
        cluster.stop()
