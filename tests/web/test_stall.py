"""Modest input that used to stall everything: long files, contradictory runs, many readings; and what spoils one job."""

from __future__ import annotations

import asyncio
import json
import random
from collections.abc import Callable, Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

import psycopg
import pytest
from fastapi.testclient import TestClient

from fenwit.core import work
from fenwit.core.calibrate import fit
from fenwit.core.job.machine import machine_of
from fenwit.core.job.state import InLine, RunState
from fenwit.core.memory import MEMORY
from fenwit.core.work import Abandoned
from fenwit.store import cards
from fenwit.store.errors import Busy
from fenwit.web import heavy
from fenwit.web.page import cards as page_cards
from fenwit.web.page import renew
from tests.bench.load import contradictory
from tests.web.test_api import CSV, JSON, page, refused
from tests.web.test_hostile import take_in

T = TypeVar("T")


def test_contradictory_runs_end_in_a_reason_that_names_them(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    spent: list[int] = []
    spend = fit._Effort.spend

    def counted(self: Any, model: Any, columns: int) -> None:
        spent.append(columns * (len(model.targets) + 4))
        spend(self, model, columns)

    monkeypatch.setattr(fit._Effort, "spend", counted)
    copy = take_in(client, contradictory(client.get("/api/jobs/1/bundle.json").json()))
    assert copy.status_code == 201
    problem = copy.json()["problem"]
    assert "contradict each other" in problem["detail"]
    assert "in the line" in problem["detail"]
    assert sum(spent) <= fit.MOST_EFFORT + max(spent)
    # Asked again nothing is computed again: the refusal is remembered.
    spent.clear()
    job = copy.json()["job"]["id"]
    assert refused(client.get(f"/api/jobs/{job}/study"), 422)["detail"] == problem["detail"]
    assert spent == []
    assert any(c["id"] == job for c in client.get("/api/jobs").json()["cards"])


@pytest.mark.parametrize("effort", [100, 30_000, 60_000, 120_000, 250_000])
def test_wherever_the_effort_of_a_fit_ends_there_is_a_reason(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, effort: int
) -> None:
    monkeypatch.setattr(fit, "MOST_EFFORT", effort)
    MEMORY.forget()
    copy = take_in(client, contradictory(client.get("/api/jobs/1/bundle.json").json()))
    assert copy.status_code == 201, copy.text
    assert "contradict each other" in copy.json()["problem"]["detail"]
    MEMORY.forget()


def test_a_good_many_runs_that_agree_are_no_contradiction(client: TestClient) -> None:
    from dataclasses import replace

    from fenwit.core.operating import Source, solve
    from fenwit.demo.scenario import JOBS

    state = JOBS[0].state(None)
    fan, random_ = machine_of(state), random.Random(7)
    assert not isinstance(fan, tuple)
    rows = []
    for i in range(1, 21):
        farads = 1.3e-6 * (6 / 1.3) ** (i / 20)
        source = Source(230, 50, 1 / (1j * 314.159 * farads))
        point = solve(fan.belief.motor, fan.belief.load, [source])[0].running  # type: ignore[union-attr]
        if point is None:
            continue

        def read(value: float) -> float:
            return value * random_.gauss(1.0, 0.01)

        found = (
            ("speed_rpm", read(point.speed_rpm)),
            ("line_current_a", read(point.line_current_a) * (3 if i == 9 else 1)),
            ("motor_voltage_v", read(point.motor_voltage_v)),
        )
        rows.append(RunState(i, InLine.CAPACITOR, farads, found, ()))
    known = machine_of(replace(state, runs=tuple(rows)))
    assert len(rows) >= 15
    odd = [c for c in known.belief.checks if c.odd]  # type: ignore[union-attr]
    # The one that was read three times too high is found among some fifty.
    assert [c.quantity for c in odd] == ["line_current_a"]


def test_the_report_of_many_readings_prints_what_stands(client: TestClient) -> None:
    bundle = client.get("/api/jobs/2/bundle.json").json()
    at, last = bundle["job"]["created_at"], len(bundle["readings"])
    first = {"quantity": "power_factor", "value": 0.9, "typed": "0.900", "taken_at": at}
    bundle["readings"].append(first)
    for i in range(2000):
        bundle["readings"].append({**first, "typed": f"0.9{i % 10}", "supersedes": last + 1 + i})
    job = take_in(client, bundle).json()["job"]["id"]
    shown = client.get(f"/api/jobs/{job}/report.html").text
    assert shown.count("power factor") <= 300
    assert f"{last + 2001 - 300} older readings are not printed here" in shown
    full = next(r for r in bundle["readings"] if r["quantity"] == "speed_rpm" and r["step"] is None)
    assert f">{full['typed']}<" in shown  # what stands is there, however old
    assert len(client.get(f"/api/jobs/{job}/readings.csv").text.splitlines()) == last + 2002
    signed = client.post(f"/api/jobs/{job}/handovers", json={"who": "R. Fell"})
    assert signed.status_code == 201


def test_rows_that_cannot_go_together_are_told_apart(client: TestClient) -> None:
    rows = "\n".join(
        f";{a};{w}" for a, w in ((0.318, 73.0), (0.319, 73.2), (0.317, 73.1), ("x", 73.1), (0.316, 9999.0))
    )
    sheet = f"step;line amps (A);input watts (W)\n{rows}".encode()
    shown = client.post("/api/jobs/1/readings/import", content=sheet, headers=CSV).json()
    bad = [(r["line"], r["text"]) for r in shown["rows"] if r["problem"]]
    assert bad == [(5, "line_current_a: x"), (6, "input_power_w: 9999.0 W")]
    assert shown["good"] == 8


def spoil(client: TestClient, job: int, statement: str) -> None:
    database = client.app.state.database  # type: ignore[attr-defined]
    with psycopg.connect(database.url) as owner:
        owner.execute("ALTER TABLE design DISABLE TRIGGER design_append_only")
        owner.execute(statement.encode(), {"job": job})
        owner.execute("ALTER TABLE design ENABLE TRIGGER design_append_only")
        owner.execute("UPDATE job SET saved_at = clock_timestamp() WHERE id = %s", [job])


@pytest.mark.parametrize(
    ("statement", "words"),
    [
        (
            'UPDATE design SET regulator = regulator || \'{"patterns": ["A∥Q"]}\' WHERE job_id = %(job)s',
            "the design",
        ),
        (
            'UPDATE design SET regulator = \'{"method": "series-capacitor", "form": 99}\' WHERE job_id = %(job)s',
            "the design",
        ),
        ('UPDATE job SET profile = \'{"evenness": "x"}\' WHERE id = %(job)s', "the acceptance profile"),
        ("UPDATE fan SET findings = '{\"leads\": 7}' WHERE id = 2", "what was found out"),
    ],
)
def test_what_cannot_be_read_spoils_one_card_and_its_job_is_still_there(
    client: TestClient, statement: str, words: str
) -> None:
    spoil(client, 2, statement)
    database = client.app.state.database  # type: ignore[attr-defined]
    assert renew(database) == 1
    shown = client.get("/api/jobs").json()["cards"]
    assert len(shown) >= 6
    spoilt = next(c for c in shown if c["id"] == 2)
    assert "cannot be read" in spoilt["waits_for"]
    assert sum("cannot be read" in c["waits_for"] for c in shown) == 1
    found = page(client, 2)
    assert words in found["problem"]["detail"]
    assert found["readings"]
    design = client.post(f"/api/jobs/2/designs/{found['filed_under']}/again", json={"after_revision": 1})
    assert design.status_code in (201, 409, 422), design.text
    for path in ("/report.html", "/bundle.json", "/readings.csv", "/identify", "/live", "/tables"):
        answer = (
            client.post(f"/api/jobs/2{path}", json={})
            if path == "/live"
            else client.get(f"/api/jobs/2{path}")
        )
        assert answer.status_code < 500, path


def test_a_new_core_makes_cards_anew_in_the_background_and_says_how_many(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    database = client.app.state.database  # type: ignore[attr-defined]
    before = client.get("/api/jobs").json()
    assert (before["renewing"], before["older"]) == (0, [])
    monkeypatch.setattr(page_cards, "CORE_VERSION", "next")
    shown = client.get("/api/jobs").json()
    # They go out as they are, told apart; nobody waits.
    assert shown["cards"] == before["cards"]
    assert shown["renewing"] == len(shown["cards"]) == len(shown["older"])
    order: list[int] = []
    make = page_cards.changed_card

    def made(db: Any, job_id: int) -> Any:
        order.append(job_id)
        return make(db, job_id)

    monkeypatch.setattr(page_cards, "changed_card", made)
    assert renew(database, lambda: len(order) >= 2) == 2
    assert client.get("/api/jobs").json()["renewing"] == shown["renewing"] - 2
    with database.alone(page_cards._RENEWING) as mine:
        assert mine
        assert renew(database) == 0  # somebody else is at it
    renew(database)
    assert order == sorted(order)
    assert client.get("/api/jobs").json()["renewing"] == 0
    assert cards.behind(database, "next") == []


def in_a_loop(work: Callable[[], Coroutine[Any, Any, T]]) -> T:
    """Run something in an event loop of its own: a browser may have one going in this thread."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(lambda: asyncio.run(work())).result(60)


class _Gone:
    """A request whose client goes after a while."""

    def __init__(self) -> None:
        self.looked = 0

    async def body(self) -> bytes:
        return b""

    async def is_disconnected(self) -> bool:
        self.looked += 1
        return self.looked > 2


def test_work_ends_when_nobody_waits_for_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(heavy, "_LOOK_SECONDS", 0.01)

    async def ask() -> None:
        turn = heavy._heavy(_Gone())  # type: ignore[arg-type]
        await anext(turn)
        try:
            for _ in range(1000):
                work.pause()
                await asyncio.sleep(0.005)
        finally:
            await turn.aclose()

    with pytest.raises(Abandoned):
        in_a_loop(ask)
    work.pause()  # outside nobody looks up


def test_a_fit_ends_when_nobody_waits_for_it(client: TestClient) -> None:
    from fenwit.demo.scenario import JOBS

    MEMORY.forget()

    def gone() -> None:
        raise Abandoned

    with pytest.raises(Abandoned), work.looking_up(gone):
        machine_of(JOBS[1].state(None))


def test_little_heavy_work_at_a_time(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(heavy, "MOST_WAITING", 3)
    most, now = [0], [0]

    class Waiting(_Gone):
        async def is_disconnected(self) -> bool:
            return False

    async def one() -> str:
        turn = heavy._heavy(Waiting())  # type: ignore[arg-type]
        try:
            await anext(turn)
        except Busy:
            return "busy"
        now[0] += 1
        most[0] = max(most[0], now[0])
        await asyncio.sleep(0.02)
        now[0] -= 1
        await turn.aclose()
        return "done"

    async def crowd() -> list[str]:
        return list(await asyncio.gather(*(one() for _ in range(12))))

    done = in_a_loop(crowd)
    assert most[0] == heavy.AT_ONCE
    assert done.count("busy") > 0
    assert done.count("done") >= heavy.AT_ONCE


def test_an_import_that_breaks_the_fit_names_the_field(client: TestClient) -> None:
    # One whole number too high by a thousand is refused by its row, not by the file.
    sheet = b"step;full speed (rpm)\n;330000\n"
    rows = client.post("/api/jobs/1/readings/import", content=sheet, headers=CSV).json()["rows"]
    assert rows[0]["problem"]
    assert json.loads(client.post("/api/jobs/import", content=b"{}", headers=JSON).content)["field"] == "file"
