"""Wire through the API: a circuit begun, changed, ticked, read, exchanged, exported; nonsense is answered."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from fenwit.core.circuit.wiring.edits import Deed, Edit, edited
from fenwit.core.circuit.wiring.templates import TEMPLATES, Facts, filled

Json = dict[str, Any]
HALL, WARM, GALLERY, READING_ROOM, RETURN_AIR = 4, 13, 14, 2, 7


def wire(client: TestClient, job: int) -> Json:
    answer = client.get(f"/api/jobs/{job}/wire")
    assert answer.status_code == 200, answer.text
    found: Json = answer.json()
    return found


def edit(client: TestClient, job: int, **change: Any) -> Any:
    version = client.get(f"/api/jobs/{job}").json()["job"]["version"]
    return client.patch(f"/api/jobs/{job}", json={"version": version, "wiring": change, "who": "R. Fell"})


def take(client: TestClient, job: int, read: Json, text: str) -> Any:
    return client.post(
        f"/api/jobs/{job}/wire/readings",
        json={"what": read["key"], "text": text, "supersedes": read["reading_id"], "who": "R. Fell"},
    )


def dead(page: Json, first: str, stand: str = "") -> Json:
    found: Json = next(d for d in page["dead"] if d["first"] == first and d["stand"] == stand)
    return found


def test_a_job_without_a_circuit_offers_what_to_begin_with(client: TestClient) -> None:
    page = wire(client, READING_ROOM)
    assert page["sheet"] is None
    assert {t["key"] for t in page["templates"]} == {t.key for t in TEMPLATES}
    assert edit(client, READING_ROOM, template="as-sized").status_code == 200
    begun = wire(client, READING_ROOM)
    cells = [row["cells"][0] for row in begun["rows"]]
    assert cells == ["Off", "1", "2", "3", "4"]
    assert begun["hazards"] == []
    assert begun["rows"][1]["runs"][0]["words"].startswith("RUN")


def test_every_template_is_filled_and_sound(client: TestClient) -> None:
    for t in TEMPLATES:
        assert edit(client, HALL, template=t.key).status_code == 200
        page = wire(client, HALL)
        assert page["hazards"] == []
        assert page["connections"]
        assert page["problems"] == []
    assert edit(client, HALL, template="nowhere").status_code == 422


def test_order_of_nets_outlives_saving_and_undoing(client: TestClient) -> None:
    first = wire(client, WARM)
    assert first["columns"] == ["DOOR", "LIM", "TH.heat", "TH.cool", "TH.fan"]
    assert edit(client, WARM, deed="rename-net", what="fed", to="fed 2").status_code == 200
    assert client.post(f"/api/jobs/{WARM}/undo", json={"who": "R. Fell"}).status_code == 200
    assert wire(client, WARM)["document"] == first["document"]
    assert list(wire(client, WARM)["document"]["nets"]) == list(first["document"]["nets"])


def test_a_swapped_wire_is_found_by_its_ohms(client: TestClient) -> None:
    page = wire(client, GALLERY)
    assert page["diagnosis"] is None
    assert take(client, GALLERY, dead(page, "T.OUT", "SW low")["read"], "11.6").status_code == 201
    page = wire(client, GALLERY)
    assert dead(page, "T.OUT", "SW low")["read"]["agreement"] == "contradicts"
    assert page["diagnosis"]["suspects"][0]["words"] in ("SW.1 and SW.2 swapped", "M.HI and M.LO swapped")
    assert page["diagnosis"]["next_words"] == "T.OUT to S.N, SW high"
    assert take(client, GALLERY, dead(page, "T.OUT", "SW high")["read"], "17.5").status_code == 201
    shares = [s["share"] for s in wire(client, GALLERY)["diagnosis"]["suspects"]]
    assert shares[:2] == ["50 %", "50 %"]
    # Taken back, it is gone; a number that is none is refused beside the field.
    read = dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]
    assert take(client, GALLERY, read, "").status_code == 201
    assert dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]["text"] == ""
    read = dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]
    refused = take(client, GALLERY, read, "<b>soon</b>")
    assert refused.status_code == 422
    assert refused.json()["field"] == "text"


def test_ticks_follow_their_wire(client: TestClient) -> None:
    page = wire(client, HALL)
    first = page["connections"][0]
    assert take(client, HALL, first["read"], "yes").status_code == 201
    assert edit(client, HALL, deed="add", what="lamp", to="H1").status_code == 200
    assert edit(client, HALL, deed="join", what="h1.1", to="high").status_code == 200
    assert edit(client, HALL, deed="join", what="H1.2", to="neutral").status_code == 200
    page = wire(client, HALL)
    same = next(c for c in page["connections"] if (c["start"], c["end"]) == (first["start"], first["end"]))
    assert same["read"]["text"] == "yes"
    assert "R. Fell" in same["read"]["told"]
    assert "back-fed" in {h["kind"] for h in page["hazards"]}
    stale = take(client, HALL, first["read"], "no")
    assert stale.status_code == 409


def test_an_edit_that_cannot_be_is_refused_and_nothing_is_lost(client: TestClient) -> None:
    before = wire(client, HALL)["document"]
    for change, field in (
        ({"deed": "join", "what": "K1.COM", "to": "M.XX"}, "to"),
        ({"deed": "join", "what": "nobody", "to": "M.HI"}, "what"),
        ({"deed": "free", "what": "M.CAP"}, "what"),
        ({"deed": "add", "what": "chopper"}, "what"),
        ({"deed": "add", "what": "lamp", "to": "a.b"}, "to"),
        ({"deed": "rename", "what": "K1", "to": "M"}, "to"),
        ({"deed": "set", "what": "K1", "key": "volts", "to": "24 A"}, "to"),
        ({"deed": "set", "what": "K1", "key": "colour", "to": "red"}, "key"),
        ({"deed": "put", "what": "K1", "body": {"kind": "relay"}}, "volts"),
        ({"document": {"format": "something/1"}}, "format"),
        ({"document": {"format": "fenwit-circuit/1", "parts": [{"id": "x" * 99, "kind": "box"}]}}, "id"),
    ):
        answer = edit(client, HALL, **change)
        assert answer.status_code == 422, change
        assert field in answer.json()["field"], change
    assert wire(client, HALL)["document"] == before


def test_renaming_takes_everything_along(client: TestClient) -> None:
    assert edit(client, WARM, deed="rename", what="TH", to="T9").status_code == 200
    assert edit(client, WARM, deed="rename", what="M", to="blower").status_code == 200
    page = wire(client, WARM)
    assert "T9.heat" in page["columns"]
    assert page["exchange"]["failures"] == []
    assert edit(client, WARM, deed="remove", what="T9").status_code == 200
    assert wire(client, WARM)["exchange"] is None


def test_a_failing_call_of_an_exchange_is_mended(client: TestClient) -> None:
    document = wire(client, WARM)["document"]
    document["parts"][9]["calls"] = {"heat": ["W"], "cool": ["G"], "fan": ["G"]}
    document["nets"]["y"].remove("TH.Y")
    assert edit(client, WARM, document=document).status_code == 200
    failing = wire(client, WARM)["exchange"]
    assert failing["failures"]
    document["parts"][9]["calls"]["cool"] = ["Y", "G"]
    document["nets"]["y"].append("TH.Y")
    assert edit(client, WARM, document=document).status_code == 200
    mended = wire(client, WARM)["exchange"]
    assert mended["failures"] == []
    assert edit(client, WARM, document=mended["document"]).status_code == 200
    taken = wire(client, WARM)
    assert taken["exchange"] is None
    assert taken["hazards"] == []
    assert any(r["part"] == "X" and "1100 rpm" in r["words"] for row in taken["rows"] for r in row["runs"])


def test_a_call_is_played_one_contact_at_a_time(client: TestClient) -> None:
    moments = client.get(f"/api/jobs/{HALL}/wire/way?start=0&end=1").json()
    assert len(moments) > 3
    assert "low" in moments[0]["alive"]
    assert "high" in moments[-1]["alive"]
    assert any("low" not in m["alive"] and "high" not in m["alive"] for m in moments)
    assert client.get(f"/api/jobs/{HALL}/wire/way?start=0&end=99").status_code == 422
    late = client.get(f"/api/jobs/{WARM}/wire/way?start=12&end=16").json()
    assert 30 in [m["for_s"] for m in late]


def test_a_call_says_which_speed_and_air_its_tap_gives(client: TestClient) -> None:
    version = client.get(f"/api/jobs/{RETURN_AIR}").json()["job"]["version"]
    air = {"full_flow_m3_s": "900 m³/h", "heat_w": "6 kW"}
    assert client.patch(f"/api/jobs/{RETURN_AIR}", json={"version": version, "air": air}).status_code == 200
    assert edit(client, RETURN_AIR, template="relay-centre").status_code == 200
    low, high = (row["air"][0] for row in wire(client, RETURN_AIR)["rows"])
    assert low.startswith("M: about 11")
    assert high.startswith("M: about 12")
    assert "m³/h" in high
    assert " K" in high


def test_files_and_paper_tell_the_same(client: TestClient) -> None:
    page = wire(client, GALLERY)
    take(client, GALLERY, page["connections"][0]["read"], "yes")
    take(client, GALLERY, dead(page, "T.OUT", "SW low")["read"], "17k5")
    get = lambda name: client.get(f"/api/jobs/{GALLERY}/wire/{name}")  # noqa: E731
    assert json.loads(get("circuit.json").text) == page["document"]
    assert get("drawing.svg").text.count("<svg") == 1
    assert "B1.PE;M.PE" in get("connections.csv").text
    assert "R. Fell" in get("connections.csv").text
    assert "W2;wall box;attic;earth;joined" in get("cables.csv").text
    assert "17.5 kΩ" in get("dead-tests.csv").text
    assert get("truth-table.csv").text.splitlines()[3].startswith("run;low;LO")
    assert get("anything.pdf").status_code == 404
    paper = client.get(f"/api/jobs/{GALLERY}/report.html").text
    assert "Every call" in paper
    assert "B1.PE to M.PE" in paper
    bundle = client.get(f"/api/jobs/{GALLERY}/bundle.json").json()
    assert list(bundle["job"]["wiring"]["nets"]) == list(page["document"]["nets"])


def test_markup_in_names_is_text(client: TestClient) -> None:
    assert edit(client, HALL, deed="rename", what="K1", to="<b>K</b>").status_code == 422
    assert edit(client, HALL, deed="rename", what="K1", to="<i>").status_code == 200
    assert "<i>" not in client.get(f"/api/jobs/{HALL}/wire/drawing.svg").text
    assert "<i>.COM" not in client.get(f"/api/jobs/{HALL}/report.html").text


@pytest.mark.parametrize("key", [t.key for t in TEMPLATES])
def test_leads_that_were_found_take_the_place_of_the_usual_names(key: str) -> None:
    document = next(t.document for t in TEMPLATES if t.key == key)
    sections = (("wht", "blk", 9.0), ("blk", "blu", 3.0), ("blu", "red", 4.0))
    made = filled(document, Facts(120.0, 60.0, "wht", ("blk", "blu", "red"), "brn", sections, 300.0))
    motors = [p for p in made["parts"] if p["kind"] == "motor"]
    for motor in motors:
        assert motor["taps"] == ["blk", "blu", "red"]
        assert motor["volts"] == 120.0
        assert motor["sections"][0] == ["wht", "blk", 9.0]
        wired = {t for joined in made["nets"].values() for t in joined if t.startswith(f"{motor['id']}.")}
        assert {f"{motor['id']}.wht", f"{motor['id']}.blk"} <= wired
    assert all(p["volts"] == 120.0 for p in made["parts"] if p["kind"] == "supply")


def test_deeds_on_an_empty_circuit() -> None:
    made: Json = {}
    for deed in (
        Edit(Deed.ADD, "supply"), Edit(Deed.ADD, "lamp"), Edit(Deed.JOIN, "H1.1", "S1.L"),
        Edit(Deed.JOIN, "H1.2", "S1.N"), Edit(Deed.SET, "H1", "115", "volts"), Edit(Deed.MOVE, "H1", "up"),
    ):  # fmt: skip
        made = edited(made, deed)
    assert [p["id"] for p in made["parts"]] == ["H1", "S1"]
    assert made["parts"][0]["volts"] == 115.0
    assert made["nets"] == {"l": ["S1.L", "H1.1"], "n": ["S1.N", "H1.2"]}
    made = edited(made, Edit(Deed.FREE, "H1.1"))
    assert made["nets"] == {"n": ["S1.N", "H1.2"]}
