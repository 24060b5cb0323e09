"""What makes the duty on a control lead: the bench box, timer ICs, files, and nonsense refused beside its field."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

RING = 8


def signal(client: TestClient, maker: str, design: dict[str, Any] | None = None) -> dict[str, Any]:
    said = client.post(f"/api/jobs/{RING}/signal", json={"maker": maker, "design": design})
    assert said.status_code == 200, said.text
    return dict(said.json())


def choose(client: TestClient, design: dict[str, Any]) -> Any:
    body = {"after_revision": page(client, RING)["last_revision"], "who": "R. Fell", "design": design}
    return client.post(f"/api/jobs/{RING}/designs", json=body)


def test_the_box_shows_what_its_timer_makes_of_every_frequency(client: TestClient) -> None:
    shown = signal(client, "bench")
    usual = shown["usual"]
    found = signal(client, "bench", usual)
    assert [found["box"][i]["asked"] for i in (0, 1, -1)] == ["2 kHz", "2.5 kHz", "30 kHz"]
    seven = next(r for r in found["box"] if r["asked"] == "7 kHz")
    assert (seven["made"], seven["error_text"]) == ("6.993 kHz", "−0.1 %")
    assert [r["asked"] for r in found["box"] if r["chosen"]] == ["25 kHz"]
    assert "57 frequencies" in found["box_text"]
    assert "sense to reversed" in found["box_text"]
    assert choose(client, usual).status_code == 201
    text = client.get(f"/api/jobs/{RING}/duty.h").text
    assert "fan_frequency[FAN_FREQUENCIES]" in text
    # Pulses that the box cannot be set to are told.
    body = {"version": page(client, RING)["job"]["version"], "who": "", "commanded": {"pulses_per_rev": "14"}}
    assert client.patch(f"/api/jobs/{RING}", json=body).status_code == 200
    assert "read wrong" in signal(client, "bench", usual)["box_text"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"frequency": "25.2 kHz"}, "frequency"),
        ({"box": {"step": "10 Hz"}}, "box.step"),
        ({"box": {"low": "0 Hz"}}, "box.low"),
        ({"box": {"high": "1 kHz"}}, "box.high"),
        ({"box": {"track": "wide"}}, "box.track"),
        ({"box": {"pin": "3 V"}}, "box.pin"),
        ({"duties": ["30 %", "140 %"]}, "duties[1]"),
        ({"controller": {"clock": "0"}}, "controller.clock"),
    ],
)
def test_nonsense_is_refused_beside_its_field(client: TestClient, change: dict[str, Any], field: str) -> None:
    usual = signal(client, "bench")["usual"]
    problem = refused(choose(client, {**usual, **change}), 422)
    assert problem["field"].removeprefix("design.").startswith(field), problem


def test_a_hot_logic_regulator_is_refused_until_it_switches(client: TestClient) -> None:
    usual = signal(client, "bench")["usual"]
    wide = {**usual, "box": {**usual["box"], "top": "60 V"}}
    assert "switching" in refused(choose(client, wide), 422)["detail"]
    assert choose(client, {**wide, "logic_switching": True}).status_code == 201
    back = page(client, RING)["design"]["design"]
    assert (back["box"]["top"], back["logic_switching"]) == ("60 V", True)


def test_a_timer_without_diodes_tells_where_its_pot_ends(client: TestClient) -> None:
    usual = signal(client, "timer-plain")["usual"]
    over = signal(client, "timer-plain", usual)["over"]
    assert max(over["duty"]) == pytest.approx(0.5, abs=0.02)
    assert choose(client, usual).status_code == 201
    told = [r for m in page(client, RING)["frame"]["marks"] for r in m["reasons"]]
    assert any("its pot makes" in r for r in told)
    refused(client.get(f"/api/jobs/{RING}/duty.h"), 422, "design")
