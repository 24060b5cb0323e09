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


def contradictory(bundle: dict[str, Any]) -> dict[str, Any]:
    """A job with twenty runs of which hardly two agree."""
    spread, at = random.Random(5), bundle["job"]["created_at"]
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
            row = {"quantity": quantity, "value": value, "typed": "", "taken_at": at, "run": i}
            bundle["readings"].append(row)
    return bundle


def contradiction(server: Server) -> None:
    """A job whose twenty runs contradict each other."""
    data = json.dumps(contradictory(json.loads(ask(server, "GET", "/api/jobs/1/bundle.json")[1]))).encode()
    seconds, (status, body) = took(lambda: ask(server, "POST", "/api/jobs/import", data, JSON))
    page = json.loads(body)
    row("import of 20 contradictory runs", f"{seconds:.2f} s, {status}", "a fit stops at 1 s")
    seconds, (status, body) = took(lambda: ask(server, "GET", f"/api/jobs/{page['job']['id']}/study"))
    row("study of them", f"{seconds:.2f} s, {status}", "a fit stops at 1 s")
    print(f"    {json.loads(body).get('detail', '')[:170]}")


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
    """Fifty clients on jobs of their own, of every kind the demo has: looking, dragging, reading watts once more."""
    count = len(json.loads(ask(server, "GET", "/api/jobs")[1])["cards"])
    bundles = [ask(server, "GET", f"/api/jobs/{1 + i % count}/bundle.json")[1] for i in range(50)]
    jobs = [json.loads(ask(server, "POST", "/api/jobs/import", b, JSON)[1])["job"]["id"] for b in bundles]
    times: dict[str, list[float]] = {"look": [], "drag": [], "read": []}
    bad: list[int] = []
    end = time.perf_counter() + seconds

    def client(job: int, seed: int) -> None:
        chance = random.Random(seed)
        connection = http.client.HTTPConnection(urlsplit(server.address).netloc, timeout=60)

        def asked(method: str, path: str, body: object = None) -> tuple[int, Any]:
            data = None if body is None else json.dumps(body)
            connection.request(method, path, data, JSON if data else {})
            answer = connection.getresponse()
            return answer.status, json.loads(answer.read())

        _, page = asked("GET", f"/api/jobs/{job}")
        full = ((page["frame"] or {}).get("full") or {}).get("value")
        while time.perf_counter() < end:
            watts = next((w for w in page["wanted_readings"] if w["quantity"] == "input_power_w"), None)
            what = chance.choices(
                ("look", "drag", "read"), (50, 40 if full else 0, 10 if full and watts else 0)
            )[0]
            start = time.perf_counter()
            if what == "look":
                status, page = asked("GET", f"/api/jobs/{job}")
            elif what == "drag":
                wanted = [full * chance.uniform(low, low + 0.12) for low in (0.35, 0.52, 0.75)]
                status, _ = asked("POST", f"/api/jobs/{job}/live", {"wanted_rpm": wanted})
            else:
                assert watts is not None
                was = float(watts["text"].split()[0]) if watts["text"] else 60.0
                body = {
                    "quantity": "input_power_w",
                    "text": f"{was * chance.uniform(0.998, 1.002):.2f}W",
                    "who": "load",
                }
                body |= {"supersedes": watts["reading_id"]} if watts["reading_id"] else {}
                status, found = asked("POST", f"/api/jobs/{job}/readings", body)
                page = found if status < 400 else asked("GET", f"/api/jobs/{job}")[1]
            times[what].append(time.perf_counter() - start)
            if status >= 400:
                bad.append(status)
        connection.close()

    threads = [threading.Thread(target=client, args=(job, i)) for i, job in enumerate(jobs)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    every = [t for kind in times.values() for t in kind]
    row(
        f"50 clients on different jobs, {seconds:.0f} s",
        f"{len(every) / seconds:.0f}/s, p95 {_p95(every):.2f} s, {len(bad)} refused",
        "60/s, p95 1 s",
    )
    for what, some in times.items():
        row(f"  {what}: {len(some)}", f"median {statistics.median(some):.2f}, p95 {_p95(some):.2f} s", "-")
    row("  most memory of one process", f"{most_memory(server)} MB", "-")


def _p95(values: list[float]) -> float:
    return sorted(values)[int(0.95 * len(values))]


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
