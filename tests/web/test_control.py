"""Phase angle chosen, tried, brought back, proved by captures, and handed over, through the door."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from fenwit.demo.scenario import JOBS
from fenwit.demo.scope import scope_trace
from tests.web.test_api import CSV, WHO, new_job, page, pair, refused

BUNK, READING, DRYING, HOOD = 1, 2, 3, 5


def body(after: int, name: str = "", **control: Any) -> dict[str, Any]:
    design = {"method": "phase-angle", **control}
    return {"after_revision": after, "who": WHO, "name": name, "design": design}


def choose(client: TestClient, job: int = BUNK, **control: Any) -> Any:
    after = page(client, job)["last_revision"]
    answer = client.post(f"/api/jobs/{job}/designs", json=body(after, **control))
    assert answer.status_code == 201, answer.text
    return answer.json()


def trace_csv(step: int, late_deg: float = 0.8) -> bytes:
    """What the lodge's scope writes at a step of the drying room's control."""
    job = JOBS[2]
    t, v, u = scope_trace(job.state(job.designs[0].regulator), step, late_deg)
    rows = [f"{a:.7f},{b:.3f},{c:.3f}" for a, b, c in zip(t, v, u, strict=True)]
    return ("time (s),motor (V),supply (V)\n" + "\n".join(rows)).encode()


def capture(client: TestClient, data: bytes, job: int = DRYING, **query: Any) -> Any:
    return client.post(
        f"/api/jobs/{job}/captures", content=data, params={"step": 1, "who": WHO, **query}, headers=CSV
    )


def test_a_control_is_chosen_for_the_wanted_speeds_and_drawn_like_any_regulator(client: TestClient) -> None:
    found = choose(client, fired_by="table")
    assert found["design"]["method"] == "phase-angle"
    assert found["design"]["method_name"] == "phase angle"
    assert len(found["design"]["design"]["angles"]) == 4
    frame = found["frame"]
    assert frame["method"] == "phase-angle"
    for mark, wanted in zip(frame["marks"], (118, 196, 277, 330), strict=True):
        assert mark["predicted"]["value"] == pytest.approx(wanted, abs=1)
    assert frame["paths"][0]["places"][1]["name"].endswith("°")
    assert {"T", "U1", "U2", "PS", "RZ", "CD"} <= {p["name"] for p in frame["parts"]}
    assert found["stages"][3]["state"] == "done"
    assert found["history"]["undo"] == "the phase-angle control"
    svg = client.get(f"/api/jobs/{BUNK}/schematic.svg").text
    assert "T 4A" in svg
    # As typed it makes the same control again.
    again = choose(client, **found["design"]["design"])
    assert again["design"]["design"] == found["design"]["design"]
    assert [m["predicted"] for m in again["frame"]["marks"]] == [m["predicted"] for m in frame["marks"]]


def test_a_knob_with_its_network_and_a_triac_of_ones_own(client: TestClient) -> None:
    network = {
        "least": "4k7",
        "knob": "470k",
        "capacitor": "0u1",
        "second_ohm": "15k",
        "second_f": "47n",
        "taper": "log",
    }
    found = choose(
        client,
        fired_by="knob",
        network=network,
        kick=True,
        triac={"rms": "8A", "dvdt": "20"},
        name="with a knob",
    )
    typed = found["design"]["design"]
    assert typed["network"] | {"capacitor": "0u1"} == typed["network"] | network
    assert typed["triac"]["rms"] == "8"
    assert found["design"]["name"] == "with a knob"
    names = {p["name"] for p in found["frame"]["parts"]}
    assert {"P", "R1", "R3", "C1", "C2", "D"} <= names
    assert "8 A" in next(p["text"] for p in found["frame"]["parts"] if p["name"] == "T")


@pytest.mark.parametrize(
    ("control", "field"),
    [
        ({"fired_by": "knob", "network": {"knob": "blue"}}, "knob"),
        ({"fired_by": "knob", "network": {"second_ohm": "15k"}}, "second_f"),
        ({"triac": {"rms": "huge"}}, "triac.rms"),
        ({"triac": {"off_state": "400V"}}, "T"),
        ({"unit": {"lag": "5 s"}}, "unit.lag"),
        ({"unit": {"logic_a": "90mA"}}, "angles"),
        ({"angles": ["90", "abc"]}, "angles[1]"),
        ({"angles": ["200°"]}, "angles[0]"),
        ({"unit": {"ctr_low": "3", "ctr_high": "1"}}, "ctr_high"),
    ],
)
def test_what_cannot_be_is_refused_beside_its_field(
    client: TestClient, control: dict[str, Any], field: str
) -> None:
    before = page(client)["last_revision"]
    answer = client.post(f"/api/jobs/{BUNK}/designs", json=body(before, **control))
    refused(answer, 422, field)
    assert page(client)["last_revision"] == before


def test_a_fan_that_phase_angle_does_not_suit_gets_none(client: TestClient) -> None:
    refused(client.post(f"/api/jobs/{HOOD}/designs", json=body(0)), 422, "method")
    empty = new_job(client)["job"]["id"]
    refused(client.post(f"/api/jobs/{empty}/designs", json=body(0)), 422, "angles")
    stale = client.post(f"/api/jobs/{BUNK}/designs", json=body(0))
    assert refused(stale, 409)["current"]["revision"] == 2
    assert client.post("/api/jobs/999/designs", json=body(0)).status_code == 404


def test_what_is_tried_moves_and_is_not_kept(client: TestClient) -> None:
    tried = {"wanted_rpm": [140, 220, 300, 330], "design": {"method": "phase-angle", "fired_by": "table"}}
    live = client.post(f"/api/jobs/{BUNK}/live", json=tried).json()
    assert live["method"] == "phase-angle"
    assert [m["predicted"]["value"] for m in live["marks"]] == pytest.approx([140, 220, 300, 329.6], abs=0.5)
    fixed = {"design": {"method": "phase-angle", "angles": ["110", "95", "80", "0"]}}
    live = client.post(f"/api/jobs/{BUNK}/live", json=fixed).json()
    assert [m["label"] for m in live["marks"]] == ["110°", "95°", "80°", "full on"]
    shown = client.post(f"/api/jobs/{BUNK}/phase", json={**fixed, "step": 2}).json()
    assert shown["wave"]["firing_deg"] == 95
    assert page(client)["design"] is None


def test_edits_of_the_last_version_that_waited_in_a_browser_are_taken(client: TestClient) -> None:
    """Their bodies are flat, a control has an address of its own, and a kick was called otherwise."""
    after = page(client)["last_revision"]
    flat = {"after_revision": after, "who": WHO, "name": "waited", "starts_full": True}
    found = client.post(f"/api/jobs/{BUNK}/controls", json=flat)
    assert found.status_code == 201, found.text
    design = found.json()["design"]
    assert (design["method"], design["name"], design["design"]["kick"]) == ("phase-angle", "waited", True)
    bank = {"capacitors": [{"value": "1u8"}, {"value": "2u7"}], "patterns": ["A", "B", "A∥B", "direct"]}
    found = client.post(f"/api/jobs/{BUNK}/designs", json={"after_revision": after + 1, "who": WHO, **bank})
    assert found.status_code == 201, found.text
    assert found.json()["design"]["method"] == "series-capacitor"
    for tried in ({"bank": bank}, {"control": {"starts_full": True}}):
        live = client.post(f"/api/jobs/{BUNK}/live", json=tried)
        assert live.status_code == 200, live.text
        assert live.json()["method"] == ("series-capacitor" if "bank" in tried else "phase-angle")


def test_the_job_is_aimed_with_the_method_that_is_picked(client: TestClient) -> None:
    start = page(client)
    assert start["frame"]["method"] == "series-capacitor"
    body = {"version": start["job"]["version"], "sizing": {"method": "phase-angle"}, "who": WHO}
    found = client.patch(f"/api/jobs/{BUNK}", json=body).json()
    assert found["frame"]["method"] == "phase-angle"
    assert found["frame"]["aims"][0]["needed_text"] == "126°"
    assert found["frame"]["marks"][0]["at"] == pytest.approx(126, abs=1)
    assert found["frame"]["waits_for"] == "phase-angle control to be sized"
    # What else was decided for sizing stays, and undo brings the capacitor back.
    assert found["sizing"]["method"] == "phase-angle"
    assert found["sizing"]["switch"]["positions"] == start["sizing"]["switch"]["positions"]
    client.post(f"/api/jobs/{BUNK}/undo", json={"who": WHO})
    assert page(client)["frame"]["method"] == "series-capacitor"
    refused(
        client.patch(
            f"/api/jobs/{BUNK}", json={"version": page(client)["job"]["version"], "sizing": {"method": "pwm"}}
        ),
        422,
        "sizing.method",
    )


def test_the_old_humming_control_is_a_design_of_its_job_and_can_stand_again(client: TestClient) -> None:
    (old,) = page(client)["designs"]
    assert old["name"] == "old humming control, as found"
    assert not old["stands"]
    assert "without fuse and suppression and snubber" in old["text"]
    bank = {"after_revision": 2, "who": WHO, **pair("1u8", "2u7", "A", "B", "A∥B", "direct")}
    assert client.post(f"/api/jobs/{BUNK}/designs", json=bank).status_code == 201
    lines = page(client)["designs"]
    assert [(line["method"], line["stands"]) for line in lines] == [
        ("series-capacitor", True),
        ("phase-angle", False),
    ]
    url = f"/api/jobs/{BUNK}/designs/{old['id']}/again"
    refused(client.post(url, json={"after_revision": 2}), 409)
    found = client.post(url, json={"after_revision": 3, "who": WHO}).json()
    assert found["design"]["name"] == old["name"]
    # With its readings: one half fires later than the other, which is what hums.
    rows = {(r["step"], r["quantity"]): r for r in found["frame"]["proofs"]}
    assert rows[1, "symmetry_deg"]["verdict"] == "fail"
    assert "worn diac" in rows[1, "symmetry_deg"]["words"]
    assert found["frame"]["waits_kind"] == "fault"
    assert [line["stands"] for line in found["designs"]] == [False, True]
    undone = client.post(f"/api/jobs/{BUNK}/undo", json={"who": WHO}).json()
    assert undone["design"]["method"] == "series-capacitor"
    assert (
        client.post(f"/api/jobs/{READING}/designs/{old['id']}/again", json={"after_revision": 1}).status_code
        == 404
    )


# ---------------------------------------------------------------- captures


def test_a_capture_is_read_laid_over_and_kept_as_readings(client: TestClient) -> None:
    data = trace_csv(1)
    answer = capture(client, data)
    assert answer.status_code == 200, answer.text
    read = answer.json()
    assert read["kept"] == []
    values = {f["quantity"]: f["value"] for f in read["shown"]["found"] if f["quantity"]}
    assert values["firing_angle_deg"] == pytest.approx(108.8, abs=0.5)
    assert len(read["shown"]["theta_deg"]) == len(read["shown"]["motor_v"]) > 200
    assert not [r for r in page(client, DRYING)["frame"]["proofs"] if r["step"] == 1 and r["verdict"]]
    kept = capture(client, data, take=True, name="lodge.csv").json()
    assert len(kept["kept"]) == 5
    assert kept["not_kept"] == []
    now = page(client, DRYING)
    rows = {r["quantity"]: r for r in now["frame"]["proofs"] if r["step"] == 1 and r["verdict"]}
    assert set(rows) == {
        "motor_voltage_v",
        "firing_angle_deg",
        "extinction_angle_deg",
        "symmetry_deg",
        "frequency_hz",
    }
    assert {r["verdict"] for r in rows.values()} == {"pass"}
    assert now["history"]["undo"] == "readings of a capture at step 1"
    (stored,) = client.get(f"/api/jobs/{DRYING}/captures", params={"step": 1}).json()
    assert stored["name"] == "lodge.csv"
    assert stored["shown"] == kept["shown"]
    # A second one supersedes the readings; nothing is overwritten.
    assert capture(client, trace_csv(1, 9.0), take=True).status_code == 200
    later = page(client, DRYING)
    row = next(r for r in later["frame"]["proofs"] if r["step"] == 1 and r["quantity"] == "firing_angle_deg")
    assert row["verdict"] == "fail"
    taken = [r for r in later["readings"] if r["step"] == 1 and r["quantity"] == "firing_angle_deg"]
    assert len(taken) == 2
    assert taken[1]["supersedes"] == taken[0]["id"]
    client.post(f"/api/jobs/{DRYING}/undo", json={"who": WHO})
    back = next(
        r
        for r in page(client, DRYING)["frame"]["proofs"]
        if r["step"] == 1 and r["quantity"] == "firing_angle_deg"
    )
    assert back["verdict"] == "pass"
    report = client.get(f"/api/jobs/{DRYING}/report.html").text
    assert "step 1, firing angle" in report


def test_a_capture_that_is_none_or_belongs_nowhere_is_refused(client: TestClient) -> None:
    refused(capture(client, b"step;speed\n1;2\n"), 422, "file")
    refused(capture(client, b""), 422, "file")
    refused(capture(client, trace_csv(1), probe="lots"), 422, "probe")
    assert capture(client, trace_csv(1), step=9).status_code == 422
    assert capture(client, trace_csv(1), job=999).status_code == 404
    # A bank has no firing angle; without a regulator there is nothing to keep a reading with.
    refused(capture(client, trace_csv(1), job=BUNK, take=True), 422, "step")
    flat = "t,v\n" + "\n".join(
        f"{i / 50000:.6f},{325 * np.sin(2 * np.pi * i / 1000):.2f}" for i in range(4000)
    )
    shown = capture(client, flat.encode()).json()["shown"]
    assert "no firing is seen" in " ".join(shown["words"])


def test_keeping_a_capture_waits_for_its_caution(client: TestClient) -> None:
    choose(client)
    problem = refused(capture(client, trace_csv(1), job=BUNK, take=True), 403)
    assert problem["field"] == "line-potential"
    assert client.get(f"/api/jobs/{BUNK}/captures", params={"step": 1}).json() == []


# ---------------------------------------------------------------- hand over


def test_hand_over_has_scale_program_parts_and_comes_back_whole(client: TestClient) -> None:
    knob = client.get(f"/api/jobs/{DRYING}/report.html").text
    for needed in (
        "Scale of the knob",
        "knob at 17 %",
        "500 kΩ",
        "diac",
        "Connections",
        "set at",
        "step 2, firing angle",
    ):
        assert needed in knob, needed
    waves = client.get(f"/api/jobs/{DRYING}/waves.svg").text
    assert waves.count("fires at") == 3
    assert "step 2, fires at 99.2°" in waves
    assert "Waveforms" in knob
    refused(client.get(f"/api/jobs/{READING}/waves.svg"), 404)
    signed = client.post(f"/api/jobs/{DRYING}/handovers", json={"who": WHO}).json()
    number = signed["handovers"][0]["id"]
    assert (
        "Scale of the knob" in client.get(f"/api/jobs/{DRYING}/report.html", params={"signed": number}).text
    )
    bundle = client.get(f"/api/jobs/{DRYING}/bundle.json").content
    made = client.post(
        "/api/jobs/import", content=bundle, headers={"content-type": "application/json"}
    ).json()
    copy = made["job"]["id"]
    assert client.get(f"/api/jobs/{copy}/bundle.json").content == bundle
    assert made["frame"]["marks"] == page(client, DRYING)["frame"]["marks"]
    assert len(client.get(f"/api/jobs/{copy}/captures", params={"step": 2}).json()) == 1
    spoilt = json.loads(bundle)
    spoilt["captures"][0]["design"] = 7
    answer = client.post(
        "/api/jobs/import", content=json.dumps(spoilt), headers={"content-type": "application/json"}
    )
    refused(answer, 422, "file")
    choose(client)
    program = client.get(f"/api/jobs/{BUNK}/report.html").text
    for needed in ("What the program keeps to", "no zero for two half-cycles", "delay 7.01 ms", "opto-triac"):
        assert needed in program, needed
    label = client.get(f"/api/jobs/{BUNK}/label.html").text
    assert "delay 7.01 ms" in label


def test_the_firing_table_is_on_screen_and_counts_from_the_chosen_edge(client: TestClient) -> None:
    url = f"/api/jobs/{BUNK}/firing"
    plain = client.get(url, params={"steps": 8}).json()
    assert len(plain["rows"]) == 8
    assert any("no zero for two half-cycles" in n for n in plain["notes"])
    rising = client.get(url, params={"steps": 8, "edge": "rising", "lag": "100"}).json()
    more = [b["delay_us"] - a["delay_us"] for a, b in zip(plain["rows"], rising["rows"], strict=True)]
    assert more == pytest.approx([more[0]] * 8)
    train = client.get(url, params={"steps": 8, "pulse": "train"}).json()
    assert train["rows"][-1]["firing_deg"] < plain["rows"][-1]["firing_deg"]
    kicked = client.get(url, params={"steps": 8, "kick": True}).json()
    unkicked = client.get(url, params={"steps": 8, "kick": False}).json()
    assert not kicked["rows"][0]["starts"]
    assert unkicked["rows"][0]["starts"]
    slow = client.get(url, params={"steps": 8, "latching": "200mA"}).json()
    assert slow["rows"][0]["gate_us"] > 3 * plain["rows"][0]["gate_us"]
    refused(client.get(url, params={"lag": "late"}), 422, "unit.lag")
    refused(client.get(url, params={"spacing": "steps"}), 422, "spacing")
    choose(client)
    angles = [float(a) for a in page(client)["design"]["design"]["angles"]]
    rows = client.get(url, params={"spacing": "steps"}).json()["rows"]
    assert [r["firing_deg"] for r in rows[:3]] == pytest.approx(angles[:3])
    text = client.get(url + ".h", params={"spacing": "steps"}).text
    assert "#define FAN_STEPS 4u" in text
