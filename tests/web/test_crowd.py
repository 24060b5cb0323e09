"""Many hands at once: nobody waits in a ring, nothing is lost, and nobody is told that the database is away."""

from __future__ import annotations

import random
import threading
from collections import Counter
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient

from fenwit.store import database as store
from fenwit.store import jobs
from fenwit.store.database import Database
from fenwit.store.errors import Busy, Conflict
from fenwit.web.app import create_app
from fenwit.web.guard import Hosts
from fenwit.web.routing import tried_again

HANDS, EACH = 6, 14


@pytest.fixture
def crowd(demo_url: str) -> Iterator[TestClient]:
    """The application with connections enough for a crowd."""
    with TestClient(create_app(Database(demo_url, size=12), hosts=Hosts("testserver"))) as found:
        yield found


def edit(client: TestClient, chance: random.Random) -> int:
    """One edit of one of two jobs, whichever, as a window would send it; also what undo and shelf hold on to."""
    job = chance.choice((1, 2))
    path = f"/api/jobs/{job}"
    what = chance.randrange(9)
    who = {"who": "crowd"}
    if what in (0, 1):
        return client.post(f"{path}/{'undo' if what else 'redo'}", json=who).status_code
    page = client.get(path).json()
    if what == 2:
        body: dict[str, Any] = {"version": page["fan"]["version"], "maker": f"maker {chance.random()}", **who}
        return client.patch(f"{path}/fan", json=body).status_code
    if what == 3:
        body = {"version": page["job"]["version"], "wish": f"wish {chance.random()}", **who}
        return client.patch(path, json=body).status_code
    if what in (4, 5):
        watts = next(w for w in page["wanted_readings"] if w["quantity"] == "input_power_w")
        body = {"quantity": "input_power_w", "text": f"{chance.uniform(72, 74):.2f}W", **who}
        body |= {"supersedes": watts["reading_id"]} if watts["reading_id"] else {}
        return client.post(f"{path}/readings", json=body).status_code
    if what == 6:
        part = chance.choice(client.get("/api/shelf").json()["parts"])
        return client.put(
            f"{path}/reservations", json={"part_id": part["id"], "count": chance.randrange(2), **who}
        ).status_code
    if what == 7:
        return client.post(f"{path}/reservations/use", json=who).status_code
    wanted = {"version": page["job"]["version"], "wanted": [str(chance.randrange(120, 200)), "320"], **who}
    return client.put(f"{path}/steps", json=wanted).status_code


def test_a_crowd_at_two_jobs_never_waits_in_a_ring(crowd: TestClient, demo_url: str) -> None:
    got: Counter[int] = Counter()
    lock = threading.Lock()

    def hand(seed: int) -> None:
        chance = random.Random(seed)
        for _ in range(EACH):
            status = edit(crowd, chance)
            with lock:
                got[status] += 1

    hands = [threading.Thread(target=hand, args=(seed,)) for seed in range(HANDS)]
    for one in hands:
        one.start()
    for one in hands:
        one.join(240)
    assert sum(got.values()) == HANDS * EACH
    # Taken, stale, nothing to undo: all of them answers. Never 5xx.
    assert set(got) <= {200, 201, 409, 422}, got
    assert got[200] + got[201] > HANDS * EACH / 3
    with psycopg.connect(demo_url) as connection:
        row = connection.execute(
            "SELECT deadlocks FROM pg_stat_database WHERE datname = current_database()"
        ).fetchone()
    assert row == (0,)
    for job in (1, 2):
        assert crowd.get(f"/api/jobs/{job}").status_code == 200


def test_a_deadlock_is_tried_again_and_told_as_what_it_is(database: Database) -> None:
    one = jobs.add(database, name="a", place="", wish="")
    two = jobs.add(database, name="b", place="", wish="")
    meet = threading.Barrier(2, timeout=20)
    tries: Counter[str] = Counter()

    def crosswise(name: str, first: int, second: int) -> None:
        @tried_again
        def save() -> None:
            tries[name] += 1
            with database.transaction():
                jobs.touch(database, first)
                if tries[name] == 1:
                    meet.wait()
                jobs.touch(database, second)

        save()

    hands = [
        threading.Thread(target=crosswise, args=("there", one.id, two.id)),
        threading.Thread(target=crosswise, args=("back", two.id, one.id)),
    ]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(60)
    # Both got through; one of them had to begin anew.
    assert sorted(tries.values()) == [1, 2]


def test_who_never_gets_through_is_told_that_it_is_busy() -> None:
    @tried_again
    def never() -> None:
        raise Conflict("again")

    with pytest.raises(Busy, match="all the time"):
        never()


def test_a_lock_that_is_held_too_long_and_a_slow_statement_are_busy_not_away(
    database_url: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(store, "LOCK_SECONDS", 1)
    monkeypatch.setattr(store, "STATEMENT_SECONDS", 2)
    database = Database(database_url, size=2).open()
    try:
        job = jobs.add(database, name="a", place="", wish="")
        with psycopg.connect(database_url) as other:
            other.execute("SELECT 1 FROM job FOR UPDATE")
            with pytest.raises(Busy):
                jobs.touch(database, job.id)
        with pytest.raises(Busy), database.transaction() as connection:
            connection.execute("SELECT pg_sleep(9)")
        jobs.touch(database, job.id)
    finally:
        database.close()


def test_nothing_is_held_while_a_file_is_looked_at(crowd: TestClient) -> None:
    rows = "\n".join(f";{73 + 0.001 * i:.3f}" for i in range(300))
    sheet = f"step;input watts (W)\n{rows}".encode()
    csv = {"content-type": "text/csv"}
    marks: list[Any] = []
    database: Database = crowd.app.state.database  # type: ignore[attr-defined]
    with database.transaction() as held:
        held.execute("SELECT 1 FROM fan WHERE id = 1 FOR UPDATE")
        held.execute("SELECT 1 FROM job WHERE id = 1 FOR UPDATE")

        def look() -> None:
            marks.append(crowd.post("/api/jobs/1/readings/import", content=sheet, headers=csv).json())

        looking = threading.Thread(target=look)
        looking.start()
        looking.join(60)
        assert marks, "the preview waited for somebody else's lock"
    assert (marks[0]["good"], marks[0]["done"]) == (300, False)
    taken = crowd.post("/api/jobs/1/readings/import?take=true", content=sheet, headers=csv).json()
    assert taken["good"] == 300
    watts = [r for r in crowd.get("/api/jobs/1").json()["readings"] if r["quantity"] == "input_power_w"]
    assert watts[-1]["typed"] == "73.299 W"
    assert [r["supersedes"] for r in watts[1:]] == [r["id"] for r in watts[:-1]]
    assert crowd.post("/api/jobs/1/undo", json={"who": "crowd"}).status_code == 200
