"""Inspect and Choose through the door: typed, refused beside the field, kept, undone."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

BUNK, READING, DRYING, HALL, RETURN = 1, 2, 3, 4, 7


def patch(client: TestClient, job: int, **edit: Any) -> Any:
    version = page(client, job)["job"]["version"]
    return client.patch(f"/api/jobs/{job}", json={"version": version, **edit})


def board(client: TestClient, job: int, **edit: Any) -> Any:
    return patch(client, job, board=edit)


def shown(client: TestClient, job: int, suppose: str = "") -> dict[str, Any]:
    answer = client.get(f"/api/jobs/{job}/inspect", params={"suppose": suppose, "beside": True})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_a_control_from_nothing_to_its_repair(client: TestClient) -> None:
    first = shown(client, READING)
    assert first["typed"] is None
    assert len(first["shown"]["templates"]) == 6
    refused(board(client, READING, lamp="75 W"), 422, "board.topology")
    assert board(client, READING, topology="two-wire").status_code == 200
    # Nothing read yet: usual parts, and no finding of what nobody looked at.
    early = shown(client, READING)["shown"]
    assert {f["key"] for f in early["findings"]} <= {"pot-end", "narrow-range", "dead-travel", "jump"}
    assert "fuse" in early["unseen"]
    parts = [
        {"role": "end-resistor", "text": "brown,red,orange,gold"}, {"role": "knob", "text": "330k lin"},
        {"role": "timing-capacitor", "text": "823K 100V"}, {"role": "diac", "text": "30 V", "drop": "8 V"},
        {"role": "triac", "text": "4 A", "volts": "600"}, {"role": "fuse", "condition": "missing"},
        {"role": "snubber-capacitor", "text": "470"},
    ]  # fmt: skip
    assert board(client, READING, parts=parts, build={"spindle": "metal", "sense": "fan"}).status_code == 200
    found = shown(client, READING)
    typed = {p["role"]: p for p in found["typed"]["parts"]}
    assert typed["timing-capacitor"]["volts"] == "100 V DC"
    assert typed["snubber-capacitor"]["condition"] == "doubtful"
    rows = {p["key"]: p for p in found["shown"]["parts"]}
    assert [r["text"] for r in rows["snubber-capacitor"]["readings"]][:2] == ["47 pF", "470 pF"]
    assert rows["end-resistor"]["taken"] == "12 kΩ"
    assert {"no-fuse", "spindle-live"} <= {f["key"] for f in found["shown"]["findings"]}
    assert found["shown"]["spots"][5]["lamp"] == "197 V"
    # What was seen, where to look, what it was.
    assert board(client, READING, seen=["full"], looks=[{"look": "triac", "bad": True}]).status_code == 200
    search = shown(client, READING, "short:triac")["shown"]
    assert search["causes"][0]["key"] == "triac-short"
    assert search["supposed"]["spots"][10]["lamp"] == "230 V"
    assert board(client, READING, found="short:triac").status_code == 200
    mend = shown(client, READING)["shown"]["repair"]
    assert "triac" in mend["parts"][0]["what"]
    proof = [{"at": row["at"], "volts": row["expected"].split("–")[0]} for row in mend["lamp"]]
    assert board(client, READING, proof=proof).status_code == 200
    assert shown(client, READING)["shown"]["repair"]["proved"]
    # It is an edit like any other: taken back, and done again.
    assert client.post(f"/api/jobs/{READING}/undo", json={"who": "R. Fell"}).status_code == 200
    assert not shown(client, READING)["shown"]["repair"]["proved"]
    assert client.post(f"/api/jobs/{READING}/redo", json={"who": "R. Fell"}).status_code == 200
    assert board(client, READING, none=True).status_code == 200
    assert shown(client, READING)["typed"] is None


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"parts": [{"role": "knob", "text": "hello"}]}, "board.knob.text"),
        ({"parts": [{"role": "knob", "text": "0.1"}]}, "board.knob.text"),
        ({"parts": [{"role": "timing-capacitor", "text": "9e9 F"}]}, "board.timing-capacitor.text"),
        ({"parts": [{"role": "diac", "text": "2 V"}]}, "board.diac.value"),
        ({"parts": [{"role": "diac", "condition": "missing"}]}, "board.diac.condition"),
        ({"parts": [{"role": "triac", "condition": "missing"}]}, "board.triac.condition"),
        ({"parts": [{"role": "knob", "volts": "many"}]}, "board.knob.volts"),
        ({"parts": [{"role": "section", "text": "2u7"}]}, "section-1"),
        ({"lamp": "1 W"}, "board.lamp_w"),
        ({"build": {"track": "-1"}}, "board.build.track"),
        ({"limits": {"narrow": "300"}}, "board.limits.narrow"),
        ({"found": "open:transformer"}, "board.found.part"),
        ({"found": "nonsense"}, "fault"),
        ({"proof": [{"at": 0.5, "volts": "x"}]}, "board.proof[0]"),
        ({"topology": "stepped", "taps": [{"volts": "150"}, {"volts": "100"}]}, "board.taps"),
        ({"topology": "stepped", "taps": [{"volts": "100"}, {"volts": "260"}]}, "board.taps"),
        (
            {"topology": "stepped", "taps": [{"volts": "100", "ohms": "60"}, {"volts": "150", "ohms": "40"}]},
            "board.ohms",
        ),
        ({"topology": "sections", "positions": [[1], [4]]}, "board.positions"),
    ],
)
def test_nonsense_is_refused_beside_its_field_and_nothing_is_lost(
    client: TestClient, edit: dict[str, Any], field: str
) -> None:
    before = shown(client, BUNK)["typed"]
    refused(board(client, BUNK, **edit), 422, field)
    assert shown(client, BUNK)["typed"] == before


def test_a_transformer_is_told_step_by_step(client: TestClient) -> None:
    assert board(client, READING, topology="stepped").status_code == 200
    assert "no tap leads to the motor" in shown(client, READING)["shown"]["refused"]
    assert (
        board(
            client, READING, parts=[{"role": "transformer", "text": "25 VA"}], taps=[{"volts": "85 V"}]
        ).status_code
        == 200
    )
    found = shown(client, READING)["shown"]
    assert found["refused"] == ""
    assert [s["name"] for s in found["spots"]] == ["position 1"]


def test_the_drawing_and_the_netlist_of_a_control(client: TestClient) -> None:
    drawn = client.get(f"/api/jobs/{BUNK}/inspect.svg")
    assert drawn.headers["content-type"].startswith("image/svg")
    assert "500 k" in drawn.text
    net = client.get(f"/api/jobs/{BUNK}/inspect.cir", params={"at": 0.4})
    assert net.status_code == 200
    assert ".end" in net.text
    assert ".model diac_" in net.text
    refused(client.get(f"/api/jobs/{BUNK}/inspect.cir", params={"at": 1.0}), 422, "at")
    refused(client.get(f"/api/jobs/{READING}/inspect.svg"), 422, "board")
    refused(client.get(f"/api/jobs/{BUNK}/inspect", params={"suppose": "open:moon"}), 422, "fault")
    step = client.get(f"/api/jobs/{READING}/step.cir", params={"step": 2})
    assert "* step 2" in step.text
    refused(client.get(f"/api/jobs/{BUNK}/step.cir"), 422, "design")
    refused(client.get(f"/api/jobs/{READING}/step.cir", params={"step": 9}), 422, "step")


def test_the_bunk_rooms_control_beside_its_design(client: TestClient) -> None:
    found = shown(client, BUNK)["shown"]
    assert found["repair"]["said"] == "printed track cracked"
    hum = next(c for c in found["compared"] if c["name"] == "hum")
    assert (
        float(hum["after"].split()[0].replace("−", "-"))
        < float(hum["before"].split()[0].replace("−", "-")) - 10
    )
    assert found["narrows"] == "diac"


def test_a_job_travels_with_its_control(client: TestClient) -> None:
    bundle = client.get(f"/api/jobs/{BUNK}/bundle.json").json()
    assert bundle["job"]["board"]["topology"] == "two-wire"
    copy = client.post("/api/jobs/import", json=bundle)
    assert copy.status_code == 201, copy.text
    new = copy.json()["job"]["id"]
    assert shown(client, new)["typed"] == shown(client, BUNK)["typed"]
    bundle["job"]["board"]["topology"] = "nonsense"
    refused(client.post("/api/jobs/import", json=bundle), 422)


# ---------------------------------------------------------------- Choose


def test_choose_follows_the_wishes_and_says_why(client: TestClient) -> None:
    found = client.get(f"/api/jobs/{DRYING}/choose").json()
    rows = {r["key"]: r for r in found["rows"]}
    assert rows["series-capacitor"]["state"] == "refused"
    assert rows["series-capacitor"]["words"]
    assert {"series-resistor", "phase-angle"} <= {k for k, r in rows.items() if r["live"]}
    order = [r["key"] for r in found["rows"] if r["live"]]
    patch(client, DRYING, sizing={"choosing": {"wishes": ["watts"]}})
    by_watts = [r["key"] for r in client.get(f"/api/jobs/{DRYING}/choose").json()["rows"] if r["live"]]
    patch(client, DRYING, sizing={"choosing": {"wishes": ["thd"]}})
    by_thd = [r["key"] for r in client.get(f"/api/jobs/{DRYING}/choose").json()["rows"] if r["live"]]
    assert set(order) == set(by_watts) == set(by_thd)
    assert by_thd[-1] == "phase-angle"
    assert by_watts != by_thd
    quick = client.get(f"/api/jobs/{DRYING}/choose", params={"quick": True}).json()
    assert quick["pending"] is True


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"hours": ["0", "0", "0"]}, "hours"),
        ({"hours": ["10", "10", "10"]}, "hours"),
        ({"hours": ["lots", "1", "1"]}, "hours[0]"),
        ({"days": "400"}, "days"),
        ({"bands": {"hum": "wide"}}, "band.hum"),
        ({"prices": {"triac": {"cost": "-1", "litres": ""}}}, "price.triac"),
    ],
)
def test_hours_that_no_day_has_are_refused(client: TestClient, edit: dict[str, Any], field: str) -> None:
    answer = refused(patch(client, DRYING, sizing={"choosing": edit}), 422)
    assert answer["field"].startswith(field), answer
