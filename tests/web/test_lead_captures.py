"""A scope's CSV of a control lead through the API: read, kept as readings with verdicts, refused, out and in again."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

RING, BUNK = 8, 1
CSV = {"content-type": "text/csv"}


def trace(duty: float = 0.4, hertz: float = 25e3, *, tach_hz: float | None = None, span_s: float = 2e-3,
          head: str = "time,lead\n(s),(V)", high: float = 5.0) -> bytes:  # fmt: skip
    t = np.arange(0, span_s, 1 / (120 * hertz))
    lead = np.where((t * hertz + 0.2) % 1 < duty, high, 0.1)
    rows = [t, lead] if tach_hz is None else [t, lead, np.where((t * tach_hz + 0.1) % 1 < 0.5, 4.9, 0.2)]
    lines = [",".join(f"{x:.9g}" for x in row) for row in zip(*rows, strict=True)]
    return (head + "\n" + "\n".join(lines)).encode()


def send(client: TestClient, data: bytes, job: int = RING, step: int = 1, **asked: Any) -> Any:
    return client.post(
        f"/api/jobs/{job}/lead-captures",
        content=data,
        headers=CSV,
        params={"step": step, "who": "R. Fell", **asked},
    )


@pytest.fixture
def ring(client: TestClient) -> dict[str, Any]:
    """The ring with the usual signal chosen."""
    usual = client.post(f"/api/jobs/{RING}/signal", json={}).json()["usual"]
    body = {"after_revision": page(client, RING)["last_revision"], "who": "R. Fell", "design": usual}
    made = client.post(f"/api/jobs/{RING}/designs", json=body)
    assert made.status_code == 201, made.text
    return dict(made.json())


def made_duty(client: TestClient, step: int) -> float:
    row = next(
        r for r in page(client, RING)["frame"]["proofs"] if (r["step"], r["quantity"]) == (step, "lead_duty")
    )
    return float(row["low"] + row["high"]) / 200


def test_a_capture_becomes_readings_with_their_verdicts(client: TestClient, ring: dict[str, Any]) -> None:
    said = send(client, trace(made_duty(client, 1)), name="step 1.csv", take=True)
    assert said.status_code == 200, said.text
    assert len(said.json()["kept"]) == 5
    rows = {r["quantity"]: r for r in page(client, RING)["frame"]["proofs"] if r["step"] == 1}
    assert {k: rows[k]["verdict"] for k in ("lead_duty", "lead_hz", "lead_low_v", "lead_high_v", "lead_rise_us")} == {
        "lead_duty": "pass", "lead_hz": "pass", "lead_low_v": "pass", "lead_high_v": "pass", "lead_rise_us": "pass",
    }  # fmt: skip
    kept = client.get(f"/api/jobs/{RING}/lead-captures", params={"step": 1}).json()
    assert [k["name"] for k in kept] == ["step 1.csv"]
    assert kept[0]["shown"]["lead_v"]
    # A worse one of the same step supersedes it, and is told.
    send(client, trace(1 - made_duty(client, 1), high=9.0), take=True)
    rows = {r["quantity"]: r for r in page(client, RING)["frame"]["proofs"] if r["step"] == 1}
    assert (rows["lead_duty"]["verdict"], rows["lead_high_v"]["verdict"]) == ("fail", "fail")
    assert "the other way round" in rows["lead_duty"]["words"]
    # Out and in again, captures and all.
    out = client.get(f"/api/jobs/{RING}/bundle.json").json()
    copy = client.post("/api/jobs/import", json=out).json()["job"]["id"]
    assert len(client.get(f"/api/jobs/{copy}/lead-captures", params={"step": 1}).json()) == 2
    spoilt = {**out, "captures": [{**out["captures"][0], "shown": {"theta_deg": "no"}}]}
    refused(client.post("/api/jobs/import", json=spoilt), 422)


def test_the_tachometer_on_the_second_channel_gives_the_speed(
    client: TestClient, ring: dict[str, Any]
) -> None:
    data = trace(0.4, 2e3, tach_hz=46.0, span_s=0.08)
    read = send(client, data).json()
    assert read["understood"] == "channel 1 is the lead, 2 the tachometer"
    speed = next(f for f in read["shown"]["found"] if f["quantity"] == "speed_rpm")
    assert speed["value"] == pytest.approx(1380.0, rel=0.005)
    other = send(client, data, swap=True).json()
    assert other["understood"] == "channel 2 is the lead, 1 the tachometer"


@pytest.mark.parametrize(
    ("data", "field"),
    [
        (b"", "file"),
        (b"step,speed\n1,900\n2,1400\n", "file"),
        (b"\x00\x01\x02", "file"),
        (trace(hertz=400.0, span_s=4.5e-3), "time"),
    ],
)
def test_what_is_no_capture_is_refused(
    client: TestClient, ring: dict[str, Any], data: bytes, field: str
) -> None:
    refused(send(client, data), 422, field)
    refused(send(client, trace(), probe="ten"), 422, "probe")


def test_a_lead_that_stands_leaves_nothing_to_keep(client: TestClient, ring: dict[str, Any]) -> None:
    said = send(client, trace(1.0))
    assert "stands at" in said.json()["shown"]["words"][0]
    refused(send(client, trace(1.0), take=True), 422, "file")
    assert not client.get(f"/api/jobs/{BUNK}/lead-captures", params={"step": 1}).json()


def test_a_duty_typed_in_prove_gets_its_verdict(client: TestClient, ring: dict[str, Any]) -> None:
    body = {
        "quantity": "lead_duty",
        "text": f"{100 * made_duty(client, 2):.1f} %",
        "step": 2,
        "who": "R. Fell",
    }
    said = client.post(f"/api/jobs/{RING}/readings", json=body)
    assert said.status_code == 201, said.text
    row = next(r for r in said.json()["frame"]["proofs"] if (r["step"], r["quantity"]) == (2, "lead_duty"))
    assert row["verdict"] == "pass"
