"""What stalls: large shelves, long files, contradictory readings, too much sent, many clients, slow ones."""

from __future__ import annotations

import http.client
import json
import random
import socket
import statistics
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import numpy as np
import psycopg

from fenwit.store.cluster import Cluster
from tests.ui.server import Server, running

JSON, CSV = {"content-type": "application/json"}, {"content-type": "text/csv"}
_WORKERS = 2


@contextmanager
def served() -> Iterator[tuple[Server, str]]:
    """A server with the demo jobs on a durable database, and the database's URL."""
    with tempfile.TemporaryDirectory(prefix="fenwit-bench-") as folder:
        cluster = Cluster(Path(folder) / "postgres")
        url = cluster.start()
        try:
            with running(url, folder, workers=_WORKERS) as server:
                yield server, url
        finally:
            cluster.stop()


def ask(
    server: Server, method: str, path: str, body: bytes | None = None, headers: dict[str, str] | None = None
) -> tuple[int, bytes]:
    """One request on a connection of its own."""
    connection = http.client.HTTPConnection(urlsplit(server.address).netloc, timeout=300)
    try:
        connection.request(method, path, body, headers or {})
        answer = connection.getresponse()
        return answer.status, answer.read()
    finally:
        connection.close()


def took(work: Callable[[], Any]) -> tuple[float, Any]:
    """Seconds of some work, and what it gave."""
    start = time.perf_counter()
    found = work()
    return time.perf_counter() - start, found


