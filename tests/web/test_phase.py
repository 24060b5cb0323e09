"""Phase angle through the door: the view, the firing table as files, what is refused."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import new_job, refused

BUNK, DRYING, HOOD = 1, 3, 5


def test_every_wanted_step_has_its_angle_band_and_waveform(client: TestClient) -> None:
    shown = client.post(f"/api/jobs/{BUNK}/phase", json={"step": 2}).json()
    angles = [s["firing_deg"] for s in shown["steps"]]
    assert angles == sorted(angles, reverse=True)
    assert angles[-1] == 0  # full on
    for step, wanted in zip(shown["steps"], (118, 196, 277, 330), strict=True):
        assert step["speed"]["value"] == pytest.approx(wanted, abs=1)
        assert step["speed"]["low"] < wanted < step["speed"]["high"]
    wave = shown["wave"]
    assert wave["step"] == 2
    assert wave["firing_deg"] == pytest.approx(angles[1])
    assert len(wave["theta_deg"]) == len(wave["motor_v"]) == len(wave["auxiliary_a"]) == 360
    # In the open time the motor's own volts stand at its terminals, and no current flows.
    open_ = [
        i
        for i, t in enumerate(wave["theta_deg"])
        if wave["extinction_deg"] - 180 + 3 < t < wave["firing_deg"] - 3
    ]
    assert all(wave["line_a"][i] == 0 for i in open_)
    assert max(abs(wave["motor_v"][i]) for i in open_) > 20
    assert all(not p["refusal"] and p["stresses"] is not None for p in shown["parts"])
    assert shown["crude"][0]["name"].startswith("rms volts")


def test_a_shaded_pole_fan_and_a_refused_one(client: TestClient) -> None:
    shown = client.post(f"/api/jobs/{DRYING}/phase", json={}).json()
    assert shown["wave"]["auxiliary_a"] == []
    # Its ring makes the torque pulsate as it really does.
    assert len(shown["wave"]["torque_nm"]) > 100
    assert "iron" in shown["note"]
    refused = client.post(f"/api/jobs/{HOOD}/phase", json={})
    assert refused.status_code == 422
    assert "start" in refused.json()["detail"]
    empty = new_job(client)["job"]["id"]
    assert client.post(f"/api/jobs/{empty}/phase", json={}).status_code == 422
    assert client.post("/api/jobs/999/phase", json={}).status_code == 404
    for job in (2, 4, 6):
        assert client.post(f"/api/jobs/{job}/phase", json={}).status_code == 200


@pytest.mark.parametrize("spacing", ["angle", "power", "volts", "speed"])
def test_the_firing_table_comes_as_csv_and_as_a_header(client: TestClient, spacing: str) -> None:
    query = {"spacing": spacing, "steps": 8}
    text = client.get(f"/api/jobs/{BUNK}/firing.csv", params=query).text
    rows = [line.split(";") for line in text.splitlines() if line and not line.startswith("#")]
    assert len(rows) == 9
    speeds = [float(r[5]) for r in rows[1:]]
    assert speeds == sorted(speeds)
    header = client.get(f"/api/jobs/{BUNK}/firing.h", params=query).text
    assert "#define FAN_STEPS 8u" in header
    assert "no message for one second" in header
    both = client.get(f"/api/jobs/{BUNK}/firing.h", params={**query, "both": "true"}).text
    assert "fan_delay_us_50[" in both
    assert "fan_delay_us_60[" in both
    assert "9.2 ms" in both


@pytest.mark.parametrize(
    ("job", "query", "status"),
    [
        (BUNK, {"steps": 1}, 422),
        (BUNK, {"steps": 9999}, 422),
        (BUNK, {"spacing": "taste"}, 422),
        (HOOD, {}, 422),
        (999, {}, 404),
    ],
)
def test_a_table_that_cannot_be_is_refused(
    client: TestClient, job: int, query: dict[str, str], status: int
) -> None:
    refused(client.get(f"/api/jobs/{job}/firing.csv", params=query), status)


def test_a_knob_both_ways_its_cures_and_its_scale(client: TestClient) -> None:
    query = {"knob": "500k", "least": "3k3", "capacitor": "100n"}
    shown = client.get(f"/api/jobs/{BUNK}/knob", params=query).json()
    assert shown["gap_turn"] > 0.05
    assert shown["cures"]
    up, down = shown["up_rpm"], shown["down_rpm"]
    assert sum(v > 0 for v in up) < sum(v > 0 for v in down)
    assert up[-1] == pytest.approx(down[-1]) == pytest.approx(329, abs=3)
    full = client.get(f"/api/jobs/{BUNK}/knob", params={**query, "kick": "true"}).json()
    assert full["up_rpm"] == full["down_rpm"]
    speeds = [m["rpm"] for m in shown["scale"]]
    assert speeds == sorted(speeds)
    assert all(0 <= m["turn"] <= 1 for m in shown["scale"])
    svg = client.get(f"/api/jobs/{BUNK}/knob-scale.svg", params=query)
    assert svg.headers["content-type"].startswith("image/svg+xml")
    assert svg.text.count("<path") == 1 + len(speeds)
    second = client.get(
        f"/api/jobs/{BUNK}/knob", params={**query, "second_ohm": "15k", "second_f": "100n"}
    ).json()
    assert second["gap_turn"] < 0.3 * shown["gap_turn"]


@pytest.mark.parametrize(
    ("query", "field"),
    [
        ({"knob": "blue"}, "knob"),
        ({"capacitor": "4Ω"}, "capacitor"),
        ({"knob": "0"}, "knob"),
        ({"second_ohm": "15k"}, "second_f"),
        ({"breakback": "40V"}, "breakback_v"),
        ({"taper": "wild"}, None),
    ],
)
def test_a_network_that_cannot_be_is_refused_beside_its_field(
    client: TestClient, query: dict[str, str], field: str | None
) -> None:
    refused(client.get(f"/api/jobs/{BUNK}/knob", params=query), 422, field)


def test_usual_values_for_a_range(client: TestClient) -> None:
    found = client.get(f"/api/jobs/{BUNK}/proposals").json()
    assert found
    taken = {k: found[0][k] for k in ("knob", "least", "capacitor", "across")}
    shown = client.get(f"/api/jobs/{BUNK}/knob", params=taken)
    assert shown.status_code == 200
    # The slowest wanted step, 118 rpm, lies on the knob.
    assert min(v for v in shown.json()["down_rpm"] if v > 0) < 118
    refused(client.get(f"/api/jobs/{HOOD}/proposals"), 422, "method")
