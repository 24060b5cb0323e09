"""What a fan holds, its order of work and its devices through the door: typed, refused beside the field, kept, undone."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from fenwit.bench.ecfan import EcFan
from fenwit.bench.servers import modbus_tcp
from fenwit.bench.simulated import exhaust
from fenwit.web import devices
from tests.web.test_api import CSV, page, refused
from tests.web.test_inspect import BUNK, patch

RACK, EXHAUST, CORRIDOR = 9, 11, 12


def shown(client: TestClient, job: int, **edit: Any) -> Any:
    answer = client.post(f"/api/jobs/{job}/hold", json=edit) if edit else client.get(f"/api/jobs/{job}/hold")
    assert answer.status_code == 200, answer.text
    return answer.json()


def typed(client: TestClient, job: int, part: str, **more: Any) -> dict[str, Any]:
    return {part: {**shown(client, job)["typed"][part], **more}}


# ---------------------------------------------------------------- loop


def test_the_exhaust_holds_its_flow_and_the_loop_is_tuned(client: TestClient) -> None:
    loop = shown(client, EXHAUST)["shown"]["loop"]
    figures = {f["name"]: f["text"] for f in loop["figures"]}
    assert figures["settled within 2 % after"] == "10.0 s"
    assert loop["advice"][0]["kind"] == "well"
    assert {o["name"] for o in loop["others"]} == {"constant speed", "constant flow", "constant pressure"}
    assert loop["tuned"]["gain"] == "1.21"
    assert any("± 18 % of the flow" in w for w in loop["sensor"])
    # Dragged elsewhere nothing is kept.
    wild = shown(client, EXHAUST, **typed(client, EXHAUST, "loop", gain="3", integral="0.4 s"))["shown"][
        "loop"
    ]
    assert {"hunts", "unstable"} <= {a["kind"] for a in wild["advice"]}
    assert shown(client, EXHAUST)["typed"]["loop"]["gain"] == "1.2"
    kept = patch(
        client, EXHAUST, hold=typed(client, EXHAUST, "loop", gain="0.8", integral="5 s"), who="R. Fell"
    )
    assert kept.status_code == 200
    assert shown(client, EXHAUST)["typed"]["loop"]["gain"] == "0.8"
    assert client.post(f"/api/jobs/{EXHAUST}/undo", json={"who": "R. Fell"}).status_code == 200
    assert shown(client, EXHAUST)["typed"]["loop"]["gain"] == "1.2"


@pytest.mark.parametrize(
    ("edit", "field", "words"),
    [
        ({"set_point": "1400 m³/h"}, "hold.loop.set_point", "full speed"),
        ({"set_point": "lots"}, "hold.loop.set_point", ""),
        ({"least": "20 %"}, "hold.loop.least", "safety asks for"),
        ({"range_high": "2 V"}, "hold.loop.range_high", "nothing tells nothing"),
        ({"low": "300 Pa"}, "hold.loop.high", "mean the same"),
        ({"integral": "0 s"}, "hold.loop.integral", ""),
        ({"gain": "-1"}, "hold.loop.gain", ""),
        ({"damper_back": "5 s"}, "hold.loop.damper_back", "come back"),
        ({"total": "400 h"}, "hold.loop.total", ""),
        ({"sample": "1 ms", "total": "1 h"}, "hold.loop.total", "samples"),
        ({"held": "pressure", "set_point": "4000 Pa"}, "hold.loop.set_point", "full speed"),
    ],
)
def test_what_cannot_be_held_is_refused_beside_its_field(
    client: TestClient, edit: dict[str, str], field: str, words: str
) -> None:
    before = page(client, EXHAUST)["job"]["version"]
    problem = refused(patch(client, EXHAUST, hold=typed(client, EXHAUST, "loop", **edit)), 422, field)
    assert words in problem["detail"]
    assert page(client, EXHAUST)["job"]["version"] == before


def test_a_reversed_sensor_is_answered_not_refused(client: TestClient) -> None:
    loop = shown(client, EXHAUST, **typed(client, EXHAUST, "loop", reversed=True))["shown"]["loop"]
    assert [a["kind"] for a in loop["advice"]] == ["unstable"]
    assert "change its tubes" in loop["advice"][0]["words"]


def test_a_step_test_typed_and_from_a_file(client: TestClient) -> None:
    t = np.arange(0.0, 40.0, 1.0)
    y = 800 + 90 * -np.expm1(-np.maximum(0, t - 1) / 3.0)
    rows = "\n".join(f"{a:g} {b:.2f}" for a, b in zip(t, y, strict=True))
    path = f"/api/jobs/{EXHAUST}/hold/step-test"
    found = client.post(path, json={"rows": rows, "step": "10 %"}).json()
    assert "lag 3." in found["words"]
    file = "time (s);flow (m3/h)\n" + rows.replace(" ", ";")
    assert client.post(f"{path}/import", content=file, headers=CSV).json()["rows"].startswith("0 800")
    backwards = refused(
        client.post(path, json={"rows": "0 1\n1 2\n0.5 3\n2 4\n3 5\n4 5", "step": "10 %"}), 422, "rows"
    )
    assert "backwards" in backwards["detail"]
    refused(client.post(path, json={"rows": rows, "step": "0 %"}), 422, "step")
    refused(client.post(path, json={"rows": "a b c", "step": "10 %"}), 422, "rows")
    refused(client.post(f"{path}/import", content="moon;sun\n1;2", headers=CSV), 422, "file")


# ---------------------------------------------------------------- heat


def test_the_rack_rests_when_idle(client: TestClient) -> None:
    heat = shown(client, RACK)["shown"]["heat"]
    assert heat["speed"]["values"][0] is None
    assert heat["starts_s"]
    assert heat["advice"][0]["kind"] == "well"
    assert heat["sinks"][0]["margin_text"].endswith("below its limit")
    assert heat["sinks"][0]["steady"][0].startswith("3.5 W: fan off")
    # A second sink: shared and one each, beside each other.
    sinks = shown(client, RACK)["typed"]["heat"]["sinks"]
    two = shown(
        client,
        RACK,
        **typed(client, RACK, "heat", sinks=[*sinks, {**sinks[0], "name": "detector", "load": "20 W 1 h"}]),
    )
    assert [r["name"] for r in two["shown"]["heat"]["runs"]] == ["one controller, hottest sensor", "one each"]
    assert two["shown"]["heat"]["sinks"][1]["alone"]["values"]
    turned = shown(client, RACK, **typed(client, RACK, "heat", turned=True))["shown"]["heat"]
    assert [s["name"] for s in turned["scales"]] == ["start", "full"]
    text = client.get(f"/api/jobs/{RACK}/curve.h").text
    assert "#define FAN_START_CC 3200" in text
    assert text.isascii()
    assert "temperature" in client.get(f"/api/jobs/{RACK}/curve.csv").text
    refused(client.get(f"/api/jobs/{EXHAUST}/curve.h"), 422, "hold")


@pytest.mark.parametrize(
    ("edit", "field", "words"),
    [
        ({"full": "30 °C"}, "hold.heat.full", "not above"),
        ({"hysteresis": "0 K"}, "hold.heat.hysteresis", "without end"),
        ({"least": "5 %"}, "hold.heat.least", "slower than this fan"),
        ({"turned": True, "full": "35 °C"}, "hold.heat.full", "closer"),
        ({"warmest": "10 °C"}, "hold.heat.warmest", "warmer already"),
        ({"sinks": []}, "hold.heat.sinks", ""),
        ({"total": "1000 h"}, "hold.heat.total", ""),
        ({"r25": "lots"}, "hold.heat.r25", ""),
    ],
)
def test_a_curve_that_cannot_be_is_refused_beside_its_field(
    client: TestClient, edit: dict[str, Any], field: str, words: str
) -> None:
    problem = refused(patch(client, RACK, hold=typed(client, RACK, "heat", **edit)), 422, field)
    assert words in problem["detail"]


@pytest.mark.parametrize(
    ("load", "words"),
    [
        ("900 W 1 h", "no fan carries it"),
        ("40 W", "line 1: two numbers"),
        ("40 W 4 min\n2 V 3 s", "line 2"),
        ("40 W -3 s", ""),
    ],
)
def test_a_load_that_no_fan_carries(client: TestClient, load: str, words: str) -> None:
    sinks = [{**shown(client, RACK)["typed"]["heat"]["sinks"][0], "load": load}]
    answer = patch(client, RACK, hold=typed(client, RACK, "heat", sinks=sinks))
    problem = refused(answer, 422)
    assert problem["field"] in ("hold.heat.sinks", "hold.heat.sinks[0].load")
    assert words in problem["detail"]


def test_loads_and_logs_from_files(client: TestClient) -> None:
    path = f"/api/jobs/{RACK}/hold"
    rows = client.post(
        f"{path}/load/import", content="time (s);power (W)\n0;40\n240;2\n280;0\n", headers=CSV
    ).json()["rows"]
    assert rows == "40 W 240 s\n2 W 40 s"
    assert (
        "backwards"
        in refused(client.post(f"{path}/load/import", content="time;power\n0;40\n-1;2\n", headers=CSV), 422)[
            "detail"
        ]
    )
    lines, at = ["time (s);sink (C);speed (%);power (W)"], 24.0
    for i in range(240):
        speed = 80 if 60 < i < 120 else 0
        power = 30 if i < 170 else 0
        lines.append(f"{10 * i};{at:.3f};{speed};{power}")
        g = 1 / 2.4 + ((speed / 100) ** 0.6 / 0.55 if speed else 0)
        at = 24 + power / g + (at - 24 - power / g) * math.exp(-10 * g / 180)
    found = client.post(
        f"{path}/sink/import", params={"ambient": "24 °C"}, content="\n".join(lines), headers=CSV
    ).json()
    assert float(found["natural"].split()[0]) == pytest.approx(2.4, rel=0.01)
    assert float(found["forced"].split()[0]) == pytest.approx(0.55, rel=0.01)
    swapped = [lines[0], lines[3], lines[2], *lines[4:]]
    assert (
        "backwards"
        in refused(client.post(f"{path}/sink/import", content="\n".join(swapped), headers=CSV), 422)["detail"]
    )
    refused(client.post(f"{path}/sink/import", content="\n".join(lines[:40]), headers=CSV), 422, "file")


def test_only_a_commanded_fan_holds_anything(client: TestClient) -> None:
    assert "hold" not in [s["key"] for s in page(client, BUNK)["stages"]]
    assert "hold" in [s["key"] for s in page(client, RACK)["stages"]]
    assert shown(client, CORRIDOR)["shown"]["note"].startswith("Nothing is held")


def test_safety_asks_for_air_that_no_step_may_lack(client: TestClient) -> None:
    version = page(client, EXHAUST)["job"]["version"]
    slow = client.put(
        f"/api/jobs/{EXHAUST}/steps", json={"version": version, "wanted": ["500 rpm", "1900", "2790"]}
    )
    problem = refused(slow, 422, "wanted[0]")
    assert "270 m³/h" in problem["detail"]
    design = page(client, EXHAUST)["design"]["design"]
    live = client.post(
        f"/api/jobs/{EXHAUST}/live",
        json={"design": {**design, "source": "analog", "volts": ["2 V", "6.59 V", "10 V"]}},
    ).json()
    assert live["marks"][0]["verdict"] == "barred"
    assert "safety" in live["marks"][0]["reasons"][0]


# ---------------------------------------------------------------- control voltage


def test_where_the_volts_come_from(client: TestClient) -> None:
    found = client.post(f"/api/jobs/{CORRIDOR}/control", json={}).json()
    assert {(f["step"], f["fan"]) for f in found["fans"]} == {
        (s, f) for s in range(1, 5) for f in range(1, 4)
    }
    assert any(f["note"] for f in found["fans"])
    assert found["scale"][0]["rpm"] == 0
    assert any("loses its set point" in f for f in found["facts"])
    for source in ("steps", "filter", "analog"):
        other = client.post(f"/api/jobs/{CORRIDOR}/control", json={"source": source}).json()
        assert other["usual"]["source"] == source
    filtered = client.post(
        f"/api/jobs/{CORRIDOR}/control", json={"design": other["usual"] | {"source": "filter"}}
    ).json()
    assert "least to most" in filtered["filtered"]["ripple_text"]


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"volts": ["11 V", "5 V", "6 V", "7 V"]}, "volts"), ({"volts": []}, "volts"), ({"volts": ["lots"]}, "volts[0]"),
        ({"knob": {"pot": "1"}}, "knob.pot"), ({"filter": {"capacitance": "0"}}, "filter.capacitance"),
        ({"cable": {"length": "5000 m"}}, "cable.length"), ({"chain": "1"}, "chain"), ({"fuse": "9000"}, "fuse"),
        ({"followers": [{"slowest": "300", "fastest": "200"}]}, "followers[0].fastest"),
        ({"followers": [{"slowest": "300", "fastest": "1500", "low": "9 V", "high": "2 V"}]}, "followers[0].high"),
    ],
)  # fmt: skip
def test_a_control_that_cannot_be_is_refused(client: TestClient, edit: dict[str, Any], field: str) -> None:
    now = page(client, CORRIDOR)
    design = {**now["design"]["design"], **edit}
    answer = client.post(
        f"/api/jobs/{CORRIDOR}/designs", json={"after_revision": now["last_revision"], "design": design}
    )
    refused(answer, 422, field)


def test_a_map_of_volts_typed_and_read(client: TestClient) -> None:
    told = patch(
        client,
        CORRIDOR,
        commanded={"analog": {"pairs": "1.2 V 300\n5 V 760\n9.6 V 1490", "ramp_per_s": "5 %"}},
    )
    assert told.status_code == 200
    found = client.get(f"/api/jobs/{CORRIDOR}/commanded").json()
    assert "3 pairs of its data" in found["grounds"]
    assert found["typed"]["analog"]["ramp_per_s"] == "5 %"
    reversed_map = refused(
        patch(client, CORRIDOR, commanded={"analog": {"low_v": "9 V", "high_v": "2 V"}}),
        422,
        "commanded.analog.high_v",
    )
    assert "reversed" in reversed_map["detail"]
    refused(patch(client, CORRIDOR, commanded={"analog": {"pairs": "5 V"}}), 422, "commanded.analog.pairs")
    added = client.post(f"/api/jobs/{CORRIDOR}/runs", json={"what": "control", "text": "5 V"})
    assert added.status_code == 201
    refused(client.post(f"/api/jobs/{CORRIDOR}/runs", json={"what": "control", "text": "12 V"}), 422, "text")


# ---------------------------------------------------------------- the plan and devices


@pytest.fixture
def fan(monkeypatch: pytest.MonkeyPatch) -> Iterator[EcFan]:
    found = exhaust()
    with modbus_tcp(found) as port:
        monkeypatch.setenv("FENWIT_DEVICES", f"exhaust=modbus-tcp://127.0.0.1:{port}/1?simulated")
        monkeypatch.setenv("FENWIT_DEVICE_NETWORKS", "127.0.0.0/8")
        devices._named.cache_clear()
        yield found
    devices._named.cache_clear()


def plan(client: TestClient, job: int = EXHAUST) -> Any:
    return client.get(f"/api/jobs/{job}/plan").json()


def say(
    client: TestClient, line: str, key: str, text: str, supersedes: int | None = None, job: int = EXHAUST
) -> Any:
    body = {"text": text, "supersedes": supersedes, "who": "R. Fell"}
    return client.post(f"/api/jobs/{job}/plan/{line}/{key}", json=body)


def ask(line: dict[str, Any], key: str) -> Any:
    return next(a for a in line["asks"] if a["key"] == key)


def test_the_plan_is_worked_line_by_line(client: TestClient) -> None:
    assert page(client, EXHAUST)["planned"]
    first = plan(client)
    assert [x["state"] for x in first["lines"]][:2] == ["next", "open"]
    assert say(client, "look", "free", "yes").status_code == 201
    assert say(client, "look", "earth", "2").status_code == 201
    stopped = plan(client)
    assert [x["state"] for x in stopped["lines"]][:2] == ["failed", "stopped"]
    assert "painted joint" in stopped["summary"]
    refused(say(client, "dead", "track", "16k"), 422, "text")
    # A correction supersedes; without naming what it corrects it is refused as stale.
    old = ask(stopped["lines"][0], "earth")["reading_id"]
    assert say(client, "look", "earth", "0.05").status_code == 409
    assert say(client, "look", "earth", "0.05", old).status_code == 201
    assert plan(client)["lines"][0]["state"] == "done"
    assert say(client, "dead", "enable-open", "open").status_code == 201
    refused(say(client, "dead", "track", "lots"), 422, "text")
    refused(say(client, "look", "free", "maybe", 1), 422, "text")
    refused(say(client, "moon", "free", "yes"), 422, "ask")
    assert client.post(f"/api/jobs/{EXHAUST}/undo", json={"who": "R. Fell"}).status_code == 200
    assert ask(plan(client)["lines"][1], "enable-open")["text"] == ""
    # It travels with the job.
    bundle = client.get(f"/api/jobs/{EXHAUST}/bundle.json")
    assert bundle.status_code == 200
    back = client.post(
        "/api/jobs/import", content=bundle.content, headers={"content-type": "application/json"}
    )
    assert back.status_code == 201, back.text
    again = back.json()["job"]["id"]
    assert plan(client, again)["lines"][0]["state"] == "done"
    assert shown(client, again)["typed"]["loop"]["cone"] == "60"


def test_a_job_without_a_plan_says_so(client: TestClient) -> None:
    assert plan(client, BUNK)["lines"] == []
    assert not page(client, BUNK)["planned"]
    assert client.get("/api/devices").json() == []
    refused(
        client.post(f"/api/jobs/{EXHAUST}/devices/take", json={"device": "x", "quantity": "speed_rpm"}),
        422,
        "device",
    )


def take(client: TestClient, line: str, key: str) -> Any:
    lines = {x["key"]: x for x in plan(client)["lines"]}
    body = {"device": "exhaust", "supersedes": ask(lines[line], key)["reading_id"], "who": "R. Fell"}
    return client.post(f"/api/jobs/{EXHAUST}/plan/{line}/{key}/take", json=body)


def test_a_device_fills_the_plan_and_what_is_lost_never_does(client: TestClient, fan: EcFan) -> None:
    (device,) = client.get("/api/devices").json()
    assert device["simulated"]
    fan.faults.lose_next = 1
    lost = take(client, "full", "ref").json()
    assert (lost["outcome"], lost["kept"]) == ("lost", False)
    assert ask({x["key"]: x for x in plan(client)["lines"]}["full"], "ref")["text"] == ""
    good = take(client, "full", "ref").json()
    assert (good["outcome"], good["kept"]) == ("value", True)
    filled = ask({x["key"]: x for x in plan(client)["lines"]}["full"], "ref")
    assert filled["text"] == "10 V"
    assert "exhaust, input register 7" in filled["told"]
    log = client.get(f"/api/jobs/{EXHAUST}/answers").json()
    assert [a["outcome"] for a in log] == ["value", "lost"]
    fan.faults.rubbish = True
    absurd = take(client, "full", "rpm").json()
    assert (absurd["outcome"], absurd["kept"]) == ("absurd", False)
    refused(take(client, "full", "aux"), 422, "device")
    # By hand on the simulated bench, and nonsense there.
    assert (
        client.post("/api/devices/exhaust/by-hand", json={"knob": "5 V", "power": False}).status_code == 200
    )
    assert fan.analog_v == 5.0
    assert not fan.powered
    refused(client.post("/api/devices/exhaust/by-hand", json={"knob": "50 V"}), 422, "knob")
    refused(client.post("/api/devices/moon/by-hand", json={"knob": "5 V"}), 422, "device")


def test_a_device_reads_a_step_with_its_source(client: TestClient, fan: EcFan) -> None:
    fan.analog_v = 3.89
    asked = {"device": "exhaust", "quantity": "control_v", "step": 1, "who": "R. Fell"}
    found = client.post(f"/api/jobs/{EXHAUST}/devices/take", json=asked).json()
    assert found["kept"], found
    reading = page(client, EXHAUST)["readings"][-1]
    assert (reading["quantity"], reading["step"], reading["typed"]) == ("control_v", 1, "3.89 V")
    assert reading["source"] == "exhaust, input register 7"
    # A second one has to say which it corrects.
    assert client.post(f"/api/jobs/{EXHAUST}/devices/take", json=asked).status_code == 409
    refused(
        client.post(f"/api/jobs/{EXHAUST}/devices/take", json={**asked, "quantity": "moon"}), 422, "quantity"
    )


def test_a_speed_that_jumped_faster_than_a_fan_can_is_not_believed(
    client: TestClient, fan: EcFan, monkeypatch: pytest.MonkeyPatch
) -> None:
    from fenwit.bench.modbus import ModbusFan
    from fenwit.bench.taken import Channel, judged

    speeds = iter((2000.0, 60.0))

    def fake(self: ModbusFan, quantity: str) -> Any:
        return judged(
            self, Channel("speed_rpm", "speed", "rpm", 0, 6000, 5), "input register 0", next(speeds), 0.01
        )

    monkeypatch.setattr(ModbusFan, "take", fake)
    body = {"device": "exhaust", "quantity": "speed_rpm"}
    assert client.post(f"/api/jobs/{EXHAUST}/devices/take", json=body).json()["outcome"] == "value"
    second = client.post(f"/api/jobs/{EXHAUST}/devices/take", json=body).json()
    assert second["outcome"] == "absurd"
    assert "faster than it can change" in second["words"]