def most_memory(server: Server) -> int:
    """Most memory any process of the server ever took [MB]"""
    pid = server.process.pid
    tasks = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
    peak = 0
    for one in (str(pid), *tasks):
        for line in Path(f"/proc/{one}/status").read_text().splitlines():
            if line.startswith("VmHWM"):
                peak = max(peak, int(line.split()[1]) // 1000)
    return peak


def row(what: str, value: str, wanted: str) -> None:
    """One line of the table."""
    print(f"  {what:52} {value:>28}   wanted {wanted}", flush=True)


def search(server: Server, url: str) -> None:
    """Banks from large shelves."""
    spread = np.random.default_rng(1)
    for count in (300, 5000):
        with psycopg.connect(url) as connection:
            connection.execute("UPDATE shelf_part SET gone = true")
            values = np.exp(spread.uniform(np.log(0.1e-6), np.log(10e-6), count)).round(10)
            with connection.cursor().copy(
                "COPY shelf_part (class, nominal, tolerance, rating, count) FROM STDIN"
            ) as copy:
                for value in values:
                    copy.write_row(("x2-film", float(value), 0.1, 275.0, 2))
        seconds, (status, _) = took(lambda: ask(server, "POST", "/api/jobs/1/banks", b"{}", JSON))
        row(
            f"bank search, {count} capacitors on the shelf",
            f"{seconds:.2f} s, {most_memory(server)} MB, {status}",
            "2 s, 500 MB",
        )


def sheet(count: int) -> bytes:
    """A CSV of so many readings, good ones."""
    rows = ["step;line amps (A);input watts (W)"]
    rows += [f";{0.318 + 0.0001 * (i % 9):.4f};{73 + 0.1 * (i % 9):.1f}" for i in range(count // 2)]
    return "\n".join(rows).encode()


def previews(server: Server) -> None:
    """Previews of readings from files, with another client saving meanwhile."""
    for count, wanted in ((300, "1 s"), (5000, "5 s")):
        seconds, (status, body) = took(
            lambda n=count: ask(server, "POST", "/api/jobs/1/readings/import", sheet(n), CSV)  # type: ignore[misc]
        )
        row(
            f"preview of {count} readings",
            f"{seconds:.2f} s, {json.loads(body)['good']} good, {status}",
            wanted,
        )


def contradiction(server: Server) -> None:
    """A job whose twenty runs contradict each other."""
    bundle = json.loads(ask(server, "GET", "/api/jobs/1/bundle.json")[1])
    at, spread = bundle["job"]["created_at"], random.Random(5)
    for i in range(1, 21):
        farads = spread.uniform(1e-6, 5e-6)
        bundle["runs"].append(
            {"what": "capacitor", "value": farads, "typed": "", "gone": False, "who": "", "at": at}
        )
        for quantity, value in (
            ("speed_rpm", min(320.0, 60 + 6.5e7 * farads) * spread.uniform(0.8, 1.1)),
            ("line_current_a", spread.uniform(0.1, 0.5)),
            ("motor_voltage_v", spread.uniform(80, 220)),
        ):
            bundle["readings"].append(
                {"quantity": quantity, "value": value, "typed": "", "taken_at": at, "run": i}
            )
    data = json.dumps(bundle).encode()
    seconds, (status, body) = took(lambda: ask(server, "POST", "/api/jobs/import", data, JSON))
    page = json.loads(body)
    row("import of 20 contradictory runs", f"{seconds:.2f} s, {status}", "a fit stops at 1 s")
    seconds, (status, body) = took(lambda: ask(server, "GET", f"/api/jobs/{page['job']['id']}/study"))
    row("study of them", f"{seconds:.2f} s, {status}", "a fit stops at 1 s")
    print(f"    {json.loads(body).get('detail', '')[:150]}")


def report(server: Server) -> None:
    """A report of many readings."""
    bundle = json.loads(ask(server, "GET", "/api/jobs/2/bundle.json")[1])
    at, last = bundle["job"]["created_at"], len(bundle["readings"])
    bundle["readings"].append({"quantity": "power_factor", "value": 0.9, "typed": "0.9", "taken_at": at})
    for i in range(15_000 - last):
        value = {"quantity": "power_factor", "value": 0.9 + 0.001 * (i % 9), "typed": "0.9", "taken_at": at}
        bundle["readings"].append({**value, "supersedes": last + 1 + i})
    data = json.dumps(bundle).encode()
    seconds, (status, body) = took(lambda: ask(server, "POST", "/api/jobs/import", data, JSON))
    row("import of a job with 15,000 readings", f"{seconds:.2f} s, {status}", "-")
    job = json.loads(body)["job"]["id"]
    seconds, (status, body) = took(lambda: ask(server, "GET", f"/api/jobs/{job}"))
    row("its page", f"{seconds:.2f} s, {len(body) // 1000} kB, {status}", "-")
    seconds, (status, body) = took(lambda: ask(server, "GET", f"/api/jobs/{job}/report.pdf"))
    row("its report as PDF", f"{seconds:.2f} s, {len(body) // 1000} kB, {status}", "10 s")


def too_much(server: Server) -> None:
    """A hundred megabytes to a route, while others ask."""
    host, port = urlsplit(server.address).netloc.split(":")
    worst, stop = [0.0], threading.Event()

    def others() -> None:
        while not stop.is_set():
            worst[0] = max(worst[0], took(lambda: ask(server, "GET", "/api/alive"))[0])

    asking = threading.Thread(target=others)
    asking.start()
    found = []
    for path in ("/api/jobs/1/live", "/api/jobs/import", "/api/shelf/import"):
        for head in (b"Content-Length: 100000000\r\n", b"Transfer-Encoding: chunked\r\n"):
            start, sent = time.perf_counter(), 0
            with socket.create_connection((host, int(port)), timeout=30) as connection:
                connection.sendall(
                    b"POST " + path.encode() + b" HTTP/1.1\r\nHost: " + f"{host}:{port}".encode()
                    + b"\r\nContent-Type: application/json\r\n" + head + b"\r\n"
                )  # fmt: skip
                piece = b"a" * 1_000_000
                try:
                    while sent < 100:
                        connection.sendall((b"f4240\r\n" + piece + b"\r\n") if b"chunked" in head else piece)
                        sent += 1
                except OSError:
                    pass
                connection.settimeout(5)
                try:
                    status = connection.recv(100).split(b" ")[1].decode()
                except (OSError, IndexError):
                    status = "cut"
            found.append(f"{status}@{sent}")
            assert time.perf_counter() - start < 30
    stop.set()
    asking.join()
    row("100 MB to three routes, announced and not", " ".join(found), "413 (or cut) at 1 MB, files 8 MB")
    row("slowest answer to others meanwhile", f"{worst[0]:.2f} s", "-")


def many_clients(server: Server, seconds: float) -> None:
    """Fifty clients on jobs of their own: looking, dragging, reading."""
    bundle = ask(server, "GET", "/api/jobs/2/bundle.json")[1]
    jobs = [
        json.loads(ask(server, "POST", "/api/jobs/import", bundle, JSON)[1])["job"]["id"] for _ in range(50)
    ]
    times: list[float] = []
    bad: list[int] = []
    end = time.perf_counter() + seconds

    def client(job: int, seed: int) -> None:
        chance = random.Random(seed)
        connection = http.client.HTTPConnection(urlsplit(server.address).netloc, timeout=60)
        newest: int | None = None
        while time.perf_counter() < end:
            what = chance.random()
            start = time.perf_counter()
            if what < 0.4:
                connection.request("GET", f"/api/jobs/{job}")
            elif what < 0.8:
                wanted = sorted(chance.uniform(100, 300) for _ in range(3))
                connection.request("POST", f"/api/jobs/{job}/live", json.dumps({"wanted_rpm": wanted}), JSON)
            else:
                body = {"quantity": "input_power_w", "text": f"{chance.uniform(70, 75):.1f}W", "who": "load"}
                if newest is None:
                    connection.request("GET", f"/api/jobs/{job}")
                    rows = json.loads(connection.getresponse().read())["wanted_readings"]
                    newest = next(w["reading_id"] for w in rows if w["quantity"] == "input_power_w")
                    start = time.perf_counter()
                body |= {"supersedes": newest} if newest else {}
                connection.request("POST", f"/api/jobs/{job}/readings", json.dumps(body), JSON)
            answer = connection.getresponse()
            data = answer.read()
            times.append(time.perf_counter() - start)
            if answer.status >= 400:
                bad.append(answer.status)
            elif what >= 0.8:
                rows = json.loads(data)["wanted_readings"]
                newest = next(w["reading_id"] for w in rows if w["quantity"] == "input_power_w")
        connection.close()

    threads = [threading.Thread(target=client, args=(job, i)) for i, job in enumerate(jobs)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    p95 = sorted(times)[int(0.95 * len(times))]
    row(
        f"50 clients on different jobs, {seconds:.0f} s",
        f"{len(times) / seconds:.0f}/s, p95 {p95:.2f} s, {len(bad)} refused",
        "60/s, p95 1 s",
    )
    row("  median, most memory", f"{statistics.median(times):.2f} s, {most_memory(server)} MB", "-")


def slow_ones(server: Server) -> None:
    """Five hundred connections that send a byte now and then."""
    host, port = urlsplit(server.address).netloc.split(":")
    slow = []
    for i in range(500):
        connection = socket.create_connection((host, int(port)), timeout=30)
        head = f"POST /api/jobs/1/live HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Type: application/json\r\n"
        connection.sendall((head + ("Content-Length: 90000\r\n\r\n{" if i % 2 else "X-Slow: a")).encode())
        slow.append(connection)
    found = []
    for _ in range(40):
        for connection in slow[::10]:
            connection.sendall(b"a")
        found.append(took(lambda: ask(server, "GET", "/api/jobs/1"))[0])
    for connection in slow:
        connection.close()
    row("500 slow connections: slowest GET of a job", f"{max(found):.2f} s", "1 s")


def load(seconds: float = 60.0) -> None:
    """The whole table."""
    print(f"load, {_WORKERS} processes")
    with served() as (server, url):
        many_clients(server, seconds)
        slow_ones(server)
        too_much(server)
        previews(server)
        contradiction(server)
        report(server)
        search(server, url)
