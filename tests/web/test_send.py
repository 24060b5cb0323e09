"""What the Desk worked out goes into a job by the same doors as what is typed there; DC fans refuse nonsense."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

RING, RACK, HEATER = 8, 9, 10


def send(
    client: TestClient, card: str, place: str, job: int, given: dict[str, str], version: int | None = None
) -> Any:
    body = {
        "given": given, "place": place, "job_id": job, "who": "R. Fell",
        "version": page(client, job)["job"]["version"] if version is None else version,
    }  # fmt: skip
    return client.post(f"/api/desk/{card}/send", json=body)


def test_a_speed_of_the_fan_laws_becomes_a_wanted_step_and_is_undone(client: TestClient) -> None:
    given = {"speed_1_rpm": "330", "flow_1_m3_s": "2", "flow_2_m3_s": "0.91"}
    before = page(client)["job"]["wanted_rpm"]
    said = send(client, "fan-laws", "step", 1, given).json()
    assert 150.0 in said["job"]["wanted_rpm"]
    assert len(said["job"]["wanted_rpm"]) == len(before) + 1
    assert client.post("/api/jobs/1/undo", json={"who": "R. Fell"}).json()["job"]["wanted_rpm"] == before
    # A speed no regulator gives is refused by Aim itself, and so is an older version.
    refused(send(client, "fan-laws", "step", 1, {**given, "flow_2_m3_s": "4"}), 422, "wanted[4]")
    refused(send(client, "fan-laws", "step", 1, given, version=1), 409)
    refused(send(client, "fan-laws", "air", 1, given), 422, "place")
    refused(send(client, "reactance", "step", 1, {"frequency_hz": "50", "capacitance_f": "1u"}), 422, "place")


def test_a_flow_goes_in_as_the_flow_that_was_meant(client: TestClient) -> None:
    given = {"heat_w": "1 kW", "temperature_rise_k": "8"}
    said = send(client, "air-temperature-rise", "step", RING, given)
    # The ring makes no such flow: it says what it does make.
    refused(said, 422, "wanted[4]")
    heat = send(client, "air-temperature-rise", "air", RING, given).json()
    assert heat["job"]["air"]["heat_w"] == 1000.0


def test_curve_place_and_map_arrive_as_they_would_be_typed(client: TestClient) -> None:
    curve = {"flows_m3_s": "0, 100, 200 m3/h", "pressures_pa": "60, 45, 0", "system_flow_m3_s": "120 m3/h",
             "system_pressure_pa": "20"}  # fmt: skip
    air = send(client, "fan-point", "air", RACK, curve).json()["job"]["air"]
    assert air["flows_m3_s"] == pytest.approx([0, 100 / 3600, 200 / 3600])
    assert air["system_pressure_pa"] == 20.0
    place = {"altitude_m": "820", "temperature_c": "35"}
    assert send(client, "air-density", "air", RACK, place).json()["job"]["air"]["altitude_m"] == 820.0
    pairs = {"duties": "0.2, 0.6, 1", "speeds_rpm": "600, 1400, 2000", "duty": "0.5"}
    said = send(client, "speed-map", "fan", RING, pairs).json()
    assert said["job"]["commanded"]["duties"] == pytest.approx([0.2, 0.6, 1.0])
    pulses = {"frequency_hz": "60 Hz", "speed_rpm": "1200"}
    assert send(client, "tachometer", "fan", RING, pulses).json()["job"]["commanded"]["pulses_per_rev"] == 3


def test_timer_parts_become_a_revision_of_the_design(client: TestClient) -> None:
    given = {"resistance_high_ohm": "1k", "resistance_low_ohm": "1k", "pot_ohm": "100k", "travel": "0.5",
             "capacitance_f": "470p", "supply_voltage_v": "12"}  # fmt: skip
    said = send(client, "timer-astable-diodes", "setting", RING, given)
    assert said.status_code == 200, said.text
    design = said.json()["design"]["design"]
    assert design["maker"] == "timer-diodes"
    assert design["timer"]["capacitance"] == "470p"
    # A bank of capacitors uses no such parts.
    refused(send(client, "timer-astable-diodes", "setting", 1, given), 422, "job_id")


@pytest.mark.parametrize(
    ("field", "text", "named"),
    [
        ("least_duty", "140 %", "commanded.least_duty"),
        ("pulses_per_rev", "0", "commanded.pulses_per_rev"),
        ("low_hz", "0 Hz", "commanded.low_hz"),
        ("pairs", "20 600\n40", "commanded.pairs"),
        ("pairs", "20 600\n140 900", "commanded.pairs"),
        ("pairs", "speed;duty\nmany;few", "commanded.pairs"),
        ("groups", "9", "commanded.groups"),
        ("fans", "1.5", "commanded.fans"),
    ],
)
def test_what_cannot_be_of_a_commanded_fan_is_refused_beside_its_field(
    client: TestClient, field: str, text: str, named: str
) -> None:
    version = page(client, RING)["job"]["version"]
    body = {"version": version, "commanded": {field: text}}
    refused(client.patch(f"/api/jobs/{RING}", json=body), 422, named)
    assert page(client, RING)["job"]["version"] == version


def test_pairs_of_a_data_sheet_are_saved_again_as_they_stand_in_their_field(client: TestClient) -> None:
    version = page(client, RING)["job"]["version"]
    pairs = "20 600\n40 900\n60 1200\n80 1700\n100 2000"
    body = {"version": version, "commanded": {"pairs": pairs, "slowest_rpm": ""}}
    assert client.patch(f"/api/jobs/{RING}", json=body).status_code == 200
    shown = client.get(f"/api/jobs/{RING}/commanded").json()["typed"]["pairs"]
    again = {"version": version + 1, "commanded": {"pairs": shown}}
    assert client.patch(f"/api/jobs/{RING}", json=again).status_code == 200


def test_a_supply_above_what_the_fan_bears_is_refused(client: TestClient) -> None:
    for job, volts in ((RING, "24V"), (RACK, "60V"), (HEATER, "48V")):
        body = {"version": page(client, job)["job"]["version"], "supply_voltage": volts}
        refused(client.patch(f"/api/jobs/{job}", json=body), 422, "supply_voltage")


@pytest.mark.parametrize(("field", "text"), [("frequency", "0 Hz"), ("high", "0 V"), ("stages", "1.5")])
def test_a_signal_that_cannot_be_is_refused_beside_its_field(
    client: TestClient, field: str, text: str
) -> None:
    usual = client.get(f"/api/jobs/{RING}/usual", params={"method": "pwm"}).json()
    refused(client.post(f"/api/jobs/{RING}/live", json={"design": {**usual, field: text}}), 422, field)
    duties = ["140 %", *usual["duties"][1:]]
    refused(
        client.post(f"/api/jobs/{RING}/live", json={"design": {**usual, "duties": duties}}), 422, "duties[0]"
    )


EXHAUST, CORRIDOR = 11, 12


def held(client: TestClient, job: int) -> Any:
    return client.get(f"/api/jobs/{job}/hold").json()["typed"]


def test_a_control_map_and_its_knob_arrive_with_the_fan(client: TestClient) -> None:
    given = {"minimum_speed_rpm": "280", "maximum_speed_rpm": "1500", "low_v": "1.5", "voltage_v": "5"}
    said = send(client, "command-map", "fan", CORRIDOR, given).json()["job"]["commanded"]
    assert said["slowest_rpm"] == 280.0
    assert (said["analog"]["low_v"], said["analog"]["high_v"]) == (1.5, 9.6)
    knob = {"pot_ohm": "10k", "low_voltage_v": "2", "high_voltage_v": "8", "input_resistance_ohm": "100k"}
    design = send(client, "pot-end-stops", "setting", EXHAUST, knob).json()["design"]["design"]
    assert design["source"] == "knob"
    assert design["knob"]["pot"] == "10k"
    assert design["knob"]["top"]
    parts = {"amplitude_v": "3.3", "frequency_hz": "2k", "resistance_ohm": "22k", "capacitance_f": "100n",
             "stages": "1", "gain": "3.3"}  # fmt: skip
    sent = send(client, "pwm-filter", "setting", EXHAUST, parts)
    assert sent.status_code == 200, sent.text
    assert sent.json()["design"]["design"]["source"] == "filter"
    assert sent.json()["design"]["design"]["filter"]["stages"] == 1
    assert sent.json()["design"]["design"]["filter"]["frequency"] == "2 kHz"


def test_what_holds_takes_its_part_and_leaves_the_rest(client: TestClient) -> None:
    before = held(client, EXHAUST)
    scale = {
        "range_low_v": "0",
        "range_high_v": "10",
        "value_low": "0",
        "value_high": "500",
        "voltage_v": "4",
    }
    assert send(client, "sensor-scale", "hold", EXHAUST, scale).status_code == 200
    now = held(client, EXHAUST)
    assert (now["loop"]["range_low"].split()[0], now["loop"]["high"].split()[0]) == ("0", "500")
    assert now["loop"]["set_point"] == before["loop"]["set_point"]
    cone = {"cone_factor": "58", "pressure_pa": "81"}
    assert send(client, "cone-flow", "hold", EXHAUST, cone).status_code == 200
    assert held(client, EXHAUST)["loop"]["cone"] == "58"
    sink = {"natural_k_w": "2.5", "forced_k_w": "0.6", "power_w": "8", "start_c": "30", "full_c": "50"}
    assert send(client, "heat-sink-fan", "hold", RACK, sink).status_code == 200
    heat = held(client, RACK)["heat"]
    assert (heat["start"], heat["sinks"][0]["natural"]) == ("30 °C", "2.5 K/W")
    ntc = {"r25_ohm": "47k", "beta_k": "4090", "temperature_c": "50"}
    assert send(client, "ntc", "hold", RACK, ntc).status_code == 200
    assert held(client, RACK)["heat"]["r25"] == "47k"
    # A reversed range is refused beside the field, and nothing is lost.
    refused(send(client, "sensor-scale", "hold", EXHAUST, {**scale, "value_low": "500"}), 422)
    assert held(client, EXHAUST)["loop"]["cone"] == "58"
