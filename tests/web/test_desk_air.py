"""Desk and air through the door: answers as shown, calls kept, targets in any unit, curves from a file."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from fenwit.core.desk.cards import CARDS
from tests.web.test_api import CSV, page, refused
from tests.web.test_inspect import BUNK, DRYING, patch


def ask(client: TestClient, card: str, given: dict[str, str], **more: Any) -> Any:
    return client.post(f"/api/desk/{card}", json={"given": given, **more})


def test_every_card_answers_its_example_as_shown(client: TestClient) -> None:
    cards = client.get("/api/desk").json()["cards"]
    assert [c["key"] for c in cards] == list(CARDS)
    for card in cards:
        said = ask(client, card["key"], card["start"]).json()
        assert said["answer"]["found"], card["key"]
        assert said["answer"]["copy"]
        for name in said["answer"]["draggable"][:1]:
            swept = ask(client, card["key"], card["start"], sweep={"over": name}).json()["answer"]["swept"]
            assert len(swept["at"]) == len(swept["curves"][0]["found"])


def test_a_blank_field_is_computed_and_typed_back_gives_the_others(client: TestClient) -> None:
    given = {"frequency_hz": "50", "capacitance_f": "2.7"}
    answer = ask(client, "reactance", given).json()["answer"]
    # On screen a bare number of a capacitor means microfarads.
    found = {f["name"]: f for f in answer["found"]}
    assert found["reactance_ohm"]["text"] == "1.179 kΩ"
    assert found["reactance_ohm"]["solved"]
    back = ask(
        client, "reactance", {"frequency_hz": "50", "reactance_ohm": found["reactance_ohm"]["typed"]}
    ).json()
    assert next(f["text"] for f in back["answer"]["found"]) == "2.7 µF"
    lacking = ask(client, "reactance", {"frequency_hz": "50"}).json()
    assert lacking["answer"] is None
    assert lacking["lacking"]["field"] in ("capacitance_f", "reactance_ohm")
    refused(ask(client, "reactance", {"frequency_hz": "0", "capacitance_f": "1"}), 422, "frequency_hz")
    refused(ask(client, "reactance", {**given, "reactance_ohm": "5"}), 422, "capacitance_f")
    refused(ask(client, "moon", {}), 422, "card")
    refused(ask(client, "reactance", given, sweep={"over": "frequency_hz", "low": 5, "high": 1}), 422, "over")


def test_uncertain_inputs_give_bands_and_a_dragged_field_its_text(client: TestClient) -> None:
    given = {"resistance_a_ohm": "10k", "resistance_b_ohm": "10k ±5%", "capacitance_f": "1n"}
    answer = ask(client, "timer-astable", given).json()["answer"]
    assert " to " in answer["found"][0]["band"]
    moved = ask(client, "timer-astable", given, sweep={"over": "capacitance_f", "at": 2.2e-9}).json()[
        "answer"
    ]
    assert moved["given"]["capacitance_f"] == "2.2nF"
    assert moved["swept"]["now"] == pytest.approx(2.2e-9)


def test_the_last_calls_are_kept_once_each_and_no_more_than_twenty(client: TestClient) -> None:
    for volts in range(1, 25):
        given = {"frequency_hz": "50", "capacitance_f": "1u", "voltage_v": str(volts)}
        for _ in range(2):
            said = ask(client, "reactance", given, keep=True, who="R. Fell")
    kept = said.json()["kept"]
    assert len(kept) == 20
    assert [k["given"]["voltage_v"] for k in kept[:2]] == ["24", "23"]
    assert kept[0]["who"] == "R. Fell"
    ask(client, "units", CARDS["units"].start, keep=True)  # type: ignore[arg-type]
    front = client.get("/api/desk").json()["kept"]
    assert (front[0]["card"], len(front)) == ("units", 20)


def steps(client: TestClient, job: int, wanted: list[Any]) -> Any:
    return client.put(
        f"/api/jobs/{job}/steps", json={"version": page(client, job)["job"]["version"], "wanted": wanted}
    )


def test_steps_in_the_unit_that_is_meant(client: TestClient) -> None:
    now = page(client, DRYING)["job"]["wanted_rpm"]
    answer = steps(client, DRYING, [*now, "450 m³/h"])
    assert answer.status_code == 200, answer.text
    job = answer.json()["job"]
    at = job["meant"].index("450 m³/h")
    assert 900 < job["wanted_rpm"][at] < 1000
    aim = answer.json()["frame"]["aims"][at]
    assert (aim["meant"], aim["air_text"].split(" · ")[0]) == ("450 m³/h", "450 m³/h")
    # Another step is dragged: what was meant stays.
    moved = [w if i else w + 5 for i, w in enumerate(job["wanted_rpm"])]
    assert "450 m³/h" in steps(client, DRYING, moved).json()["job"]["meant"]
    refused(steps(client, DRYING, ["5000 m³/h"]), 422, "wanted[0]")
    refused(steps(client, DRYING, ["22 K"]), 422, "wanted[0]")
    assert "another step asks" in steps(client, DRYING, ["450 m³/h", "963"]).json()["detail"]
    # Undone, the meaning goes with the speeds.
    client.post(f"/api/jobs/{DRYING}/undo", json={"who": ""})
    client.post(f"/api/jobs/{DRYING}/undo", json={"who": ""})
    assert page(client, DRYING)["job"]["meant"] == []


def test_air_is_typed_refused_beside_its_field_and_kept(client: TestClient) -> None:
    curve = "flow (m3/h);pressure (Pa)\n0;120\n400;110\n800;80\n1200;30\n1400;0"
    assert patch(client, BUNK, air={"curve": curve}).status_code == 200
    typed = client.get(f"/api/jobs/{BUNK}/air").json()["typed"]
    assert typed["curve"].splitlines()[2] == "400; 110"
    assert (
        patch(client, BUNK, air={"system_flow_m3_s": "1000 m³/h", "system_pressure_pa": "60"}).status_code
        == 200
    )
    shown = client.get(f"/api/jobs/{BUNK}/air").json()["shown"]
    assert shown["rows"][0]["flow_text"].endswith("m³/h")
    assert len(shown["lines"]) == len(shown["rows"])
    refused(patch(client, BUNK, air={"curve": "0;50\n100;60\n200;50\n300;60\n400;0"}), 422, "air.curve")
    refused(patch(client, BUNK, air={"curve": "step;rpm\n1;200"}), 422, "air.curve")
    refused(patch(client, BUNK, air={"curve": "0;50\n100;x\n200;0"}), 422, "air.curve")
    refused(patch(client, BUNK, air={"humidity": "140 %"}), 422, "air.humidity")
    refused(patch(client, BUNK, air={"blades": "3.5"}), 422, "air.blades")
    refused(patch(client, BUNK, air={"fixed_pressure_pa": "90"}), 422, "air.system_pressure_pa")
    refused(patch(client, BUNK, air={"system_pressure_pa": "1", "system_flow_m3_s": "3000 m³/h",
                                     "curve": "0;50\n100;45\n200;40"}), 422, "air.system_pressure_pa")  # fmt: skip
    assert client.get(f"/api/jobs/{BUNK}/air").json()["shown"]["rows"] == shown["rows"]


def test_a_curve_from_a_file_is_read_and_one_of_another_kind_refused(client: TestClient) -> None:
    good = "Pressure (inH2O),Flow (cfm)\n0.5,0\n0.4,200\n0.2,400\n0,520\n"
    read = client.post(f"/api/jobs/{BUNK}/air/import", content=good, headers=CSV)
    assert read.status_code == 200, read.text
    assert read.json()["curve"].splitlines()[1] == "0; 124.544"
    refused(
        client.post(f"/api/jobs/{BUNK}/air/import", content="time;volts\n1;2\n", headers=CSV),
        422,
        "air.curve",
    )
    refused(client.post(f"/api/jobs/{BUNK}/air/import", content="\0\1", headers=CSV), 422, "file")
