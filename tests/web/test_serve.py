"""Starting and stopping: what was started is stopped, what was stored stays."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import urllib.request
from pathlib import Path

import pytest

from fenwit.demo.scenario import JOBS
from fenwit.store.cluster import Cluster, ClusterError
from fenwit.store.migrate import migrate


def start(state: Path, *arguments: str) -> tuple[subprocess.Popen[str], str]:
    """Start the application on a private server of its own and wait for its address."""
    environment = {k: v for k, v in os.environ.items() if k != "FENWIT_DATABASE_URL"}
    process = subprocess.Popen(
        [sys.executable, "-m", "fenwit", "serve", "--demo", *arguments],
        env={**environment, "FENWIT_STATE": str(state)},
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout is not None
    for line in process.stdout:
        if "ready at" in line:
            return process, line.split()[3]
    raise AssertionError("the application did not say that it is ready")


def end(process: subprocess.Popen[str], how: signal.Signals) -> None:
    process.send_signal(how)
    assert process.stdout is not None
    process.stdout.read()
    process.stdout.close()
    process.wait(20)


def names(address: str) -> list[str]:
    with urllib.request.urlopen(address + "api/jobs") as answer:
        return [card["name"] for card in json.load(answer)["cards"]]


def test_ctrl_c_stops_all_and_a_second_start_keeps_the_data(tmp_path: Path) -> None:
    cluster = Cluster(tmp_path / "postgres")
    process, address = start(tmp_path)
    body = json.dumps({"name": "Attic fan"}).encode()
    request = urllib.request.Request(address + "api/jobs", body, {"content-type": "application/json"})
    urllib.request.urlopen(request).close()
    assert cluster.running()
    end(process, signal.SIGINT)
    assert not cluster.running()

    process, address = start(tmp_path)
    assert "Attic fan" in names(address)
    process.send_signal(signal.SIGKILL)  # a crash leaves the database server behind …
    process.wait(10)
    assert process.stdout is not None
    process.stdout.close()
    assert cluster.running()

    process, address = start(tmp_path)  # … which the next start takes over and stops
    assert "Attic fan" in names(address)
    end(process, signal.SIGTERM)
    assert not cluster.running()

    process, address = start(tmp_path, "--fresh", "--yes")
    assert names(address) == [job.name for job in JOBS]
    end(process, signal.SIGINT)


def test_a_second_start_at_the_same_time_names_the_first(tmp_path: Path) -> None:
    process, address = start(tmp_path)
    environment = {**os.environ, "FENWIT_STATE": str(tmp_path)}
    environment.pop("FENWIT_DATABASE_URL", None)
    command = [sys.executable, "-m", "fenwit", "serve"]
    second = subprocess.run(command, env=environment, capture_output=True, text=True, check=True)
    assert address in second.stdout
    end(process, signal.SIGINT)


def test_the_private_server_wants_its_password(tmp_path: Path) -> None:
    cluster = Cluster(tmp_path / "postgres", durable=False)
    url = cluster.start()
    try:
        assert migrate(url)
        assert (tmp_path / "postgres").stat().st_mode & 0o077 == 0
        password = (tmp_path / "postgres" / "password").read_text()
        with pytest.raises(Exception, match="password"):
            migrate(url.replace(password, "guess"))
    finally:
        cluster.stop()


def test_without_postgresql_the_message_names_the_package(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("fenwit.store.cluster._BIN_ROOT", tmp_path / "nowhere")
    with pytest.raises(ClusterError, match="Debian package is called postgresql"):
        Cluster(tmp_path / "postgres").start()
